-- Adds events to a work that nobody has added to since number $2, of an assignment that is still at version $6; keeps what
-- is derived from them beside it (the digest, $15 in form $14, too), and counts the time since the last sign of life unless it was long ($9 seconds; null:
-- nothing was a sign of life). Where a session is named ($11), it must be the student's, who must be in the class. No row
-- is the answer where someone was first.
with fits as (
    select from assignments a
    where a.id = $12 and a.version = $6 and ($11::bytea is null or exists (
        select from sessions s join may_work m on m.person_id = coalesce(s.acts_as, s.person_id)
        where s.token_hash = $11 and s.expires_at > $7 and m.person_id = $13 and m.assignment_id = a.id
    ))
), moved as (
    update works set
        last_event = $3,
        ends_at = $4,
        recorded_percent = $5,
        sheet = $16,
        sheet_version = $6,
        not_before = null,
        active_at = case when $9::float8 is null then active_at else $7 end,
        active_seconds = active_seconds + case
            when $9::float8 is not null and active_at is not null
                and extract(epoch from $7 - active_at) between 0 and $9::float8
            then extract(epoch from $7 - active_at)::bigint else 0 end
    where id = $1 and last_event = $2 and assignment_id = $12 and student_id = $13 and exists (select from fits)
    returning id, drafts_at
), added as (
    insert into events (work_id, number, at, body)
    select moved.id, e.number, $7, e.body
    from moved, unnest($8::int[], $10::jsonb[]) as e (number, body)
), digested as (
    insert into work_digests (work_id, last_event, version, form, body)
    select moved.id, $3, $6, $14, $15 from moved
    on conflict (work_id) do update
        set last_event = excluded.last_event, version = excluded.version, form = excluded.form, body = excluded.body
)
select drafts_at from moved
