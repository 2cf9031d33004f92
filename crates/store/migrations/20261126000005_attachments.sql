-- Files and recordings that belong to an answer a person marks. They are named in the answer by their id; what was handed
-- in stays, whatever the student takes out of the answer afterwards.
create table attachments (
    id uuid primary key,
    work_id uuid not null references works on delete cascade,
    question int not null check (question >= 0),
    name text not null,
    media_type text not null,
    bytes bytea not null,
    added_at timestamptz not null
);
create index attachments_work on attachments (work_id, question);
