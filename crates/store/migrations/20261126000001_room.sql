-- A check in two statements. An assignment's version says whether what a server holds of it is still what stands here; a
-- work's last event is held against the number that a decision was made on, so that the row itself is the lock. Rows that
-- change with every key stroke keep room beside them. Sign-ins are counted by name and by address in one row each, before
-- the password is looked at; reviews are drawn by the server and kept until the next one; the clock leaves work that could
-- not be ended for a while, so that it cannot hold up the rest.
alter table assignments add column version int not null default 1;

alter table works add column last_event int not null default 0;
update works w set last_event = (select coalesce(max(number), 0) from events e where e.work_id = w.id);
alter table works add column not_before timestamptz;
alter table works set (fillfactor = 70);
alter table drafts set (fillfactor = 70);

create index assignment_questions_question on assignment_questions (question_id);
create index practice_events_drawn on practice_events ((body->>'question')) where body->>'kind' = 'drawn';
create index sessions_person on sessions (person_id);

drop table sign_in_failures;
create table sign_in_tries (
    key text primary key,
    since timestamptz not null,
    tries int not null
);
create index sign_in_tries_since on sign_in_tries (since);

create table reviews (
    id uuid primary key,
    person_id uuid not null references people on delete cascade,
    salt bigint not null,
    questions jsonb not null,
    drawn_at timestamptz not null
);
create index reviews_person on reviews (person_id, drawn_at desc);

alter table practice_entered add column revision bigint not null default 1;
