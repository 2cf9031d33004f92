//! A starting point: a short quiz that finds out what somebody already knows, over skills that build on each other.
//! Events in, state out, as for work; what an answer says about all the skills is worked out in [`Belief`].

mod belief;
mod graph;
mod week;

use marking::Response;
use serde::{Deserialize, Serialize};
use time::OffsetDateTime;

pub use self::belief::{Belief, Cloud, Reply};
pub use self::graph::{GraphFault, MOST_SKILLS, SkillGraph};
pub use self::week::{DayPlan, FIRST_WEEK_DAYS, first_week};

use crate::event::{CheckedPart, MarkedPart};
use crate::refusal::Refusal;

/// Questions that a starting point asks at most.
pub const MOST_ASKED: u32 = 30;

/// It ends once this share of the skills, on average, would be placed wrongly at most.
pub const ENOUGH: f64 = 0.04;

/// A question whose answer would tell less than this, in bits, is not worth asking.
pub const TELLS_LITTLE: f64 = 0.03;

/// From here on a skill counts as known.
pub const KNOWN: f64 = 0.5;

/// A starting point alone never says more than this: the first check on a skill decides whether it is solid.
pub const MOST_BELIEVED: f64 = 0.9;

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum PlacingEvent {
    Asked {
        question: String,
        /// Of the question's content.
        version: String,
        seed: u64,
        skill: String,
        /// The probability of being right by guessing.
        guess: f64,
    },
    Answered {
        /// Empty where it was *Not learned yet*.
        parts: Vec<CheckedPart>,
        reply: Reply,
    },
    /// Enough is known, or as much was asked as may be.
    Ended {
        /// The probability that each skill is known, in the order of the graph.
        skills: Vec<(String, f64)>,
    },
}

#[derive(Clone, Debug, PartialEq)]
pub struct RecordedPlacing {
    pub number: u32,
    pub at: OffsetDateTime,
    pub event: PlacingEvent,
}

/// A question that was asked, and what came of it.
#[derive(Clone, Debug, PartialEq)]
pub struct Asked {
    pub question: String,
    pub version: String,
    pub seed: u64,
    pub skill: String,
    pub guess: f64,
    pub reply: Option<Reply>,
}

/// What a starting point came to.
#[derive(Clone, Debug, PartialEq)]
pub struct Placed {
    pub at: OffsetDateTime,
    pub skills: Vec<(String, f64)>,
}

/// A starting point as it stands.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Placing {
    pub asked: Vec<Asked>,
    pub ended: Option<Placed>,
    pub last_event: u32,
}

/// Folds the events of a starting point.
pub fn fold_placing(events: &[RecordedPlacing]) -> Placing {
    let mut placing = Placing::default();
    for recorded in events {
        placing.last_event = recorded.number;
        match &recorded.event {
            PlacingEvent::Asked {
                question,
                version,
                seed,
                skill,
                guess,
            } => placing.asked.push(Asked {
                question: question.clone(),
                version: version.clone(),
                seed: *seed,
                skill: skill.clone(),
                guess: *guess,
                reply: None,
            }),
            PlacingEvent::Answered { reply, .. } => {
                if let Some(last) = placing.asked.last_mut().filter(|a| a.reply.is_none()) {
                    last.reply = Some(*reply);
                }
            }
            PlacingEvent::Ended { skills } => {
                placing.ended = Some(Placed {
                    at: recorded.at,
                    skills: skills.clone(),
                });
            }
        }
    }
    placing
}

impl Placing {
    /// The question that waits for an answer.
    pub fn open(&self) -> Option<&Asked> {
        self.asked.last().filter(|a| a.reply.is_none())
    }

    pub fn answered(&self) -> u32 {
        let answered = self.asked.iter().filter(|a| a.reply.is_some());
        u32::try_from(answered.count()).unwrap_or(u32::MAX)
    }
}

/// A question that can be asked.
#[derive(Clone, Debug, PartialEq)]
pub struct PlacingCandidate {
    pub question: String,
    /// The main skill first.
    pub skills: Vec<String>,
    pub guess: f64,
}

/// What a starting point does next.
#[derive(Clone, Debug, PartialEq)]
pub enum PlacingNext {
    /// Asks the candidate at this place about this skill.
    Ask { place: usize, skill: String },
    /// Ends with this picture: the probability that each skill is known.
    End { skills: Vec<(String, f64)> },
}

/// What comes next: the question that tells most about all the skills, or the end. The same seed and answers always give
/// the same.
pub fn next_in_placing(
    graph: &SkillGraph,
    candidates: &[PlacingCandidate],
    placing: &Placing,
    seed: u64,
) -> PlacingNext {
    let answers = placing.asked.iter().filter_map(|a| {
        let skill = graph.place_of(&a.skill)?;
        Some((skill, a.reply?, a.guess))
    });
    next_believing(graph, candidates, placing, &Belief::after(graph, answers, seed))
}

/// The same where the belief is at hand.
pub fn next_believing(
    graph: &SkillGraph,
    candidates: &[PlacingCandidate],
    placing: &Placing,
    belief: &Belief,
) -> PlacingNext {
    let end = || PlacingNext::End {
        skills: graph.names().map(str::to_owned).zip(belief.known()).collect(),
    };
    if placing.answered() >= MOST_ASKED || belief.expected_wrong() <= ENOUGH {
        return end();
    }
    // Of a skill's questions the one not asked yet, the hardest to guess, the one that needs no other skill.
    let times = |c: &PlacingCandidate| placing.asked.iter().filter(|a| a.question == c.question).count();
    let mut best: Option<(f64, usize, usize)> = None;
    for (skill, name) in graph.names().enumerate() {
        let found = candidates
            .iter()
            .enumerate()
            .filter(|(_, c)| c.skills.first().is_some_and(|s| s == name))
            .min_by(|(_, a), (_, b)| {
                let fewer = times(a).cmp(&times(b)).then(a.guess.total_cmp(&b.guess));
                fewer.then(a.skills.len().cmp(&b.skills.len()))
            });
        let Some((place, candidate)) = found else { continue };
        let tells = belief.tells(skill, candidate.guess);
        if best.is_none_or(|(most, _, _)| tells > most + 1e-12) {
            best = Some((tells, place, skill));
        }
    }
    match best.filter(|(tells, _, _)| *tells >= TELLS_LITTLE) {
        Some((_, place, skill)) => PlacingNext::Ask {
            place,
            skill: graph.name(skill).to_owned(),
        },
        None => end(),
    }
}

/// What came of an answer.
#[derive(Clone, Debug, PartialEq)]
pub enum PlacingAnswer {
    /// Something can't be read or is unfinished: nothing is used up, and nothing is said of the rest.
    Unread(Vec<CheckedPart>),
    Taken(PlacingEvent),
}

/// What an answer comes to. `parts` are the ids of the question's parts; each must have been marked. An answer in another
/// form than the one asked for is taken as it is: nothing is said of it here, so nothing may be tried again.
///
/// # Errors
/// Why the answer is refused; the question stays open.
pub fn answer_in_placing(
    placing: &Placing,
    parts: &[&str],
    marked: &[MarkedPart],
) -> Result<PlacingAnswer, Refusal> {
    let responses: Vec<(String, Response)> = marked
        .iter()
        .map(|m| (m.part.clone(), m.response.clone()))
        .collect();
    given_in_placing(placing, parts, &responses)?;
    let checked: Vec<CheckedPart> = marked.iter().map(CheckedPart::new).collect();
    if checked.iter().any(|p| !p.outcome.is_judged()) {
        let unread = checked.into_iter().filter(|p| !p.outcome.is_judged());
        return Ok(PlacingAnswer::Unread(unread.collect()));
    }
    let right = checked.iter().all(|p| p.score >= 1.0);
    Ok(PlacingAnswer::Taken(PlacingEvent::Answered {
        reply: if right { Reply::Right } else { Reply::Wrong },
        parts: checked,
    }))
}

/// Says what an answer would mark: every part of the open question once.
///
/// # Errors
/// Why it would not; the question stays open.
pub fn given_in_placing(
    placing: &Placing,
    parts: &[&str],
    responses: &[(String, Response)],
) -> Result<Vec<(String, Response)>, Refusal> {
    if placing.open().is_none() {
        return Err(Refusal::Answered);
    }
    crate::practice::every_part_once(parts, responses)
}

/// *Not learned yet*, said of the open question.
///
/// # Errors
/// Where no question is open.
pub fn not_learned(placing: &Placing) -> Result<PlacingEvent, Refusal> {
    placing.open().ok_or(Refusal::Answered)?;
    Ok(PlacingEvent::Answered {
        parts: Vec::new(),
        reply: Reply::NotLearned,
    })
}

/// Where a skill stands after a starting point.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Stratum {
    Known,
    /// Everything it builds on is known.
    Next,
    FarOff,
}

/// Where each skill stands, in the order of the graph, given the probability that each is known.
pub fn strata_after(graph: &SkillGraph, known: &[f64]) -> Vec<Stratum> {
    let is_known = |place: usize| known.get(place).is_some_and(|p| *p >= KNOWN);
    (0..graph.len())
        .map(|place| match place {
            _ if is_known(place) => Stratum::Known,
            _ if graph.requires(place).iter().all(|r| is_known(*r)) => Stratum::Next,
            _ => Stratum::FarOff,
        })
        .collect()
}
