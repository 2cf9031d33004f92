-- Paper copies: the code that says whose one is, and the numbers that are drawn once its owner opens the work.
create table paper_copies (
    assignment_id uuid not null references assignments (id) on delete cascade,
    student_id uuid not null references people (id) on delete cascade,
    code text not null unique,
    base bigint not null,
    made_at timestamptz not null,
    primary key (assignment_id, student_id)
);

-- What was written on the paper copy of a question.
create table paper_ink (
    work_id uuid not null references works (id) on delete cascade,
    question int not null,
    revision bigint not null,
    marks jsonb not null,
    saved_at timestamptz not null,
    primary key (work_id, question)
);
