//! What was said to an entry, and what was given.

use coursework::CheckedPart;
use marking::{Block, CheckLine, Inline, Item, ItemPart, Member, Outcome, Response, slip_words};
use serde::Serialize;
use utoipa::ToSchema;

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum OutcomeView {
    Right,
    PartlyRight,
    NotYet,
    WrongForm,
    CannotRead,
    NotFinished,
    WithTheTeacher,
    MarkedByTeacher,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct VerdictView {
    pub outcome: OutcomeView,
    pub response: Response,
    /// LaTeX; empty where there is nothing to show.
    pub reads_as: String,
    pub speech: String,
    /// What was chosen, joined or put, line by line.
    pub given: Vec<Vec<Inline>>,
    /// A verdict on each member, where a part is right or wrong in several places.
    pub members: Vec<Member>,
    pub notes: Vec<String>,
    /// What each check of a program found.
    pub checks: Vec<CheckLine>,
    /// The author's words to this very answer.
    pub reply: Vec<Block>,
    /// 0 to 1.
    pub score: f64,
}

impl VerdictView {
    /// What waited for the teacher waits no longer once the question has the teacher's points.
    pub fn after(mut self, marked_by_teacher: bool) -> Self {
        if marked_by_teacher && self.outcome == OutcomeView::WithTheTeacher {
            self.outcome = OutcomeView::MarkedByTeacher;
        }
        self
    }

    /// What the teacher wrote to such an entry stands before what the question's author did.
    pub fn with_reply(mut self, words: Option<&str>) -> Self {
        if let Some(words) = words {
            self.reply.insert(
                0,
                Block::Paragraph {
                    content: vec![Inline::Text(words.to_owned())],
                },
            );
        }
        self
    }
}

#[derive(Serialize, ToSchema)]
pub(crate) struct TryPartView {
    pub id: String,
    pub verdict: VerdictView,
}

pub(crate) fn verdict_view(checked: &CheckedPart, part: Option<&ItemPart>, show_slips: bool) -> VerdictView {
    let outcome = match checked.outcome {
        Outcome::Correct => OutcomeView::Right,
        Outcome::Partial => OutcomeView::PartlyRight,
        Outcome::Incorrect => OutcomeView::NotYet,
        Outcome::WrongForm => OutcomeView::WrongForm,
        Outcome::Unreadable => OutcomeView::CannotRead,
        Outcome::Unfinished => OutcomeView::NotFinished,
        Outcome::Waiting => OutcomeView::WithTheTeacher,
    };
    let mut notes = checked.notes.clone();
    if let Some(slip) = checked.slip {
        let words = slip_words(slip).to_owned();
        notes.retain(|n| *n != words);
        if show_slips {
            notes.push(words);
        }
    }
    let reply = checked.reply.and_then(|i| part?.replies.get(i));
    let posed = part.map(|p| &p.posed);
    let judged = checked.outcome.is_judged();
    VerdictView {
        outcome,
        response: checked.response.clone(),
        reads_as: checked.reads_as.clone(),
        speech: checked.speech.clone(),
        given: posed.map(|p| p.chosen(&checked.response)).unwrap_or_default(),
        members: posed
            .filter(|_| judged)
            .map(|p| p.members(&checked.response))
            .unwrap_or_default(),
        notes,
        checks: checked.checks.clone(),
        reply: reply.map(|r| r.say.clone()).unwrap_or_default(),
        score: checked.score,
    }
}

/// A marked part.
pub(crate) fn given_view(checked: &CheckedPart, item: &Item, show_slips: bool) -> TryPartView {
    TryPartView {
        id: checked.part.clone(),
        verdict: verdict_view(checked, item.find_part(&checked.part), show_slips),
    }
}
