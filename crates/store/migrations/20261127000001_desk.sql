-- The teacher's desk. Classes get their term, their zone and a code to join by; members a group, and a day on which they
-- were taken out instead of a deleted row, so that nothing of theirs is lost. Assignments can be drafts, and for some of a
-- class only. A teacher can look at everything as a made-up student of the class: a session acts as somebody else then, and
-- that person has a role of their own, so that no list or score takes them in. Who may work on what is one view.
alter table people drop constraint people_role_check;
alter table people add constraint people_role_check check (role in ('student', 'teacher', 'preview'));
-- The class whose teachers may set a new password: where the account was made.
alter table people add column home_class uuid references classes on delete set null;
-- Whether the few lines of a first sign-in were read.
alter table people add column welcomed boolean not null default false;

alter table classes drop constraint classes_title_key;
alter table classes add column starts_on date;
alter table classes add column ends_on date;
alter table classes add column time_zone text not null default 'Etc/UTC';
alter table classes add column join_code text unique;
-- A word from the teacher, on the class's page.
alter table classes add column word text not null default '';
alter table classes add column made_at timestamptz not null default now();

alter table class_members add column group_name text;
alter table class_members add column left_at timestamptz;
update people p set home_class = (select class_id from class_members m where m.person_id = p.id limit 1);

alter table sessions add column acts_as uuid references people on delete cascade;

-- A link that signs somebody in once, kept as the hash of its token.
create table sign_in_links (
    token_hash bytea primary key,
    person_id uuid not null references people on delete cascade,
    made_at timestamptz not null,
    expires_at timestamptz not null
);
create index sign_in_links_person on sign_in_links (person_id);

alter table assignments add column given_out boolean not null default true;
-- For the whole class where both are empty.
alter table assignments add column for_groups text[] not null default '{}';
alter table assignments add column for_people uuid[] not null default '{}';
alter table assignments add column made_at timestamptz not null default now();

-- Points that a teacher gave a question here; the question's own where there are none.
alter table assignment_questions add column points int check (points > 0);

-- What a class's sheet shows of a work, derived from its events; believed at the version of the assignment it was made at.
alter table works add column sheet jsonb;
alter table works add column sheet_version int;

-- What teachers did that touches a student's work, score or account.
create table acts (
    id uuid primary key,
    class_id uuid not null references classes on delete cascade,
    assignment_id uuid references assignments on delete cascade,
    student_id uuid references people on delete cascade,
    by_id uuid not null references people,
    at timestamptz not null,
    did text not null,
    why text not null default ''
);
create index acts_class on acts (class_id, at desc);

create view may_work as
select m.person_id, a.id as assignment_id, a.class_id, a.version
from class_members m
join people p on p.id = m.person_id
join assignments a on a.class_id = m.class_id
where m.left_at is null
    and (p.role = 'preview' or (
        p.role = 'student' and a.given_out and (
            (a.for_groups = '{}' and a.for_people = '{}')
            or m.group_name = any(a.for_groups)
            or m.person_id = any(a.for_people)
        )
    ));

-- Who teaches which class.
create view teaches as
select m.person_id, m.class_id
from class_members m
join people p on p.id = m.person_id
where p.role = 'teacher' and m.left_at is null;
