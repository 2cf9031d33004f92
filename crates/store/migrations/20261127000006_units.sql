-- A class's material in units, in the teacher's order. They are few, and read and saved as a whole.
alter table classes add column units jsonb not null default '[]';
-- Another one after every change: who saves on an old one is told.
alter table classes add column units_version int not null default 0;

-- Recordings of a unit that somebody has heard.
create table heard (
    person_id uuid not null references people on delete cascade,
    item_id uuid not null,
    at timestamptz not null,
    primary key (person_id, item_id)
);

-- Skills that a teacher would like a class, a group of it or one student to reach, with a word why.
create table suggested_skills (
    id uuid primary key,
    class_id uuid not null references classes on delete cascade,
    skill text not null,
    -- For the whole class where both are empty.
    group_name text,
    student_id uuid references people on delete cascade,
    why text not null default '',
    by_id uuid not null references people,
    at timestamptz not null,
    check (group_name is null or student_id is null)
);
create index suggested_skills_class on suggested_skills (class_id);

-- Skills that a student would like to work on.
create table wished_skills (
    person_id uuid not null references people on delete cascade,
    skill text not null,
    at timestamptz not null,
    primary key (person_id, skill)
);
