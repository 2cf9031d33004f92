-- Who asks, whether they are in an assignment's class, its version, and where their work stands: enough for a server that
-- holds the work's events and drafts up to these numbers.
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
    w.active_seconds as "active_seconds?"
from sessions s
join people p on p.id = coalesce(s.acts_as, s.person_id)
left join may_work a on a.assignment_id = $3 and a.person_id = p.id
left join works w on w.assignment_id = a.assignment_id and w.student_id = p.id
where s.token_hash = $1 and s.expires_at > $2
