-- How often something of a person's beside their assignments has changed: practice, pages, notes. A server that holds it
-- knows by this whether it still stands.
alter table people add column beside_at bigint not null default 0;
