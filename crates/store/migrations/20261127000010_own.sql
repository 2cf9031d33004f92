-- What somebody gives to other programs, each kept as the hash of its token and ended at will.
-- An address to subscribe to: one's own due dates, or those of a class one teaches.
create table calendars (
    id uuid primary key,
    person_id uuid not null references people on delete cascade,
    class_id uuid references classes on delete cascade,
    token_hash bytea not null unique,
    made_at timestamptz not null
);
create unique index calendars_one
    on calendars (person_id, coalesce(class_id, '00000000-0000-0000-0000-000000000000'::uuid));

-- A personal token: other programs do in its person's name what its scopes allow.
create table api_tokens (
    id uuid primary key,
    person_id uuid not null references people on delete cascade,
    name text not null,
    token_hash bytea not null unique,
    scopes text[] not null,
    made_at timestamptz not null,
    used_at timestamptz
);
create index api_tokens_person on api_tokens (person_id);
