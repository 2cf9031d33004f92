-- Writes down what is derived from the events of a work up to number $2, folded with version $3 of its assignment, if both
-- still stand.
with standing as (
    update works w set ends_at = $6, recorded_percent = $7, sheet = $8, sheet_version = $3
    from assignments a
    where w.id = $1 and w.last_event = $2 and a.id = w.assignment_id and a.version = $3
    returning w.id
)
insert into work_digests (work_id, last_event, version, form, body)
select id, $2, $3, $4, $5 from standing
on conflict (work_id) do update
    set last_event = excluded.last_event, version = excluded.version, form = excluded.form, body = excluded.body
