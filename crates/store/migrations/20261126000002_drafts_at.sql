-- How often drafts of a work were kept: a server that holds them knows by it whether they still stand.
alter table works add column drafts_at bigint not null default 0;
