//! How far a student is with the material of a class's units.

use std::collections::{BTreeMap, BTreeSet};

use coursework::{HowFar, Level, Material, Refusal, STEADY, State, Unit, UnitItem, held_back, state};
use marking::Recording;
use store::PersonId;
use uuid::Uuid;

use crate::School;
use crate::content::{find_page, find_skill, title_of};
use crate::error::SchoolError;
use crate::glance::Glance;
use crate::learner::Learner;

/// Recordings that questions ship with, by question and sound.
pub type Recordings = BTreeMap<(String, String), Recording>;

/// What a student's standing in units comes from.
pub struct Progress<'a> {
    pub glances: &'a [Glance],
    pub learner: &'a Learner,
    pub heard: BTreeSet<Uuid>,
    /// Those of the units that are there.
    pub recordings: Recordings,
}

impl<'a> Progress<'a> {
    /// For these units.
    ///
    /// # Errors
    /// What the database said.
    pub async fn load(
        school: &School,
        person: PersonId,
        units: &[Unit],
        glances: &'a [Glance],
        learner: &'a Learner,
    ) -> Result<Progress<'a>, SchoolError> {
        let heard = store::heard_by(&school.pool, person).await?;
        let mut recordings = Recordings::new();
        for item in units.iter().flat_map(|u| &u.items) {
            if let Material::Recording { question, sound } = &item.material
                && let Some(found) = recording(school, question, sound).await?
            {
                recordings.insert((question.clone(), sound.clone()), found);
            }
        }
        Ok(Progress {
            glances,
            learner,
            heard,
            recordings,
        })
    }
}

impl Progress<'_> {
    pub fn glance(&self, assignment: Uuid) -> Option<&Glance> {
        self.glances.iter().find(|g| g.stored.head.id == assignment)
    }

    pub fn recording(&self, material: &Material) -> Option<&Recording> {
        match material {
            Material::Recording { question, sound } => {
                self.recordings.get(&(question.clone(), sound.clone()))
            }
            _ => None,
        }
    }

    /// How far the student is with it; what is gone from the bank is as little there as what was not given out.
    pub fn standing(&self, item: &UnitItem) -> HowFar {
        match &item.material {
            Material::Page { skill } if find_page(skill).is_none() => HowFar::Absent,
            Material::Page { skill } => match self.learner.page(skill) {
                Some(page) if page.read_at.is_some() => HowFar::Done,
                Some(_) => HowFar::Begun,
                None => HowFar::Open,
            },
            Material::Recording { .. } if self.recording(&item.material).is_none() => HowFar::Absent,
            Material::Recording { .. } if self.heard.contains(&item.id) => HowFar::Done,
            Material::Recording { .. } => HowFar::Open,
            Material::Practice { skill } if find_skill(skill).is_none() => HowFar::Absent,
            Material::Practice { skill } => {
                let mastery = self.learner.mastery(skill);
                match mastery.level {
                    _ if mastery.score >= STEADY => HowFar::Done,
                    Level::New => HowFar::Open,
                    _ => HowFar::Begun,
                }
            }
            Material::Assignment { assignment } => match self.glance(*assignment) {
                None => HowFar::Absent,
                Some(glance) => match state(&glance.assignment, &glance.work, glance.now) {
                    State::NotOpened => HowFar::Open,
                    State::UnderWay => HowFar::Begun,
                    // What has closed can't be done any more, and holds nothing back.
                    State::HandedIn | State::WithTheTeacher | State::Marked | State::Closed => HowFar::Done,
                },
            },
        }
    }

    pub fn standings(&self, unit: &Unit) -> Vec<HowFar> {
        unit.items.iter().map(|i| self.standing(i)).collect()
    }

    /// What has to be done first, by the assignment that it holds back.
    fn held(&self, units: &[Unit]) -> BTreeMap<Uuid, UnitItem> {
        let mut all = BTreeMap::new();
        for unit in units {
            let firsts = held_back(unit.order, &self.standings(unit));
            for (item, first) in unit.items.iter().zip(firsts) {
                let first = first.and_then(|f| unit.items.get(f));
                if let (Material::Assignment { assignment }, Some(first)) = (&item.material, first) {
                    all.insert(*assignment, first.clone());
                }
            }
        }
        all
    }
}

/// Whether a student may begin an assignment now, as far as the order of its unit goes.
///
/// # Errors
/// `SomethingFirst` where the teacher asks for something else first.
pub async fn may_begin(school: &School, assignment: Uuid, person: PersonId) -> Result<(), SchoolError> {
    match first(school, assignment, person).await? {
        Some(_) => Err(Refusal::SomethingFirst.into()),
        None => Ok(()),
    }
}

/// What a teacher asks for before an assignment is begun.
///
/// # Errors
/// What the database said.
pub async fn first(
    school: &School,
    assignment: Uuid,
    person: PersonId,
) -> Result<Option<UnitItem>, SchoolError> {
    let mut units = store::asked_units_of(&school.pool, person).await?;
    units.retain(|u| u.items.iter().any(|i| i.is_assignment(assignment)));
    if units.is_empty() {
        return Ok(None);
    }
    let glances = Glance::all(school, person).await?;
    let learner = Learner::of(school, person, &glances).await?;
    let progress = Progress::load(school, person, &units, &glances, &learner).await?;
    Ok(progress.held(&units).remove(&assignment))
}

/// What teachers ask for before a student's assignments are begun, by the assignment that waits for it: by its title.
///
/// # Errors
/// What the database said.
pub async fn firsts(
    school: &School,
    person: PersonId,
    glances: &[Glance],
    learner: &Learner,
) -> Result<BTreeMap<Uuid, String>, SchoolError> {
    let units = store::asked_units_of(&school.pool, person).await?;
    let mut titles = BTreeMap::new();
    if units.is_empty() {
        return Ok(titles);
    }
    let progress = Progress::load(school, person, &units, glances, learner).await?;
    for (assignment, first) in progress.held(&units) {
        if let Some(title) = title_of_material(school, &first.material).await? {
            titles.insert(assignment, title);
        }
    }
    Ok(titles)
}

/// The recordings that questions of the bank ship with, and that name no number of a set: question, sound, and what is heard.
///
/// # Errors
/// What the database said.
pub async fn recordings(school: &School) -> Result<Vec<(String, String, Recording)>, SchoolError> {
    let mut all = Vec::new();
    for (_, question) in store::newest_questions(&school.pool).await? {
        for (name, sound) in &question.sounds {
            if let Some(recording) = sound.as_recording() {
                all.push((question.id.clone(), name.clone(), recording));
            }
        }
    }
    all.sort_by(|a, b| a.2.title.cmp(&b.2.title));
    Ok(all)
}

/// One recording of a question in the bank.
///
/// # Errors
/// What the database said.
pub async fn recording(
    school: &School,
    question: &str,
    sound: &str,
) -> Result<Option<Recording>, SchoolError> {
    let id = store::find_question_by_slug(&school.pool, question).await?;
    let found = match id {
        Some(id) => store::find_question(&school.pool, id).await?,
        None => None,
    };
    let sound = found.as_ref().and_then(|q| q.sounds.get(sound));
    Ok(sound.and_then(marking::Sound::as_recording))
}

/// What something in a unit is called; nothing where it is gone.
///
/// # Errors
/// What the database said.
pub async fn title_of_material(school: &School, material: &Material) -> Result<Option<String>, SchoolError> {
    Ok(match material {
        Material::Page { skill } | Material::Practice { skill } => Some(title_of(skill)),
        Material::Recording { question, sound } => recording(school, question, sound).await?.map(|r| r.title),
        Material::Assignment { assignment } => match school.assignment(*assignment, None).await {
            Ok(stored) => Some(stored.head.title.clone()),
            Err(SchoolError::NotFound) => None,
            Err(other) => return Err(other),
        },
    })
}
