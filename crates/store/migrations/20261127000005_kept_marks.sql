-- Points that a teacher has settled on and not given out yet: they touch no score until they are released together.
create table kept_marks (
    assignment_id uuid not null references assignments on delete cascade,
    question int not null check (question >= 0),
    student_id uuid not null references people on delete cascade,
    -- The hand-in that was looked at.
    hand_in int not null,
    points double precision not null,
    parts jsonb not null default '[]',
    note text not null default '',
    by_id uuid not null references people on delete cascade,
    at timestamptz not null,
    primary key (assignment_id, question, student_id)
);
