-- What stands in the fields of a practice run's question and was not checked yet: closing the window must not lose it.
-- One row a run: only the newest question can be answered.
create table practice_entered (
    run_id uuid primary key references practice_runs on delete cascade,
    number int not null check (number > 0),
    entered jsonb not null,
    saved_at timestamptz not null
);
