-- Reading pages and the skills, as they were edited in the browser: every version, the newest of each in use. What ships
-- with the application stands where there is none.
create table texts (
    id uuid primary key,
    kind text not null check (kind in ('page', 'skills')),
    -- The skill of a page; empty for the skills themselves.
    slug text not null,
    body text not null,
    saved_by uuid references people on delete set null,
    at timestamptz not null
);
create index texts_newest on texts (kind, slug, at desc);
