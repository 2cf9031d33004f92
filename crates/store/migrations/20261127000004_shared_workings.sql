-- Whether the student lets the teacher see notes and ink of a work. Nobody else decides it, and it is off to begin with.
alter table works add column shares_workings boolean not null default false;
