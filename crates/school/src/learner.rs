//! What one student can do, has practised and has read, from all of their work.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use coursework::{
    Assignment, Evidence, Goal, GoalProgress, Level, MOST_BELIEVED, Mastery, PARAMETERS, Run, RunCount,
    ShowSolution, SkillQuestion, Start, evidence_of, missing_prerequisites, practice_evidence, terms,
    verdicts_visible,
};
use marking::{Question, Skill};
use store::{PageRead, PersonId, RunId, SlipNote, StartFound, WorkId};
use time::OffsetDateTime;
use uuid::Uuid;

use crate::School;
use crate::error::SchoolError;
use crate::glance::Glance;

/// One piece of evidence and where it came from.
#[derive(Clone, Debug)]
pub struct Sourced {
    pub evidence: Evidence,
    pub source: String,
}

/// A run of practice; one that was set as an assignment carries its names.
pub struct PractisedRun {
    pub id: RunId,
    pub work: Option<WorkId>,
    pub title: String,
    pub class: Option<String>,
    /// Without what was entered.
    pub run: Arc<Run>,
}

/// A skill that stands open because a teacher set practice on it.
struct OpenedByTeacher {
    skill: String,
    assignment: String,
}

pub struct Learner {
    evidence: BTreeMap<String, Vec<Sourced>>,
    pub runs: Vec<PractisedRun>,
    pub pages: Vec<PageRead>,
    /// Their own lines beside their slips.
    pub notes: Vec<SlipNote>,
    opened: Vec<OpenedByTeacher>,
    kept_for_quizzes: BTreeSet<String>,
    working_withheld: BTreeSet<String>,
    /// The seeds of one's own sets, by question, where they can still be handed in.
    open_sets: BTreeMap<String, Vec<u64>>,
    /// Something typed was checked at least once.
    pub has_typed: bool,
    /// What their starting points came to, the oldest first.
    pub starts: Vec<StartFound>,
    /// Of each recording they began: the share that was seen, and whether it is done.
    watched: BTreeMap<Uuid, (f64, bool)>,
    /// The instant at which this is so.
    pub now: OffsetDateTime,
}

impl Learner {
    /// # Errors
    /// What the database said.
    pub async fn load(school: &School, person: PersonId) -> Result<Learner, SchoolError> {
        Self::of(school, person, &Glance::all(school, person).await?).await
    }

    /// From the student's assignments, where they are at hand. Only verdicts that the student may see are evidence.
    ///
    /// # Errors
    /// What the database said.
    pub async fn of(school: &School, person: PersonId, glances: &[Glance]) -> Result<Learner, SchoolError> {
        let beside = school.beside(person).await?;
        let mut learner = Learner {
            evidence: BTreeMap::new(),
            runs: Vec::new(),
            pages: beside.pages.clone(),
            notes: beside.notes.clone(),
            opened: Vec::new(),
            kept_for_quizzes: BTreeSet::new(),
            working_withheld: BTreeSet::new(),
            open_sets: BTreeMap::new(),
            has_typed: false,
            starts: beside.starts.clone(),
            watched: beside.watched.clone(),
            now: school.now(),
        };
        for glance in glances {
            learner.take_glance(glance);
        }
        for (id, work, run) in &beside.runs {
            let (id, work, run) = (*id, *work, run.clone());
            let set_by = glances.iter().find(|g| work.is_some() && g.work_id == work);
            let title = set_by.map_or_else(|| "Practice".to_owned(), |g| g.stored.head.title.clone());
            learner.has_typed |= run.has_typed();
            for (skill, evidence) in practice_evidence(&PARAMETERS, &run) {
                learner.take(skill, evidence, &title);
            }
            learner.runs.push(PractisedRun {
                id,
                work,
                title,
                class: set_by.map(|g| g.stored.head.class_title.clone()),
                run,
            });
        }
        for found in learner.evidence.values_mut() {
            found.sort_by_key(|s| s.evidence.at);
        }
        Ok(learner)
    }

    fn take(&mut self, skill: String, evidence: Evidence, source: &str) {
        let source = source.to_owned();
        self.evidence
            .entry(skill)
            .or_default()
            .push(Sourced { evidence, source });
    }

    fn take_glance(&mut self, glance: &Glance) {
        self.has_typed |= glance.work.has_typed();
        let settings = &glance.assignment.settings;
        let set = settings.goal.as_ref().and_then(Goal::practice);
        if let Some(goal) = set.filter(|_| terms(&glance.assignment, &glance.work).opens <= self.now) {
            self.opened
                .extend(goal.skills.into_iter().map(|skill| OpenedByTeacher {
                    skill,
                    assignment: glance.stored.head.title.clone(),
                }));
        }
        if glance.now < terms(&glance.assignment, &glance.work).closes {
            for (place, (_, question)) in glance.stored.questions.iter().enumerate() {
                let seeds = self.open_sets.entry(question.id.clone()).or_default();
                seeds.extend(glance.work.seeds(place));
            }
        }
        if settings.show_solution == ShowSolution::Never {
            let questions = glance.stored.questions.iter().map(|(_, q)| q.id.clone());
            self.working_withheld.extend(questions);
        }
        if !verdicts_visible(&glance.assignment, &glance.work, glance.now) {
            if glance.now < terms(&glance.assignment, &glance.work).closes {
                let questions = glance.stored.questions.iter().map(|(_, q)| q.id.clone());
                self.kept_for_quizzes.extend(questions);
            }
            return;
        }
        let question = |q: &Question| SkillQuestion {
            skills: q.skills.clone(),
            guess: q.guess(PARAMETERS.guess_typed),
        };
        let questions: Vec<SkillQuestion> =
            glance.stored.questions.iter().map(|(_, q)| question(q)).collect();
        for (skill, found) in evidence_of(&PARAMETERS, &glance.work, &questions) {
            for evidence in found {
                self.take(skill.clone(), evidence, &glance.stored.head.title);
            }
        }
    }

    /// The evidence for a skill, oldest first.
    pub fn evidence(&self, skill: &str) -> &[Sourced] {
        self.evidence.get(skill).map(Vec::as_slice).unwrap_or_default()
    }

    fn bare_evidence(&self, skill: &str) -> Vec<Evidence> {
        self.evidence(skill).iter().map(|s| s.evidence).collect()
    }

    pub fn mastery(&self, skill: &str) -> Mastery {
        PARAMETERS.mastery_from(self.start(skill), &self.bare_evidence(skill), self.now)
    }

    /// What the newest starting point found out about a skill.
    pub fn start_found(&self, skill: &str) -> Option<(&StartFound, Start)> {
        self.starts.iter().rev().find_map(|found| {
            let (_, known) = found.skills.iter().find(|(name, _)| name == skill)?;
            let known = known.clamp(0.0, MOST_BELIEVED);
            Some((found, Start { at: found.at, known }))
        })
    }

    fn start(&self, skill: &str) -> Option<Start> {
        self.start_found(skill).map(|(_, start)| start)
    }

    /// How a skill's score went, oldest first.
    pub fn course(&self, skill: &str) -> Vec<(OffsetDateTime, u8)> {
        PARAMETERS.course(self.start(skill), &self.bare_evidence(skill), self.now)
    }

    pub fn score(&self, skill: &str) -> u8 {
        self.mastery(skill).score
    }

    pub fn page(&self, skill: &str) -> Option<&PageRead> {
        self.pages.iter().find(|p| p.skill == skill)
    }

    pub fn has_read(&self, skill: &str) -> bool {
        self.page(skill).is_some_and(|p| p.read_at.is_some())
    }

    /// The assignment by which a teacher opened a skill.
    pub fn opened_by(&self, skill: &str) -> Option<&str> {
        let found = self.opened.iter().find(|o| o.skill == skill);
        found.map(|o| o.assignment.as_str())
    }

    /// Prerequisites that keep a skill closed. What was worked on already stays open, whatever became of what it stands
    /// on, and so does what a teacher opened.
    pub fn missing<'a>(&self, skill: &'a Skill) -> Vec<&'a str> {
        let level_of = |id: &str| {
            let mastery = self.mastery(id);
            (mastery.score, mastery.level)
        };
        if level_of(&skill.id).1 != Level::New || self.opened_by(&skill.id).is_some() {
            return Vec::new();
        }
        missing_prerequisites(&skill.requires, level_of)
    }

    /// Whether a question belongs to a quiz whose results are still to come: it is not practised till then.
    pub fn is_kept_for_quiz(&self, question: &str) -> bool {
        self.kept_for_quizzes.contains(question)
    }

    /// The sets of a question that this student can still hand in: their numbers are not shown elsewhere with the answer.
    /// `None` where no work with it is open.
    pub fn open_sets(&self, question: &str) -> Option<&[u64]> {
        self.open_sets.get(question).map(Vec::as_slice)
    }

    /// Whether the answer to a question may be shown outside its homework: with other numbers it may; a question without
    /// them is the homework's own while that is open.
    pub fn may_show(&self, question: &Question) -> bool {
        question.is_drawn() || self.open_sets(&question.id).is_none()
    }

    /// Whether a teacher of this student never shows the working of a question: then it is not shown elsewhere either.
    pub fn withholds_working(&self, question: &str) -> bool {
        self.working_withheld.contains(question)
    }

    fn count_for(&self, work: Option<WorkId>) -> RunCount {
        let found = self.runs.iter().find(|r| work.is_some() && r.work == work);
        found.map(|r| r.run.count()).unwrap_or_default()
    }

    /// How far the goal of a class's assignment is reached now, if it has one.
    pub fn progress(
        &self,
        class: Uuid,
        assignment: &Assignment,
        work: Option<WorkId>,
    ) -> Option<GoalProgress> {
        let goal = assignment.settings.goal.as_ref()?;
        let started = self.starts.iter().any(|s| s.class == class);
        Some(self.measure(goal, self.count_for(work), started))
    }

    pub fn measure(&self, goal: &Goal, count: RunCount, started: bool) -> GoalProgress {
        goal.measure(
            count,
            |skill| self.score(skill),
            |skill| self.has_read(skill),
            started,
            |recording| self.watched.get(&recording).copied().unwrap_or((0.0, false)),
        )
    }

    /// The run of practice with this id.
    pub fn run(&self, id: Uuid) -> Option<&PractisedRun> {
        self.runs.iter().find(|r| r.id.0 == id)
    }
}
