-- A role belongs to a membership: who teaches one course is a student of another, and nothing more there. What an account
-- has of its own, `people.role`, is only whether it may make classes. A made-up student has the role 'preview'; the test
-- user of a portal, 'trial', works as a student does and stands in no statistics. Memberships that a portal made follow
-- what it says; a teacher who was made one here stays one.
alter table class_members add column role text not null default 'student'
    check (role in ('student', 'teacher', 'preview', 'trial'));
update class_members m set role = p.role from people p where p.id = m.person_id and p.role <> 'student';
alter table class_members alter column role drop default;
alter table class_members add column role_by_portal boolean not null default false;

-- Whether those who teach a course of this portal may make classes here, with the whole bank.
alter table portals add column vouches_for_teachers boolean not null default false;

drop view may_work;
create view may_work as
select m.person_id, a.id as assignment_id, a.class_id, a.version, m.role
from class_members m
join assignments a on a.class_id = m.class_id
where m.left_at is null
    and (m.role = 'preview' or (
        m.role in ('student', 'trial') and a.given_out and (
            (a.for_groups = '{}' and a.for_people = '{}')
            or m.group_name = any(a.for_groups)
            or m.person_id = any(a.for_people)
        )
    ));

-- Who teaches which class.
create or replace view teaches as
select m.person_id, m.class_id
from class_members m
where m.role = 'teacher' and m.left_at is null;

-- Who is, or was, a student of which class: the people of its sheet and statistics.
create view studies as
select m.person_id, m.class_id, m.left_at
from class_members m
where m.role = 'student';

-- What somebody may see of the desk: those who teach any class, and those who may make one.
create view desk_roles as
select p.id as person_id,
    case when p.role = 'teacher' or exists (select from teaches t where t.person_id = p.id) then 'teacher' else 'student' end
        as role
from people p;
