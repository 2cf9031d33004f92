//! The world's file.

use std::path::Path;

use coursework::{Goal, Kind, Settings, UnitOrder};
use serde::Deserialize;
use time::{Duration, OffsetDateTime, Time};

use super::WorldError;
use crate::content::find_skill;

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct World {
    pub(super) school: String,
    pub(super) people: Vec<WorldPerson>,
    pub(super) classes: Vec<WorldClass>,
    #[serde(default)]
    pub(super) practice: Vec<WorldPractice>,
    #[serde(default)]
    pub(super) reading: Vec<WorldReading>,
    #[serde(default)]
    pub(super) messages: Vec<WorldMessage>,
    #[serde(default)]
    pub(super) wishes: Vec<WorldWish>,
}

/// What a student asked from a question of their work.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct WorldMessage {
    pub student: String,
    /// By its slug.
    pub assignment: String,
    /// From 1.
    pub question: usize,
    #[serde(default)]
    pub query: bool,
    #[serde(default)]
    pub for_class: bool,
    pub hours_ago: i64,
    pub body: String,
    /// Of the class's teacher; nothing while it waits.
    #[serde(default)]
    pub answer: Option<String>,
}

/// Practice of a student's own accord, some days from the start.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct WorldPractice {
    pub student: String,
    pub skill: String,
    pub in_days: i64,
    pub answers: Vec<Answer>,
}

#[derive(Clone, Copy, Deserialize)]
#[serde(rename_all = "lowercase")]
pub(super) enum Answer {
    Right,
    Wrong,
}

/// Pages a student has read, and others with the step where they were left.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct WorldReading {
    pub student: String,
    pub in_days: i64,
    pub pages: Vec<String>,
    #[serde(default)]
    pub left_at: Vec<(String, usize)>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct WorldPerson {
    pub user_name: String,
    /// Who has none is there as a classmate only.
    #[serde(default)]
    pub password: Option<String>,
    pub name: String,
    role: WorldRole,
}

impl WorldPerson {
    pub fn is_teacher(&self) -> bool {
        self.role == WorldRole::Teacher
    }
}

#[derive(Deserialize, Clone, Copy, PartialEq)]
#[serde(rename_all = "lowercase")]
enum WorldRole {
    Student,
    Teacher,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct WorldClass {
    pub title: String,
    pub members: Vec<String>,
    pub assignments: Vec<WorldAssignment>,
    /// From the teacher, on the class's page.
    #[serde(default)]
    pub word: String,
    #[serde(default)]
    pub units: Vec<WorldUnit>,
    /// Skills that the class's teacher suggests.
    #[serde(default)]
    pub suggested: Vec<WorldSuggestion>,
    /// Starting points that were done.
    #[serde(default)]
    pub starts: Vec<WorldStart>,
}

/// A starting point as students did it who know these skills and what they build on.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct WorldStart {
    pub students: Vec<String>,
    pub knows: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct WorldUnit {
    pub title: String,
    #[serde(default)]
    pub about: String,
    #[serde(default)]
    pub order: UnitOrder,
    pub items: Vec<WorldItem>,
}

/// Something in a unit.
#[derive(Clone, Deserialize)]
#[serde(rename_all = "lowercase")]
pub(super) enum WorldItem {
    Page(String),
    Practice(String),
    /// A question, and the sound's name in it.
    Recording(String, String),
    /// An assignment of the class, by its slug.
    Work(String),
}

/// A skill that is suggested to the class, or to one student of it.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct WorldSuggestion {
    pub skill: String,
    #[serde(default)]
    pub student: Option<String>,
    pub why: String,
}

/// Skills that a student would like to work on.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct WorldWish {
    pub student: String,
    pub skills: Vec<String>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct WorldAssignment {
    pub slug: String,
    pub title: String,
    kind: Kind,
    /// Days from the start of the demo; before it below nought.
    opens_in_days: i64,
    due_in_days: i64,
    /// Days between due and closing.
    #[serde(default)]
    late_days: i64,
    /// Settings that differ from those of the kind, by their names.
    #[serde(default)]
    settings: serde_json::Map<String, serde_json::Value>,
    #[serde(default)]
    pub questions: Vec<String>,
    #[serde(default)]
    pub work: Vec<WorldWork>,
}

/// Work that is there when the demo starts.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct WorldWork {
    pub students: Vec<String>,
    #[serde(default)]
    pub exception: Option<WorldException>,
    #[serde(default)]
    pub steps: Vec<Step>,
    /// Questions of the practice it sets, answered one after the other.
    #[serde(default)]
    pub practise: Vec<Answer>,
    #[serde(default)]
    pub minutes: i64,
    /// What happened until then was looked at.
    #[serde(default)]
    pub seen: bool,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct WorldException {
    #[serde(default)]
    pub due_in_days: Option<i64>,
    #[serde(default)]
    pub time_percent: Option<u32>,
    #[serde(default)]
    pub more_hand_ins: u32,
}

/// What a student does, some days from the start.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Step {
    pub in_days: i64,
    /// Questions answered rightly, from 1.
    #[serde(default)]
    pub right: Vec<usize>,
    /// Of all questions, about this share in per cent; each student's differ.
    #[serde(default)]
    pub right_percent: Option<u64>,
    /// Questions checked once with this entry.
    #[serde(default)]
    pub tried: Vec<(usize, String)>,
    /// Entries that are only typed.
    #[serde(default)]
    pub typed: Vec<(usize, String)>,
    #[serde(default)]
    pub hints: Vec<usize>,
    #[serde(default)]
    pub working: Vec<usize>,
    #[serde(default)]
    pub fresh: Vec<usize>,
    #[serde(default)]
    pub hand_in: bool,
    /// The teacher gives points for a question.
    #[serde(default)]
    pub teacher: Option<Given>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub(super) struct Given {
    pub question: usize,
    pub points: f64,
    pub note: String,
}

/// # Errors
/// What is wrong with the file.
pub fn read_world(path: &Path) -> Result<World, WorldError> {
    let text = std::fs::read_to_string(path).map_err(|e| format!("{}: {e}", path.display()))?;
    serde_saphyr::from_str(&text).map_err(|e| format!("{}: {e}", path.display()).into())
}

/// The sign-ins of the world, for printing.
pub fn sign_ins(world: &World) -> String {
    let mut out = format!("{}\n", world.school);
    for p in &world.people {
        let Some(password) = &p.password else { continue };
        let role = if p.is_teacher() { "teacher" } else { "student" };
        out.push_str(&format!(
            "  {:<16} password {password:<16} {} ({role})\n",
            p.user_name, p.name
        ));
    }
    out
}

/// The last minute of the day that is so many days from now.
pub(super) fn end_of_day(now: OffsetDateTime, days: i64) -> OffsetDateTime {
    let last_minute = Time::from_hms(23, 59, 0).unwrap_or(Time::MIDNIGHT);
    (now + Duration::days(days)).replace_time(last_minute)
}

impl WorldAssignment {
    fn check_goal(&self, settings: &Settings) -> Result<(), WorldError> {
        let Some(goal) = &settings.goal else {
            return match (self.kind, self.questions.is_empty()) {
                (Kind::Reading, _) => Err("reading needs a goal".into()),
                (_, true) => Err("it has neither questions nor a goal".into()),
                _ => Ok(()),
            };
        };
        if !self.questions.is_empty() {
            return Err("it has a goal, so it has no questions of its own".into());
        }
        let reads = matches!(goal, Goal::Read { .. });
        if reads != (self.kind == Kind::Reading) {
            return Err("reading has pages to read as its goal, and nothing else has".into());
        }
        goal.check(|skill| find_skill(skill).is_some())
            .map_err(|fault| fault.to_string().into())
    }

    pub fn settings(&self, now: OffsetDateTime) -> Result<Settings, WorldError> {
        let opens = now + Duration::days(self.opens_in_days);
        let due = end_of_day(now, self.due_in_days);
        let mut settings = match self.kind {
            Kind::Quiz => Settings::quiz(opens, due),
            kind => Settings {
                kind,
                ..Settings::homework(opens, due)
            },
        };
        settings.closes = due + Duration::days(self.late_days);
        let mut json = serde_json::to_value(&settings).map_err(|e| e.to_string())?;
        let fields = json.as_object_mut().ok_or("settings are an object")?;
        for (name, value) in &self.settings {
            if !fields.contains_key(name) {
                return Err(WorldError::Script(format!(
                    "assignment `{}`: there is no setting `{name}`",
                    self.slug
                )));
            }
            fields.insert(name.clone(), value.clone());
        }
        let settings: Settings =
            serde_json::from_value(json).map_err(|e| format!("assignment `{}`: {e}", self.slug))?;
        self.check_goal(&settings)
            .map_err(|fault| format!("assignment `{}`: {fault}", self.slug))?;
        Ok(settings)
    }
}
