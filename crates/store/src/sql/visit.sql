-- Everything that a request about one assignment needs: who asks, whether they are in its class, its version, their work,
-- its events and drafts.
select
    p.id as person_id,
    p.user_name,
    p.display_name,
    p.role,
    a.version as "version?",
    w.id as "work_id?",
    w.last_event as "last_event?",
    w.drafts_at as "drafts_at?",
    w.seen_event as "seen_event?",
    w.seen_note,
    w.result_seen as "result_seen?",
    w.active_seconds as "active_seconds?",
    e.numbers as "numbers?: Vec<i32>",
    e.ats as "ats?: Vec<OffsetDateTime>",
    e.bodies as "bodies?: Vec<Json<Event>>",
    d.questions as "draft_questions?: Vec<i32>",
    d.sets as "draft_sets?: Vec<i32>",
    d.parts as "draft_parts?: Vec<String>",
    d.revisions as "draft_revisions?: Vec<i64>",
    d.responses as "draft_responses?: Vec<Json<Response>>",
    d.saved as "draft_saved?: Vec<OffsetDateTime>"
from sessions s
join people p on p.id = coalesce(s.acts_as, s.person_id)
left join lateral (
    select assignment_id as id, version from may_work where assignment_id = $3 and person_id = p.id
) a on true
left join works w on w.assignment_id = a.id and w.student_id = p.id
left join lateral (
    select
        array_agg(number order by number) as numbers,
        array_agg(at order by number) as ats,
        array_agg(body order by number) as bodies
    from events where work_id = w.id
) e on true
left join lateral (
    select
        array_agg(question order by question, set_number, part) as questions,
        array_agg(set_number order by question, set_number, part) as sets,
        array_agg(part order by question, set_number, part) as parts,
        array_agg(revision order by question, set_number, part) as revisions,
        array_agg(response order by question, set_number, part) as responses,
        array_agg(saved_at order by question, set_number, part) as saved
    from drafts where work_id = w.id
) d on true
where s.token_hash = $1 and s.expires_at > $2
