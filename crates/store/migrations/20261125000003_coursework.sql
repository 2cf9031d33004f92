-- The whole way through an assignment: the clock has to find work whose time is up without reading all of it; a class's
-- scores are compared without folding everybody's events; students are told once what happened without them; and notes,
-- ink and pictures are kept with a question. What is derived here can be worked out again from the events.
alter table works add column ends_at timestamptz;
create index works_ending on works (ends_at) where ends_at is not null;
alter table works add column recorded_percent double precision;
alter table works add column seen_event int not null default 0;
alter table works add column seen_note text;
alter table works add column result_seen boolean not null default false;
alter table works add column active_seconds bigint not null default 0;
alter table works add column active_at timestamptz;

create table workings (
    work_id uuid not null references works on delete cascade,
    question int not null check (question >= 0),
    revision bigint not null,
    notes text not null,
    ink jsonb not null,
    saved_at timestamptz not null,
    primary key (work_id, question)
);

create table pictures (
    id uuid primary key,
    work_id uuid not null references works on delete cascade,
    question int not null check (question >= 0),
    media_type text not null,
    bytes bytea not null,
    added_at timestamptz not null
);
create index pictures_work on pictures (work_id, question);

-- The day from which the demo world's dates are counted: when it is started on a later day, they are moved on.
create table world_anchor (
    only_one boolean primary key default true check (only_one),
    at timestamptz not null
);
