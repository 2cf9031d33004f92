-- Seconds spent with each question, by its place from 0: a sign of life names the question one is at.
alter table works add column question_seconds jsonb not null default '{}';
