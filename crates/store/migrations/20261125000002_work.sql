-- Questions, assignments and students' work. A question's content is kept by its digest and never changed: an
-- assignment goes on meaning what it meant when it was opened. Work is an append-only list of events; drafts stand
-- beside it, newest wins. Everything of one student's work carries its work_id, so that the tables can be spread by it.
create table questions (
    id uuid primary key,
    slug text not null,
    digest bytea not null unique,
    content jsonb not null,
    loaded_at timestamptz not null
);
create index questions_slug on questions (slug, loaded_at desc);

create table assignments (
    id uuid primary key,
    class_id uuid not null references classes on delete cascade,
    slug text not null unique,
    title text not null,
    settings jsonb not null
);
create index assignments_class on assignments (class_id);

create table assignment_questions (
    assignment_id uuid not null references assignments on delete cascade,
    position int not null check (position >= 0),
    question_id uuid not null references questions,
    primary key (assignment_id, position)
);

create table works (
    id uuid primary key,
    assignment_id uuid not null references assignments on delete cascade,
    student_id uuid not null references people on delete cascade,
    unique (assignment_id, student_id)
);
create index works_student on works (student_id);

create table events (
    work_id uuid not null references works on delete cascade,
    number int not null check (number > 0),
    at timestamptz not null,
    body jsonb not null,
    primary key (work_id, number)
);

create table drafts (
    work_id uuid not null references works on delete cascade,
    question int not null check (question >= 0),
    set_number int not null check (set_number >= 0),
    part text not null,
    revision bigint not null,
    response jsonb not null,
    saved_at timestamptz not null,
    primary key (work_id, question, set_number, part)
);
