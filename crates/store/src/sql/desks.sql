-- Every assignment of a person's classes with where their work on it stands.
select
    m.assignment_id as "assignment!",
    m.version as "version!",
    w.id as "work_id?",
    w.last_event as "last_event?",
    w.drafts_at as "drafts_at?",
    w.seen_event as "seen_event?",
    w.seen_note,
    w.result_seen as "result_seen?",
    w.active_seconds as "active_seconds?"
from may_work m
left join works w on w.assignment_id = m.assignment_id and w.student_id = m.person_id
where m.person_id = $1
