-- Recordings with stops: shipped or uploaded. The media lies in pieces beside its row, so that a jump reads only what is played. What
-- somebody saw is one row, written as they watch; what they did (paused, went back, left) is kept for the teacher.
create table recordings (
    id uuid primary key,
    slug text unique,
    title text not null,
    media_type text not null,
    size bigint not null,
    seconds double precision not null check (seconds > 0),
    captions text not null,
    stops jsonb not null,
    version int not null default 1,
    made_by uuid references people on delete set null,
    made_at timestamptz not null
);

create table recording_pieces (
    recording_id uuid not null references recordings on delete cascade,
    number int not null check (number >= 0),
    bytes bytea not null,
    primary key (recording_id, number)
);

create table watchings (
    recording_id uuid not null references recordings on delete cascade,
    person_id uuid not null references people on delete cascade,
    state jsonb not null,
    version bigint not null,
    changed_at timestamptz not null,
    done_at timestamptz,
    primary key (recording_id, person_id)
);
create index watchings_person on watchings (person_id);

create table watch_acts (
    id uuid primary key,
    recording_id uuid not null references recordings on delete cascade,
    person_id uuid not null references people on delete cascade,
    at timestamptz not null,
    did text not null,
    place double precision not null
);
create index watch_acts_recording on watch_acts (recording_id, at);
