-- A starting point: a short quiz about what somebody already knows when they come into a class. An append-only list of
-- events as practice is; what it came to stands in its own row, as it is read with everything that tells a skill's score.
create table placings (
    id uuid primary key,
    class_id uuid not null references classes on delete cascade,
    person_id uuid not null references people on delete cascade,
    salt bigint not null,
    -- The skills with what each requires, as they were when it began.
    skills jsonb not null,
    started_at timestamptz not null,
    ended_at timestamptz,
    -- How likely each skill was known.
    picture jsonb,
    -- A teacher lets it be done again.
    again_at timestamptz,
    -- What stands in the fields of the open question and was not given yet.
    entered jsonb,
    entered_number int not null default 0,
    entered_revision bigint not null default 0
);
create unique index placings_under_way on placings (class_id, person_id) where ended_at is null;
create index placings_person on placings (person_id, class_id, started_at desc);

create table placing_events (
    placing_id uuid not null references placings on delete cascade,
    number int not null check (number > 0),
    at timestamptz not null,
    body jsonb not null,
    primary key (placing_id, number)
);
