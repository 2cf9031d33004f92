-- Practice can be set as an assignment: the run belongs to that work then, one run a work, so that what was practised
-- before a hand-in is still there after it. And what a student has read, and which typing tasks were done: neither is
-- scored; both decide what is offered and where a page is opened again.
alter table practice_runs add column work_id uuid references works on delete cascade;
create unique index practice_runs_work on practice_runs (work_id) where work_id is not null;

create table pages_read (
    person_id uuid not null references people on delete cascade,
    skill text not null,
    step int not null check (step >= 0),
    opened_at timestamptz not null,
    read_at timestamptz,
    primary key (person_id, skill)
);

create table typing_done (
    person_id uuid not null references people on delete cascade,
    task text not null,
    done_at timestamptz not null,
    primary key (person_id, task)
);
