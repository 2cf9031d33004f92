-- The text of a question as its author wrote it, with comments and layout: it is what a teacher edits. Who saved it, where
-- it was saved in the browser.
alter table questions add column source text;
alter table questions add column saved_by uuid references people on delete set null;
