-- Every assignment of a person's classes with where their work on it stands, and the drafts in it.
select
    a.id as assignment,
    a.version,
    w.id as "work_id?",
    w.last_event as "last_event?",
    w.seen_event as "seen_event?",
    w.seen_note,
    w.result_seen as "result_seen?",
    w.active_seconds as "active_seconds?",
    d.questions as "draft_questions?: Vec<i32>",
    d.sets as "draft_sets?: Vec<i32>",
    d.parts as "draft_parts?: Vec<String>",
    d.revisions as "draft_revisions?: Vec<i64>",
    d.responses as "draft_responses?: Vec<Json<Response>>",
    d.saved as "draft_saved?: Vec<OffsetDateTime>"
from class_members m
join assignments a on a.class_id = m.class_id
left join works w on w.assignment_id = a.id and w.student_id = m.person_id
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
where m.person_id = $1
