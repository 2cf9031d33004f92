//! Assignments with a goal instead of questions: skills to a level, so many right, pages to read. The score is progress
//! to the goal, and can be handed in at any moment.

use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// What an assignment without questions of its own asks for. Skills are named by their ids.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "goal", rename_all = "snake_case")]
pub enum Goal {
    /// Every skill reaches this score, 1 to 100.
    Level { skills: Vec<String>, score: u8 },
    /// This many right first time, on fresh numbers.
    Right { skills: Vec<String>, right: u32 },
    /// The pages of these skills are read.
    Read { skills: Vec<String> },
    /// The class's starting point is done.
    Start {},
    /// A recording is seen whole, and its stops are answered.
    Watch { recording: Uuid, title: String },
}

/// What a run of practice is for.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct PracticeGoal {
    pub skills: Vec<String>,
    pub target: Target,
    /// Only this question, always on fresh numbers.
    #[serde(default)]
    pub question: Option<String>,
}

impl PracticeGoal {
    /// The same as an assignment would set it.
    pub fn goal(&self) -> Goal {
        let skills = self.skills.clone();
        match self.target {
            Target::Score(score) => Goal::Level { skills, score },
            Target::Right(right) => Goal::Right { skills, right },
        }
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Target {
    /// Every skill reaches this score.
    Score(u8),
    /// This many right first time, on fresh numbers.
    Right(u32),
}

/// How many questions of a run were answered, and how many of them right.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct RunCount {
    pub answered: u32,
    pub right: u32,
}

/// What is wrong with a goal.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum GoalFault {
    #[error("choose at least one skill or page")]
    NoSkill,
    #[error("choose the recording that is to be played")]
    NoRecording,
    #[error("there is no skill `{0}`")]
    UnknownSkill(String),
    #[error("the skill `{0}` is named twice")]
    Twice(String),
    #[error("a score to reach is 1 to 100, not {0}")]
    Score(u8),
    #[error("a number right is 1 to {MOST_RIGHT}, not {0}")]
    Right(u32),
}

/// Right answers that a goal may ask for.
pub const MOST_RIGHT: u32 = 200;

/// How far a goal is reached, with what that is made of: enough to explain a score that was recorded with it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct GoalProgress {
    /// 0 to 1, rounded down to four places.
    pub reached: f64,
    /// In the order of the goal's skills.
    pub lines: Vec<GoalLine>,
}

#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "line", rename_all = "snake_case")]
pub enum GoalLine {
    Skill {
        skill: String,
        score: u8,
        wanted: u8,
    },
    Right {
        right: u32,
        answered: u32,
        wanted: u32,
    },
    Page {
        skill: String,
        read: bool,
    },
    Start {
        done: bool,
    },
    Watch {
        recording: Uuid,
        title: String,
        percent: u8,
    },
}

/// Questions that bringing a skill to its level takes, about; it only serves to compare assignments.
const QUESTIONS_PER_SKILL: usize = 4;

fn percent_of(share: f64) -> u8 {
    #[expect(
        clippy::cast_possible_truncation,
        clippy::cast_sign_loss,
        reason = "between 0 and 100"
    )]
    let percent = (100.0 * share.clamp(0.0, 1.0)).floor() as u8;
    percent
}

impl Goal {
    pub fn skills(&self) -> &[String] {
        match self {
            Goal::Level { skills, .. } | Goal::Right { skills, .. } | Goal::Read { skills } => skills,
            Goal::Start {} | Goal::Watch { .. } => &[],
        }
    }

    /// The goal of the run of practice that works towards it; `None` where there is nothing to practise.
    pub fn practice(&self) -> Option<PracticeGoal> {
        let (skills, target) = match self {
            Goal::Level { skills, score } => (skills, Target::Score(*score)),
            Goal::Right { skills, right } => (skills, Target::Right(*right)),
            Goal::Read { .. } | Goal::Start {} | Goal::Watch { .. } => return None,
        };
        Some(PracticeGoal {
            skills: skills.clone(),
            target,
            question: None,
        })
    }

    /// Whether a goal can be set.
    ///
    /// # Errors
    /// The first thing that is wrong with it.
    pub fn check(&self, is_skill: impl Fn(&str) -> bool) -> Result<(), GoalFault> {
        let skills = self.skills();
        let without = matches!(self, Goal::Start {} | Goal::Watch { .. });
        if skills.is_empty() && !without {
            return Err(GoalFault::NoSkill);
        }
        if matches!(self, Goal::Watch { recording, title } if recording.is_nil() || title.trim().is_empty()) {
            return Err(GoalFault::NoRecording);
        }
        for (place, skill) in skills.iter().enumerate() {
            if !is_skill(skill) {
                return Err(GoalFault::UnknownSkill(skill.clone()));
            }
            if skills.iter().take(place).any(|earlier| earlier == skill) {
                return Err(GoalFault::Twice(skill.clone()));
            }
        }
        match self {
            Goal::Level { score, .. } if !(1..=100).contains(score) => Err(GoalFault::Score(*score)),
            Goal::Right { right, .. } if !(1..=MOST_RIGHT).contains(right) => Err(GoalFault::Right(*right)),
            _ => Ok(()),
        }
    }

    /// How far it is reached, given the count of the practice for it, the scores of skills and which pages were read, and
    /// whether the class's starting point was done; of a recording the share that was seen, and whether it is done.
    pub fn measure(
        &self,
        count: RunCount,
        score_of: impl Fn(&str) -> u8,
        is_read: impl Fn(&str) -> bool,
        started: bool,
        watched: impl Fn(Uuid) -> (f64, bool),
    ) -> GoalProgress {
        let lines: Vec<GoalLine> = match self {
            Goal::Level { skills, score } => {
                let line = |skill: &String| GoalLine::Skill {
                    skill: skill.clone(),
                    score: score_of(skill),
                    wanted: *score,
                };
                skills.iter().map(line).collect()
            }
            Goal::Right { right, .. } => vec![GoalLine::Right {
                right: count.right,
                answered: count.answered,
                wanted: *right,
            }],
            Goal::Read { skills } => {
                let line = |skill: &String| GoalLine::Page {
                    skill: skill.clone(),
                    read: is_read(skill),
                };
                skills.iter().map(line).collect()
            }
            Goal::Start {} => vec![GoalLine::Start { done: started }],
            Goal::Watch { recording, title } => {
                let (share, done) = watched(*recording);
                vec![GoalLine::Watch {
                    recording: *recording,
                    title: title.clone(),
                    // Whole only once its stops are answered, too.
                    percent: if done { 100 } else { percent_of(share).min(99) },
                }]
            }
        };
        let count = f64::from(u32::try_from(lines.len().max(1)).unwrap_or(u32::MAX));
        let share = lines.iter().map(GoalLine::share).sum::<f64>() / count;
        GoalProgress {
            reached: (share * 10_000.0 + 1e-6).floor() / 10_000.0,
            lines,
        }
    }
}

impl GoalLine {
    /// 0 to 1.
    pub fn share(&self) -> f64 {
        let of = |n: u32, wanted: u32| (f64::from(n) / f64::from(wanted.max(1))).min(1.0);
        match self {
            GoalLine::Skill { score, wanted, .. } => of(u32::from(*score), u32::from(*wanted)),
            GoalLine::Right { right, wanted, .. } => of(*right, *wanted),
            GoalLine::Page { read, .. } => f64::from(u8::from(*read)),
            GoalLine::Start { done } => f64::from(u8::from(*done)),
            GoalLine::Watch { percent, .. } => of(u32::from(*percent), 100),
        }
    }
}

impl GoalProgress {
    pub fn is_reached(&self) -> bool {
        self.lines.iter().all(|l| l.share() >= 1.0)
    }

    /// What is left, counted as questions: a right answer as one, a skill as four, a page as one.
    pub fn left(&self) -> usize {
        let one = |line: &GoalLine| match line {
            _ if line.share() >= 1.0 => 0,
            GoalLine::Skill { .. } => QUESTIONS_PER_SKILL,
            GoalLine::Right { right, wanted, .. } => {
                usize::try_from(wanted.saturating_sub(*right)).unwrap_or(0)
            }
            GoalLine::Page { .. } | GoalLine::Start { .. } | GoalLine::Watch { .. } => 1,
        };
        self.lines.iter().map(one).sum()
    }
}
