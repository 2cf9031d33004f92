//! One student's answer to a question that a person marks.

use std::sync::Arc;

use coursework::{CheckedPart, HandIn, ItemRef, PartPoints, QuestionScore, SetState, as_handed_in};
use marking::interaction::PosedLine;
use marking::{Block, Inline, Item, ItemPart};
use school::{Desk, School, SchoolError};
use serde::Serialize;
use store::{KeptMark, Person, PersonId};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::api::shared::verdict::{TryPartView, given_view};
use crate::http::error::ApiError;

/// What one student handed in, as far as it counts.
#[derive(Serialize, ToSchema)]
pub(crate) struct AnswerToMark {
    student: Uuid,
    name: String,
    /// The number of the hand-in that counts.
    hand_in: u32,
    #[serde(with = "time::serde::rfc3339")]
    at: OffsetDateTime,
    late: bool,
    text: Vec<Block>,
    parts: Vec<AnswerToMarkPart>,
    /// Points that the machine gave for its parts.
    earned: f64,
    /// Points that still wait.
    waiting: f64,
    given: Option<GivenPoints>,
    kept: Option<KeptPoints>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct AnswerToMarkPart {
    id: String,
    prompt: Vec<Block>,
    by_hand: bool,
    given: Option<TryPartView>,
    /// What a good answer says, line by line.
    model: Vec<Vec<Inline>>,
    /// Its points.
    worth: f64,
    rubric: Vec<RubricLineToMark>,
}

/// What is looked for in an answer.
#[derive(Serialize, ToSchema)]
pub(crate) struct RubricLineToMark {
    say: Vec<Inline>,
    /// What it adds to the points of the part.
    points: f64,
}

/// What a part was given.
#[derive(Serialize, ToSchema)]
pub(crate) struct PartGiven {
    part: String,
    points: f64,
    /// The lines of its rubric that were met, from 0.
    met: Vec<usize>,
}

/// Points that a teacher gave.
#[derive(Serialize, ToSchema)]
pub(crate) struct GivenPoints {
    points: f64,
    note: String,
    #[serde(with = "time::serde::rfc3339")]
    at: OffsetDateTime,
    /// Nobody where it is not known.
    by: Option<String>,
    parts: Vec<PartGiven>,
    /// The note as the student reads it.
    note_shown: Vec<Block>,
}

impl From<&PartPoints> for PartGiven {
    fn from(given: &PartPoints) -> Self {
        PartGiven {
            part: given.part.clone(),
            points: given.points,
            met: given.met.clone(),
        }
    }
}

/// What counts of a student's work on a question, with the numbers it was done with.
pub(super) struct Counted<'a> {
    pub hand_in: &'a HandIn,
    score: &'a QuestionScore,
    set: SetState,
    refs: &'a ItemRef,
    item: Arc<Item>,
}

impl<'a> Counted<'a> {
    /// # Errors
    /// `NotFound` where nothing counts.
    pub async fn of(school: &School, question: usize, desk: &'a Desk) -> Result<Self, ApiError> {
        let counting = desk.work.counting_hand_in(&desk.assignment);
        let hand_in = counting.ok_or(SchoolError::NotFound)?;
        let score = hand_in.score.questions.get(question);
        let score = score.ok_or(SchoolError::NotFound)?;
        let then = as_handed_in(&desk.assignment, &desk.events(), hand_in.event);
        let state = then.questions.get(question).ok_or(SchoolError::NotFound)?;
        let number = score.set.unwrap_or(state.sets.len().saturating_sub(1));
        let set = state.sets.get(number).ok_or(SchoolError::NotFound)?.clone();
        let refs = desk.assignment.items.get(question).ok_or(SchoolError::NotFound)?;
        let item = desk.item_of(school, question, set.seed).await?;
        Ok(Counted {
            hand_in,
            score,
            set,
            refs,
            item,
        })
    }

    /// Points that the machine gave for its parts.
    pub fn earned(&self) -> f64 {
        let best = |id: &str| self.set.parts.iter().find(|s| s.id == id).map_or(0.0, |s| s.best);
        let checked = self.refs.parts.iter().filter(|p| !p.by_hand);
        checked
            .map(|p| self.refs.worth(p) * best(&p.id))
            .fold(0.0, |all, one| all + one)
    }

    /// The points of a part: those that were typed, or those of the lines that are met.
    pub fn points_for(&self, part: &str, typed: Option<f64>, met: &[usize]) -> f64 {
        typed.unwrap_or_else(|| {
            let posed = self.item.parts.iter().find(|p| p.id == part);
            let shares: Vec<u32> =
                posed.map_or(Vec::new(), |p| p.posed.rubric().iter().map(|l| l.share).collect());
            marking::rubric_points(&shares, met, self.worth(part))
        })
    }

    fn worth(&self, part: &str) -> f64 {
        let found = self.refs.parts.iter().find(|r| r.id == part);
        found.map_or(0.0, |r| self.refs.worth(r))
    }

    fn rubric(&self, part: &ItemPart) -> Vec<RubricLineToMark> {
        let lines = part.posed.rubric();
        let shares: u32 = lines.iter().map(|l| l.share).sum();
        let worth = self.worth(&part.id) / f64::from(shares.max(1));
        let line = |l: &PosedLine| RubricLineToMark {
            say: l.say.clone(),
            points: worth * f64::from(l.share),
        };
        lines.iter().map(line).collect()
    }
}

/// Points that are kept to be given out with the rest.
#[derive(Serialize, ToSchema)]
pub(crate) struct KeptPoints {
    points: f64,
    note: String,
    parts: Vec<PartGiven>,
    /// Something was handed in after they were settled on.
    handed_in_since: bool,
}

pub(super) async fn answer(
    school: &School,
    question: usize,
    (student, desk): &(Person, Desk),
    kept: Option<&KeptMark>,
) -> Result<AnswerToMark, ApiError> {
    let counted = Counted::of(school, question, desk).await?;
    let stands = desk.work.by_teacher.get(&question);
    let part = |p: &ItemPart| {
        let state = counted.set.parts.iter().find(|s| s.id == p.id);
        let last: Option<&CheckedPart> = state.and_then(|s| s.last.as_ref());
        AnswerToMarkPart {
            id: p.id.clone(),
            prompt: p.prompt.clone(),
            by_hand: p.posed.is_by_hand(),
            given: last.map(|c| {
                let mut given = given_view(c, &counted.item, true);
                given.verdict = given.verdict.after(stands.is_some());
                given
            }),
            model: match p.posed.is_by_hand() {
                true => p.posed.right().choices,
                false => Vec::new(),
            },
            worth: counted.worth(&p.id),
            rubric: counted.rubric(p),
        }
    };
    let given = match stands {
        None => None,
        Some(stands) => Some(GivenPoints {
            points: stands.points,
            note: stands.note.clone(),
            at: stands.at,
            by: match stands.by {
                Some(by) => store::find_person(&school.pool, PersonId(by))
                    .await?
                    .map(|p| p.display_name),
                None => None,
            },
            parts: stands.parts.iter().map(Into::into).collect(),
            note_shown: marking::note(&stands.note),
        }),
    };
    let kept = kept.map(|k| KeptPoints {
        points: k.points,
        note: k.note.clone(),
        parts: k.parts.iter().map(Into::into).collect(),
        handed_in_since: k.hand_in != counted.hand_in.number,
    });
    Ok(AnswerToMark {
        student: student.id.0,
        name: student.display_name.clone(),
        hand_in: counted.hand_in.number,
        at: counted.hand_in.at,
        late: counted.hand_in.late,
        text: counted.item.text.clone(),
        parts: counted.item.parts.iter().map(part).collect(),
        earned: counted.earned(),
        waiting: counted.score.waiting,
        given,
        kept,
    })
}
