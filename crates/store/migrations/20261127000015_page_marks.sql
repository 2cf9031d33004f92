-- Passages that students marked in reading pages, with a note beside them. What was marked is kept with what stood around it, so that it is
-- found again once the page was corrected.
create table page_marks (
    id uuid primary key,
    person_id uuid not null references people on delete cascade,
    skill text not null,
    quote jsonb not null,
    note text not null,
    made_at timestamptz not null,
    changed_at timestamptz not null
);
create index page_marks_person on page_marks (person_id, skill);
