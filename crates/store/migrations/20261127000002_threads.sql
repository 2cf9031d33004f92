-- What students ask of their teacher from a question, and what is said to each other about it. A message that was sent can
-- be taken back until it was read. Replies that a teacher wrote to wrong entries, for the next students who slip so.
create table threads (
    id uuid primary key,
    class_id uuid not null references classes on delete cascade,
    student_id uuid not null references people on delete cascade,
    assignment_id uuid not null references assignments on delete cascade,
    question int not null check (question >= 0),
    set_number int not null check (set_number >= 0),
    -- The check that it is about; null where nothing was checked yet.
    event int,
    kind text not null check (kind in ('ask', 'query')),
    for_class boolean not null default false,
    hidden boolean not null default false,
    -- What came of a query.
    settled text,
    opened_at timestamptz not null
);
create index threads_class on threads (class_id, opened_at desc);
create index threads_student on threads (student_id);

create table messages (
    id uuid primary key,
    thread_id uuid not null references threads on delete cascade,
    by_id uuid not null references people on delete cascade,
    at timestamptz not null,
    body text not null,
    taken_back_at timestamptz
);
create index messages_thread on messages (thread_id, at);

-- Up to when somebody has read a thread.
create table threads_read (
    thread_id uuid not null references threads on delete cascade,
    person_id uuid not null references people on delete cascade,
    read_at timestamptz not null,
    primary key (thread_id, person_id)
);

create table teacher_replies (
    id uuid primary key,
    assignment_id uuid not null references assignments on delete cascade,
    question int not null check (question >= 0),
    part text not null,
    likeness jsonb not null,
    words text not null,
    by_id uuid not null references people,
    at timestamptz not null
);
create index teacher_replies_assignment on teacher_replies (assignment_id);

-- Whether the class may see messages that are meant for it.
alter table classes add column class_sees_messages boolean not null default true;
