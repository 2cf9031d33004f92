-- What the pages across all of a student's work need of one work or run: its state without what was entered, written down
-- by the statement that adds the events it comes from. It is believed only at the event, the version of the assignment and
-- the form of writing that it was made at; anything else is folded anew. `green-slate rebuild` writes all of it again.
create table work_digests (
    work_id uuid primary key references works on delete cascade,
    last_event int not null,
    version int not null,
    form int not null,
    body bytea not null
) with (fillfactor = 50);

create table run_digests (
    run_id uuid primary key references practice_runs on delete cascade,
    last_event int not null,
    form int not null,
    body bytea not null
) with (fillfactor = 50);
