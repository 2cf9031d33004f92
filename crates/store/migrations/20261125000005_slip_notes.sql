-- A line of the student's own beside a slip: what went wrong. A slip is a check in a work or in a run of practice; its
-- place there names it.
create table slip_notes (
    person_id uuid not null references people on delete cascade,
    source uuid not null,
    event int not null,
    note text not null,
    written_at timestamptz not null,
    primary key (person_id, source, event)
);
