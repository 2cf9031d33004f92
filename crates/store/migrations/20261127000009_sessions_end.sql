-- A session that acts as a made-up student outlives that student: it is the teacher's again.
alter table sessions drop constraint sessions_acts_as_fkey;
alter table sessions add constraint sessions_acts_as_fkey
    foreign key (acts_as) references people on delete set null;
