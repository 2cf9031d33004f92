-- Keeps what is typed, if the work is still at the event and the assignment at the version that it was allowed at and nobody
-- else has written in the field since the revision it is based on; a sign of life besides. Where a session is named ($11),
-- it must be the student's, who must be in the class. `drafts_at` is there if the work has not moved on, `revision`
-- if it was kept; else what stands in the field instead.
with there as (
    select revision, response from drafts
    where work_id = $1 and question = $3 and set_number = $4 and part = $5
), based as (
    select coalesce((select revision from there), 0) = $6 as ok
), fits as (
    select from assignments a
    where a.id = $12 and a.version = $10 and ($11::bytea is null or exists (
        select from sessions s join may_work m on m.person_id = coalesce(s.acts_as, s.person_id)
        where s.token_hash = $11 and s.expires_at > $8 and m.person_id = $13 and m.assignment_id = a.id
    ))
), alive as (
    update works set
        drafts_at = drafts_at + case when (select ok from based) then 1 else 0 end,
        active_at = $8,
        active_seconds = active_seconds + case
            when active_at is not null and extract(epoch from $8 - active_at) between 0 and $9::float8
            then extract(epoch from $8 - active_at)::bigint else 0 end
    where id = $1 and last_event = $2 and assignment_id = $12 and student_id = $13 and exists (select from fits)
    returning id, drafts_at
), saved as (
    insert into drafts (work_id, question, set_number, part, revision, response, saved_at)
    select alive.id, $3, $4, $5, 1, $7, $8 from alive where (select ok from based)
    on conflict (work_id, question, set_number, part) do update
    set revision = drafts.revision + 1, response = $7, saved_at = $8
    where drafts.revision = $6
    returning revision
)
select
    (select drafts_at from alive) as drafts_at,
    (select revision from saved) as revision,
    (select revision from there) as standing,
    (select response from there) as "response: Json<Response>"
