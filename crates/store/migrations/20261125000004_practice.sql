-- Practice: endless fresh questions towards a goal. A run is one student's, and an append-only list of events as work is;
-- nothing of it touches recorded scores, but its first checks are evidence of skills.
create table practice_runs (
    id uuid primary key,
    person_id uuid not null references people on delete cascade,
    goal jsonb not null,
    started_at timestamptz not null
);
create index practice_runs_person on practice_runs (person_id, started_at desc);

create table practice_events (
    run_id uuid not null references practice_runs on delete cascade,
    number int not null check (number > 0),
    at timestamptz not null,
    body jsonb not null,
    primary key (run_id, number)
);
