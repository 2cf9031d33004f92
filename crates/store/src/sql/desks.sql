-- Every assignment of a person's classes with where their work on it stands.
select
    a.id as assignment,
    a.version,
    w.id as "work_id?",
    w.last_event as "last_event?",
    w.drafts_at as "drafts_at?",
    w.seen_event as "seen_event?",
    w.seen_note,
    w.result_seen as "result_seen?",
    w.active_seconds as "active_seconds?"
from class_members m
join assignments a on a.class_id = m.class_id
left join works w on w.assignment_id = a.id and w.student_id = m.person_id
where m.person_id = $1
