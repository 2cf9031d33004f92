-- People, the classes they are in, and their signed-in browsers. A session is kept as the hash of its token, so that
-- a copy of the table signs nobody in. Failed sign-ins are kept here, not in a process: any number of servers count
-- them together.
create table people (
    id uuid primary key,
    user_name text not null unique check (user_name = lower(user_name) and user_name <> ''),
    display_name text not null,
    password_hash text not null,
    role text not null check (role in ('student', 'teacher'))
);

create table sessions (
    token_hash bytea primary key,
    person_id uuid not null references people on delete cascade,
    created_at timestamptz not null,
    expires_at timestamptz not null
);
create index sessions_expiry on sessions (expires_at);

create table sign_in_failures (
    address text not null,
    at timestamptz not null
);
create index sign_in_failures_recent on sign_in_failures (address, at);

create table classes (
    id uuid primary key,
    title text not null unique
);

create table class_members (
    class_id uuid not null references classes on delete cascade,
    person_id uuid not null references people on delete cascade,
    primary key (class_id, person_id)
);
create index class_members_person on class_members (person_id);
