-- A work with its first events and its digest ($12 in form $11), unless there is one already.
with made as (
    insert into works (id, assignment_id, student_id, last_event, ends_at, recorded_percent, active_at, sheet, sheet_version)
    select $1, a.id, $3, $4, $5, $6, $8, $13, $7 from assignments a where a.id = $2 and a.version = $7
    -- Whoever changes the assignment meanwhile is waited for.
    for share of a
    on conflict (assignment_id, student_id) do nothing
    returning id
), digested as (
    insert into work_digests (work_id, last_event, version, form, body)
    select made.id, $4, $7, $11, $12 from made
)
insert into events (work_id, number, at, body)
select made.id, e.number, $8, e.body
from made, unnest($9::int[], $10::jsonb[]) as e (number, body)
