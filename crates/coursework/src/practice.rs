//! Practice: endless fresh questions, the weakest skill first, towards a goal. Events in, state out, as for work.

use marking::Response;
use serde::{Deserialize, Serialize};
use time::OffsetDateTime;

use crate::event::{CheckedPart, MarkedPart};
use crate::goal::{PracticeGoal, RunCount};
use crate::mastery::{Evidence, Parameters};
use crate::refusal::Refusal;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum PracticeEvent {
    Drawn {
        question: String,
        /// Of the question's content.
        version: String,
        seed: u64,
        /// The skill it was drawn for.
        skill: String,
        /// The question's skills, the main one first.
        skills: Vec<String>,
        guess: f64,
    },
    Checked {
        parts: Vec<CheckedPart>,
        right: bool,
    },
    /// The key of a question was corrected: what its check is worth now. The earlier verdict stays in its own event.
    Corrected {
        /// Which question of the run, from 1.
        nth: usize,
        /// Of the corrected content.
        version: String,
        parts: Vec<CheckedPart>,
        right: bool,
    },
}

#[derive(Clone, Debug, PartialEq)]
pub struct RecordedPractice {
    pub number: u32,
    pub at: OffsetDateTime,
    pub event: PracticeEvent,
}

/// A question that was drawn, and what came of it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Drawn {
    pub question: String,
    pub version: String,
    pub seed: u64,
    pub skill: String,
    pub skills: Vec<String>,
    pub guess: f64,
    pub answered: Option<Answered>,
}

/// What came of the answer to a question of a run.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Answered {
    #[serde(with = "crate::instant")]
    pub at: OffsetDateTime,
    #[serde(skip)]
    pub parts: Vec<CheckedPart>,
    pub right: bool,
    /// Something in it was typed.
    pub typed: bool,
}

/// Written down it is the run's digest: all of it but what was entered, as with [`crate::Work`].
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Run {
    pub drawn: Vec<Drawn>,
    pub last_event: u32,
}

/// Folds a run's events.
pub fn fold_run(events: &[RecordedPractice]) -> Run {
    let mut run = Run::default();
    for recorded in events {
        run.apply(recorded);
    }
    run
}

impl Run {
    /// Takes one event in.
    fn apply(&mut self, recorded: &RecordedPractice) {
        self.last_event = recorded.number;
        match &recorded.event {
            PracticeEvent::Drawn {
                question,
                version,
                seed,
                skill,
                skills,
                guess,
            } => self.drawn.push(Drawn {
                question: question.clone(),
                version: version.clone(),
                seed: *seed,
                skill: skill.clone(),
                skills: skills.clone(),
                guess: *guess,
                answered: None,
            }),
            PracticeEvent::Checked { parts, right } => {
                if let Some(last) = self.drawn.last_mut().filter(|d| d.answered.is_none()) {
                    last.answered = Some(Answered {
                        at: recorded.at,
                        parts: parts.clone(),
                        right: *right,
                        typed: parts.iter().any(CheckedPart::is_typed),
                    });
                }
            }
            PracticeEvent::Corrected {
                nth,
                version,
                parts,
                right,
            } => {
                let drawn = nth.checked_sub(1).and_then(|place| self.drawn.get_mut(place));
                if let Some(drawn) = drawn
                    && let Some(answered) = &mut drawn.answered
                {
                    (answered.parts, answered.right) = (parts.clone(), *right);
                    drawn.version.clone_from(version);
                }
            }
        }
    }

    /// The run after one more event.
    #[must_use]
    pub fn after(&self, event: &PracticeEvent, at: OffsetDateTime) -> Run {
        let mut run = self.clone();
        run.apply(&RecordedPractice {
            number: self.last_event + 1,
            at,
            event: event.clone(),
        });
        run
    }

    /// How many were answered, and how many of them right.
    pub fn count(&self) -> RunCount {
        RunCount {
            answered: self.answered(),
            right: self.right(),
        }
    }

    /// The question that waits for an answer.
    pub fn open(&self) -> Option<&Drawn> {
        self.drawn.last().filter(|d| d.answered.is_none())
    }

    pub fn right(&self) -> u32 {
        let right = self.answers().filter(|a| a.right);
        u32::try_from(right.count()).unwrap_or(u32::MAX)
    }

    fn answers(&self) -> impl Iterator<Item = &Answered> {
        self.drawn.iter().filter_map(|d| d.answered.as_ref())
    }

    /// The answer that the slip book knows by a number: 2n for the nth question's.
    pub fn answered_at(&self, number: u32) -> Option<&Answered> {
        let place = usize::try_from(number / 2).ok()?.checked_sub(1)?;
        self.drawn.get(place)?.answered.as_ref()
    }

    /// Whether something typed was ever checked.
    pub fn has_typed(&self) -> bool {
        self.answers().any(|a| a.typed)
    }

    /// The run as its digest gives it back: without what was entered and what the marker said to it.
    #[must_use]
    pub fn digest(&self) -> Run {
        let mut run = self.clone();
        let answers = run.drawn.iter_mut().filter_map(|d| d.answered.as_mut());
        answers.for_each(|a| a.parts = Vec::new());
        run
    }

    pub fn answered(&self) -> u32 {
        u32::try_from(self.answers().count()).unwrap_or(u32::MAX)
    }
}

/// What came of an answer to the question of a run.
#[derive(Clone, Debug, PartialEq)]
pub enum Answer {
    /// Something could not be judged. Nothing is used up, and nothing is said of the other parts: else what is right in
    /// them could be tried out for nothing.
    Unjudged(Vec<CheckedPart>),
    Judged(PracticeEvent),
}

/// What an answer to the open question would mark: every part of it once, and nothing else. `parts` are the ids of the
/// question's parts.
///
/// # Errors
/// Why the answer is refused; the question stays open.
pub fn prepare_answer(
    run: &Run,
    parts: &[&str],
    responses: &[(String, Response)],
) -> Result<Vec<(String, Response)>, Refusal> {
    if run.open().is_none() {
        return Err(Refusal::Answered);
    }
    every_part_once(parts, responses)
}

/// What was given, if it is every part once and nothing else.
pub(crate) fn every_part_once(
    parts: &[&str],
    responses: &[(String, Response)],
) -> Result<Vec<(String, Response)>, Refusal> {
    for (place, (id, _)) in responses.iter().enumerate() {
        let doubled = responses.iter().skip(place + 1).any(|(other, _)| other == id);
        if doubled || !parts.contains(&id.as_str()) {
            return Err(Refusal::NoSuchPart);
        }
    }
    let given: Vec<(String, Response)> = responses.iter().filter(|(_, r)| !r.is_empty()).cloned().collect();
    if given.is_empty() {
        return Err(Refusal::NothingEntered);
    }
    if given.len() < parts.len() {
        return Err(Refusal::Incomplete);
    }
    Ok(given)
}

/// What an answer comes to. `parts` are the ids of the question's parts; each must have been marked.
///
/// # Errors
/// Why the answer is refused; the question stays open.
pub fn answer(run: &Run, parts: &[&str], marked: &[MarkedPart]) -> Result<Answer, Refusal> {
    let responses: Vec<(String, Response)> = marked
        .iter()
        .map(|m| (m.part.clone(), m.response.clone()))
        .collect();
    prepare_answer(run, parts, &responses)?;
    let checked: Vec<CheckedPart> = marked.iter().map(CheckedPart::new).collect();
    if checked.iter().any(|p| !p.costs) {
        return Ok(Answer::Unjudged(
            checked.into_iter().filter(|p| !p.costs).collect(),
        ));
    }
    let right = checked.iter().all(|p| p.score >= 1.0);
    Ok(Answer::Judged(PracticeEvent::Checked {
        parts: checked,
        right,
    }))
}

/// The evidence in a run, by skill.
pub fn practice_evidence(parameters: &Parameters, run: &Run) -> Vec<(String, Evidence)> {
    let mut found = Vec::new();
    for drawn in &run.drawn {
        let Some(answered) = &drawn.answered else {
            continue;
        };
        for (place, skill) in drawn.skills.iter().enumerate() {
            let weight = if place == 0 { 1.0 } else { parameters.weight_beside };
            let evidence = Evidence {
                at: answered.at,
                right: answered.right,
                guess: drawn.guess,
                weight,
            };
            found.push((skill.clone(), evidence));
        }
    }
    found
}

/// A question that can be drawn.
#[derive(Clone, Debug, PartialEq)]
pub struct Candidate {
    pub question: String,
    /// The main skill first.
    pub skills: Vec<String>,
}

/// The next question: after a wrong answer a like one, that is the same on fresh numbers; else one on the weakest skill
/// of the goal, of those the one drawn least, those whose main skill it is first. Gives its place and the skill.
pub fn choose(
    goal: &PracticeGoal,
    candidates: &[Candidate],
    run: &Run,
    score_of: impl Fn(&str) -> u8,
) -> Option<(usize, String)> {
    if let Some(only) = &goal.question {
        let place = candidates.iter().position(|c| c.question == *only)?;
        let skill = candidates.get(place)?.skills.first().cloned().unwrap_or_default();
        return Some((place, skill));
    }
    if let Some(last) = run.drawn.last()
        && last.answered.as_ref().is_some_and(|a| !a.right)
        && let Some(same) = candidates.iter().position(|c| c.question == last.question)
    {
        return Some((same, last.skill.clone()));
    }
    let practised = |skill: &&String| candidates.iter().any(|c| c.skills.contains(skill));
    let weakest = goal.skills.iter().filter(practised).min_by_key(|s| score_of(s))?;
    let times = |c: &Candidate| run.drawn.iter().filter(|d| d.question == c.question).count();
    let (place, _) = candidates
        .iter()
        .enumerate()
        .filter(|(_, c)| c.skills.contains(weakest))
        .min_by_key(|(_, c)| (times(c), c.skills.first() != Some(weakest)))?;
    Some((place, weakest.clone()))
}
