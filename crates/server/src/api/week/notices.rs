//! What happened to a student's work without them.

use coursework::{NoticeKind, notices, results_out};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use school::Glance;

/// Something that happened to a student's work without them.
#[derive(Serialize, ToSchema)]
pub(crate) struct NoticeView {
    assignment: Uuid,
    title: String,
    words: String,
    #[serde(with = "time::serde::rfc3339")]
    pub at: OffsetDateTime,
    /// An instant that the words speak of, put after them.
    #[serde(with = "time::serde::rfc3339::option")]
    instant: Option<OffsetDateTime>,
    /// What looking at it marks as seen.
    event: u32,
    note: bool,
    result: bool,
    /// The result page says more about it; else the cover sheet does.
    on_result_page: bool,
}

pub(super) fn notices_of(desk: &Glance) -> Vec<NoticeView> {
    let head = &desk.head;
    let settings = &desk.assignment.settings;
    let view = |words: String, at, instant, event, note, result, on_result_page| NoticeView {
        assignment: desk.stored.head.id,
        title: desk.stored.head.title.clone(),
        words,
        at,
        instant,
        event,
        note,
        result,
        on_result_page,
    };
    let mut all = Vec::new();
    let out = results_out(&desk.assignment, &desk.work, head.result_seen, desk.now);
    let told = notices(&desk.assignment, &desk.events, head.seen_event);
    for told in told.into_iter().chain(out) {
        let (words, instant) = notice_words(
            &told.kind,
            coursework::score_visible(&desk.assignment, &desk.work, desk.now),
        );
        let result = told.kind == NoticeKind::ResultsOut;
        let on_result_page = matches!(
            told.kind,
            NoticeKind::ResultsOut
                | NoticeKind::KeyCorrected { .. }
                | NoticeKind::ScoredByTeacher { .. }
                | NoticeKind::TimeUp { .. }
        );
        all.push(view(
            words,
            told.at,
            instant,
            told.event,
            false,
            result,
            on_result_page,
        ));
    }
    if settings.note.is_some() && settings.note != head.seen_note && settings.opens <= desk.now {
        let words = "There is a note from your teacher on the cover sheet.".to_owned();
        all.push(view(words, settings.opens, None, 0, true, false, false));
    }
    all
}

fn notice_words(kind: &NoticeKind, score_visible: bool) -> (String, Option<OffsetDateTime>) {
    let points = |p: f64| (p * 100.0).round() / 100.0;
    match kind {
        NoticeKind::KeyCorrected {
            question,
            before,
            after,
        } => {
            let change = match (before, after) {
                (Some(b), Some(a)) if score_visible && b.round() == a.round() => {
                    format!(" Your recorded score stays at {} %.", a.round())
                }
                (Some(b), Some(a)) if score_visible => {
                    format!(
                        " Your recorded score went from {} % to {} %.",
                        b.round(),
                        a.round()
                    )
                }
                _ => String::new(),
            };
            let words = format!(
                "The key of question {} was wrong and has been corrected; what you had given was marked again.{change}",
                question + 1
            );
            (words, None)
        }
        NoticeKind::ScoredByTeacher {
            question,
            points: p,
            of,
            ..
        } if score_visible => (
            format!(
                "Your teacher marked question {}: {} of {of} points.",
                question + 1,
                points(*p)
            ),
            None,
        ),
        NoticeKind::ScoredByTeacher { question, .. } => {
            (format!("Your teacher marked question {}.", question + 1), None)
        }
        NoticeKind::DueMoved(to) => ("Your due date was moved to".into(), Some(*to)),
        NoticeKind::ClosingMoved(to) => ("For you it stays open until".into(), Some(*to)),
        NoticeKind::MoreTime(percent) => (format!("You have {percent} % of the time limit."), None),
        NoticeKind::MoreSets(1) => ("You have one more set of numbers for each question.".into(), None),
        NoticeKind::MoreSets(n) => (
            format!("You have {n} more sets of numbers for each question."),
            None,
        ),
        NoticeKind::Because(why) => (format!("Your teacher says: {why}"), None),
        NoticeKind::MoreHandIns(1) => ("You have one more hand-in.".into(), None),
        NoticeKind::MoreHandIns(n) => (format!("You have {n} more hand-ins."), None),
        NoticeKind::TimeUp { handed_in: true } => (
            "Time ran out, and what you had entered by then was handed in for you.".into(),
            None,
        ),
        NoticeKind::TimeUp { handed_in: false } => {
            ("Time ran out. What you had handed in before stands.".into(), None)
        }
        NoticeKind::ResultsOut => ("The results are out.".into(), None),
    }
}
