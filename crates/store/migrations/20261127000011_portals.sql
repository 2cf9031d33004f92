-- Portals (LTI platforms) that are registered here.
create table portals (
    id uuid primary key,
    name text not null,
    issuer text not null,
    client_id text not null,
    authorization_url text not null,
    token_url text not null,
    -- What the token endpoint wants to be called, where it is not its address.
    token_audience text,
    jwks_url text not null,
    made_at timestamptz not null,
    ended_at timestamptz,
    -- It could not be reached: nothing is sent before then, and so many times running.
    away_until timestamptz,
    away_tries int not null default 0,
    unique (issuer, client_id)
);

create table portal_deployments (
    portal_id uuid not null references portals (id) on delete cascade,
    deployment text not null,
    primary key (portal_id, deployment)
);

-- Our own keys: the newest signs, older ones stay published for a while.
create table lti_keys (
    kid text primary key,
    pem text not null,
    made_at timestamptz not null
);

-- Sign-ins that were begun, each used once, by the browser that began it.
create table lti_states (
    state_hash bytea primary key,
    browser_hash bytea not null,
    portal_id uuid not null references portals (id) on delete cascade,
    nonce text not null,
    expires_at timestamptz not null
);
create index on lti_states (expires_at);

-- Who somebody is in a portal.
create table portal_people (
    portal_id uuid not null references portals (id) on delete cascade,
    subject text not null,
    person_id uuid not null references people (id) on delete cascade,
    made_at timestamptz not null,
    primary key (portal_id, subject)
);
create index on portal_people (person_id);

-- Somebody who came from a portal and is not known yet; a course that has no class yet; picking for the portal. What was
-- said in the launch is kept for a moment, for the browser that came.
create table portal_arrivals (
    token_hash bytea primary key,
    portal_id uuid not null references portals (id) on delete cascade,
    body jsonb not null,
    expires_at timestamptz not null
);
create index on portal_arrivals (expires_at);

-- Courses of portals, with the class that each is here.
create table portal_courses (
    id uuid primary key,
    portal_id uuid not null references portals (id) on delete cascade,
    deployment text not null,
    context text not null,
    title text not null,
    class_id uuid not null references classes (id) on delete cascade,
    memberships_url text,
    line_items_url text,
    -- The list of members, when it was asked for last, and what the portal said.
    asked_at timestamptz,
    asked_answer text,
    unique (portal_id, deployment, context)
);
create index on portal_courses (class_id);

-- Line items: columns of a portal's grade book, each for an assignment.
create table portal_lines (
    id uuid primary key,
    course_id uuid not null references portal_courses (id) on delete cascade,
    assignment_id uuid not null references assignments (id) on delete cascade,
    -- Nothing until the portal has said where it is.
    url text,
    unique (course_id, assignment_id)
);
create index on portal_lines (assignment_id);

-- Scores on their way: of each student at each line, the last that is wanted there and the last that is there.
create table portal_scores (
    line_id uuid not null references portal_lines (id) on delete cascade,
    student_id uuid not null references people (id) on delete cascade,
    -- Grows with everything that may have changed the score.
    wanted bigint not null default 1,
    wanted_at timestamptz not null,
    sent bigint not null default 0,
    sent_at timestamptz,
    -- Of the score that was sent last: the next one's is later.
    sent_stamp timestamptz,
    -- What it said: per cent and how far marked.
    sent_state text,
    -- Not before then; and by whom it is taken until when.
    next_at timestamptz not null,
    taken_until timestamptz,
    tries int not null default 0,
    -- The portal's last answer.
    answer text,
    -- Given up after a week.
    given_up boolean not null default false,
    -- The results are not out yet.
    held boolean not null default false,
    primary key (line_id, student_id)
);
create index on portal_scores (next_at) where wanted > sent and not given_up;
create index on portal_scores (student_id);

-- Who left a class by the portal's list comes back by it, too; who was taken out by hand does not.
alter table class_members add column left_by_portal boolean not null default false;

-- Whatever may have changed a recorded score is noted in the transaction that changes it, wherever it comes from. Each note
-- is later than the one before: its instant orders the scores at the portal.
create function note_score() returns trigger language plpgsql as $$
begin
    insert into portal_scores as s (line_id, student_id, wanted_at, next_at)
    select l.id, new.student_id, moment.at, moment.at
    from portal_lines l, (select coalesce(
        (select max(e.at) from events e where e.work_id = new.id and e.number = new.last_event), now()) as at) as moment
    where l.assignment_id = new.assignment_id
    on conflict (line_id, student_id) do update set
        wanted = s.wanted + 1,
        wanted_at = greatest(excluded.wanted_at, s.wanted_at + interval '1 microsecond'),
        next_at = least(s.next_at, excluded.next_at),
        tries = 0,
        given_up = false;
    return null;
end
$$;

create trigger works_begun after insert on works
    for each row when (new.recorded_percent is not null) execute function note_score();
create trigger works_moved after update of last_event, recorded_percent on works
    for each row when (new.recorded_percent is not null or old.recorded_percent is not null) execute function note_score();
