-- Keeps what is typed, if the work is still at the event that it was allowed at and nobody else has written in the field
-- since the revision it is based on; a sign of life besides. `alive` tells the two apart.
with alive as (
    update works set
        active_at = $8,
        active_seconds = active_seconds + case
            when active_at is not null and extract(epoch from $8 - active_at) between 0 and $9::float8
            then extract(epoch from $8 - active_at)::bigint else 0 end
    where id = $1 and last_event = $2
    returning id
), saved as (
    insert into drafts (work_id, question, set_number, part, revision, response, saved_at)
    select alive.id, $3, $4, $5, 1, $7, $8 from alive
    where $6::bigint = 0 or exists (
        select 1 from drafts where work_id = $1 and question = $3 and set_number = $4 and part = $5
    )
    on conflict (work_id, question, set_number, part) do update
    set revision = drafts.revision + 1, response = $7, saved_at = $8
    where drafts.revision = $6
    returning revision
)
select
    exists (select 1 from alive) as "alive!",
    (select revision from saved) as revision
