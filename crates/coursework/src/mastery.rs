//! What a student can do, from the evidence of first checks alone: Bayesian Knowledge Tracing (A. T. Corbett and
//! J. R. Anderson, "Knowledge tracing: modeling the acquisition of procedural knowledge", User Modeling and
//! User-Adapted Interaction 4, 1995), with forgetting between days (M. Khajah, R. V. Lindsey and M. C. Mozer, "How deep
//! is knowledge tracing?", Educational Data Mining 2016). Powers and logarithms come from `libm`, so that scores are the
//! same on every machine, whatever its own functions round to. `docs/mastery.md` says how the parameters were chosen.

use std::collections::BTreeMap;

use time::{Duration, OffsetDateTime};

use crate::work::Work;

/// The model's parameters; all but the last are probabilities.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Parameters {
    /// Known before the first check.
    pub known_at_first: f64,
    /// Learned at a check, if it was not known.
    pub learned: f64,
    /// Wrong although it is known.
    pub slip: f64,
    /// Right although it is not known, where an answer is typed.
    pub guess_typed: f64,
    /// Forgotten in a day.
    pub forgotten_daily: f64,
    /// How much a check after a hint or a worked example counts, beside one without.
    pub weight_after_help: f64,
    /// How much a check counts for a skill that a question also needs, beside its main one.
    pub weight_beside: f64,
}

/// The parameters of every skill; skills may come to have their own when there are data to fit them.
pub const PARAMETERS: Parameters = Parameters {
    known_at_first: 0.2,
    learned: 0.005,
    slip: 0.1,
    guess_typed: 0.05,
    forgotten_daily: 0.008,
    weight_after_help: 0.5,
    weight_beside: 0.5,
};

/// A score from here on is solid.
pub const SOLID: u8 = 95;
/// A score from here on is steady.
pub const STEADY: u8 = 60;
/// What was solid and has fallen below this by forgetting is fading.
pub const FADING_BELOW: u8 = 80;

/// Points of a course: a year of days, and the checks between them.
pub const LONGEST_COURSE: usize = 600;

/// One first check on a set.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Evidence {
    pub at: OffsetDateTime,
    pub right: bool,
    /// The probability of being right by guessing.
    pub guess: f64,
    /// 1 for full evidence; less after help, or where the skill is not the question's main one.
    pub weight: f64,
}

/// What a starting point found out about a skill. It stands for what came before the first check; where a check came
/// before it, that says more, and this nothing.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Start {
    pub at: OffsetDateTime,
    /// The probability that it was known.
    pub known: f64,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Level {
    New,
    Growing,
    Steady,
    Solid,
    /// Was solid; forgetting has brought it below 80.
    Fading,
}

/// A skill of one student at one instant.
#[derive(Clone, Debug, PartialEq)]
pub struct Mastery {
    /// 100 times the probability that it is known, rounded down, so that 95 is never shown for less.
    pub score: u8,
    pub level: Level,
    /// The score just after each piece of evidence, oldest first.
    pub history: Vec<(Evidence, u8)>,
    /// The score that a starting point gave it, where it rests on one.
    pub from_start: Option<u8>,
    /// Of a fading skill: when it fell below 80.
    pub faded_at: Option<OffsetDateTime>,
    /// The score if the next typed check comes out right, and if it comes out wrong.
    pub next_right: u8,
    pub next_wrong: u8,
}

fn score(known: f64) -> u8 {
    #[expect(
        clippy::cast_possible_truncation,
        clippy::cast_sign_loss,
        reason = "between 0 and 100"
    )]
    let score = (100.0 * known.clamp(0.0, 1.0)).floor() as u8;
    score
}

fn sorted(evidence: &[Evidence], now: OffsetDateTime) -> Vec<Evidence> {
    let mut sorted: Vec<Evidence> = evidence.iter().copied().filter(|e| e.at <= now).collect();
    sorted.sort_by_key(|e| e.at);
    sorted
}

/// A starting point counts where no check came before it.
fn in_force(start: Option<Start>, sorted: &[Evidence], now: OffsetDateTime) -> Option<Start> {
    let first = sorted.first().map(|e| e.at);
    start.filter(|s| s.at <= now && first.is_none_or(|first| s.at <= first))
}

impl Parameters {
    /// The probability that it is known after a check.
    fn after(&self, known: f64, right: bool, guess: f64, weight: f64) -> f64 {
        let (if_known, if_not) = if right {
            (1.0 - self.slip, guess)
        } else {
            (self.slip, 1.0 - guess)
        };
        // Weaker evidence: its likelihood ratio, tempered.
        let ratio = libm::pow(if_known / if_not, weight);
        let known = known * ratio / (known * ratio + 1.0 - known);
        known + (1.0 - known) * self.learned
    }

    fn forgotten(&self, known: f64, from: OffsetDateTime, to: OffsetDateTime) -> f64 {
        let days = ((to - from).as_seconds_f64() / 86_400.0).max(0.0);
        known * libm::pow(1.0 - self.forgotten_daily, days)
    }

    /// When forgetting alone brings a score below a bound; `None` if it is there already.
    fn falls_below(&self, known: f64, bound: u8, from: OffsetDateTime) -> Option<OffsetDateTime> {
        let days = libm::log(f64::from(bound) / 100.0 / known) / libm::log(1.0 - self.forgotten_daily);
        (days.is_finite() && (0.0..36_500.0).contains(&days))
            .then(|| from + Duration::seconds_f64(days * 86_400.0))
    }

    /// How the score went: just before and just after each piece of evidence, after each whole day without any, and at
    /// the end. Oldest first; empty without evidence. At most [`LONGEST_COURSE`] points, the oldest left out.
    pub fn course(
        &self,
        start: Option<Start>,
        evidence: &[Evidence],
        now: OffsetDateTime,
    ) -> Vec<(OffsetDateTime, u8)> {
        let sorted = sorted(evidence, now);
        let start = in_force(start, &sorted, now);
        let mut points: Vec<_> = start.iter().map(|s| (s.at, score(s.known))).collect();
        let mut known = start.map_or(self.known_at_first, |s| s.known);
        let mut last: Option<OffsetDateTime> = start.map(|s| s.at);
        let ends = sorted.iter().map(|e| (e.at, Some(e))).chain([(now, None)]);
        for (at, e) in ends {
            if let Some(last) = last {
                let day = |n: i64| last + Duration::days(n);
                let whole = (1..).map(day).take_while(|d| *d < at);
                points.extend(whole.map(|d| (d, score(self.forgotten(known, last, d)))));
                known = self.forgotten(known, last, at);
            }
            match e {
                Some(e) => {
                    if last.is_some() {
                        points.push((at, score(known)));
                    }
                    known = self.after(known, e.right, e.guess, e.weight);
                }
                None if last.is_none() => break,
                None => {}
            }
            last = Some(at);
            points.push((at, score(known)));
        }
        let older = points.len().saturating_sub(LONGEST_COURSE);
        points.split_off(older)
    }

    /// What evidence says at an instant. The order of the evidence is that of its instants; later evidence is left out.
    pub fn mastery(&self, evidence: &[Evidence], now: OffsetDateTime) -> Mastery {
        self.mastery_from(None, evidence, now)
    }

    /// The same after a starting point.
    pub fn mastery_from(&self, start: Option<Start>, evidence: &[Evidence], now: OffsetDateTime) -> Mastery {
        let sorted = sorted(evidence, now);
        let start = in_force(start, &sorted, now);
        let mut known = start.map_or(self.known_at_first, |s| s.known);
        let mut last: Option<OffsetDateTime> = start.map(|s| s.at);
        let mut was_solid = false;
        let mut history = Vec::with_capacity(sorted.len());
        for e in sorted {
            if let Some(last) = last {
                known = self.forgotten(known, last, e.at);
            }
            known = self.after(known, e.right, e.guess, e.weight);
            // Falling by a wrong answer is not fading.
            was_solid = score(known) >= SOLID || (was_solid && e.right);
            last = Some(e.at);
            history.push((e, score(known)));
        }
        let fell_at = last.and_then(|last| self.falls_below(known, FADING_BELOW, last));
        if let Some(last) = last {
            known = self.forgotten(known, last, now);
        }
        let score_now = score(known);
        let level = match score_now {
            // What a starting point found not to be known yet is as new as before.
            s if history.is_empty() && (start.is_none() || s < STEADY) => Level::New,
            s if s >= SOLID => Level::Solid,
            s if was_solid && s < FADING_BELOW => Level::Fading,
            s if s >= STEADY => Level::Steady,
            _ => Level::Growing,
        };
        Mastery {
            score: if history.is_empty() && start.is_none() {
                0
            } else {
                score_now
            },
            from_start: start.map(|s| score(s.known)),
            level,
            faded_at: fell_at.filter(|_| level == Level::Fading),
            history,
            next_right: score(self.after(known, true, self.guess_typed, 1.0)),
            next_wrong: score(self.after(known, false, self.guess_typed, 1.0)),
        }
    }
}

/// A question as far as evidence needs to know it.
#[derive(Clone, Debug, PartialEq)]
pub struct SkillQuestion {
    /// The main skill first.
    pub skills: Vec<String>,
    /// The probability of being right by guessing.
    pub guess: f64,
}

/// The evidence in a student's work, by skill: the first check on each set that was judged at all. The caller leaves
/// out work whose verdicts are not released.
pub fn evidence_of(
    parameters: &Parameters,
    work: &Work,
    questions: &[SkillQuestion],
) -> BTreeMap<String, Vec<Evidence>> {
    let mut found: BTreeMap<String, Vec<Evidence>> = BTreeMap::new();
    for (state, question) in work.questions.iter().zip(questions) {
        for set in &state.sets {
            let Some(first) = set.tries.iter().find(|t| t.judged) else {
                continue;
            };
            let helped = first.hints_before > 0 || first.example_before;
            let weight = if helped { parameters.weight_after_help } else { 1.0 };
            for (place, skill) in question.skills.iter().enumerate() {
                let beside = if place == 0 { 1.0 } else { parameters.weight_beside };
                found.entry(skill.clone()).or_default().push(Evidence {
                    at: first.at,
                    right: !first.wrong,
                    guess: question.guess,
                    weight: weight * beside,
                });
            }
        }
    }
    found
}

/// Whether a skill is open to practise: all its prerequisites are at least steady. Else the ones that are not.
pub fn missing_prerequisites(requires: &[String], level_of: impl Fn(&str) -> (u8, Level)) -> Vec<&str> {
    let enough = |id: &str| {
        let (score, level) = level_of(id);
        level != Level::New && score >= STEADY
    };
    requires
        .iter()
        .map(String::as_str)
        .filter(|id| !enough(id))
        .collect()
}
