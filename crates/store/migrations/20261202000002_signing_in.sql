-- Addresses from which somebody came in with a right password: a school's may have many wrong tries in a minute, one from
-- which nobody ever came in may not. And keys of our own, made at first need, that every server signs with.
create table sign_in_addresses (
    address text primary key,
    right_at timestamptz not null
);
create table secrets (
    name text primary key,
    key bytea not null
);
