-- A recording that is uploaded is written piece by piece, each for itself, so that no connection is held for as long as it takes. It is
-- found once it is whole.
alter table recordings add column whole boolean not null default true;
alter table recordings alter column whole set default false;
