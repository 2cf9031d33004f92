-- Terms of reading pages, gone through as cards: known or not yet. What was not known comes back as slips do.
create table term_cards (
    person_id uuid not null references people on delete cascade,
    skill text not null,
    term text not null,
    missed boolean not null,
    in_row int not null check (in_row >= 0),
    at timestamptz not null,
    primary key (person_id, skill, term)
);
