//! How far a student is with the material of a class's units.

use std::collections::BTreeSet;

use coursework::{HowFar, Level, Material, Refusal, STEADY, State, Unit, UnitItem, held_back, state};
use marking::Recording;
use store::PersonId;
use uuid::Uuid;

use crate::School;
use crate::content::{find_page, title_of};
use crate::error::SchoolError;
use crate::glance::Glance;
use crate::learner::Learner;

/// What a student's standing in units comes from.
pub struct Progress<'a> {
    pub glances: &'a [Glance],
    pub learner: &'a Learner,
    pub heard: &'a BTreeSet<Uuid>,
}

impl Progress<'_> {
    pub fn glance(&self, assignment: Uuid) -> Option<&Glance> {
        self.glances.iter().find(|g| g.stored.head.id == assignment)
    }

    pub fn standing(&self, item: &UnitItem) -> HowFar {
        match &item.material {
            Material::Page { skill } if find_page(skill).is_none() => HowFar::Absent,
            Material::Page { skill } => match self.learner.page(skill) {
                Some(page) if page.read_at.is_some() => HowFar::Done,
                Some(_) => HowFar::Begun,
                None => HowFar::Open,
            },
            Material::Recording { .. } if self.heard.contains(&item.id) => HowFar::Done,
            Material::Recording { .. } => HowFar::Open,
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
}

/// Whether a student may begin an assignment now, as far as the order of its unit goes.
///
/// # Errors
/// `SomethingFirst` where the teacher asks for something else first.
pub async fn may_begin(
    school: &School,
    class: Uuid,
    assignment: Uuid,
    person: PersonId,
) -> Result<(), SchoolError> {
    match first(school, class, assignment, person).await? {
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
    class: Uuid,
    assignment: Uuid,
    person: PersonId,
) -> Result<Option<UnitItem>, SchoolError> {
    let (units, _) = store::units_of(&school.pool, class).await?;
    let is_it = |i: &UnitItem| i.material == Material::Assignment { assignment };
    let unit = units.into_iter().find(|u| u.items.iter().any(is_it));
    let Some(unit) = unit.filter(|u| u.order == coursework::UnitOrder::Asked) else {
        return Ok(None);
    };
    // Who only looks at it as a student is held back by nothing.
    if store::is_preview(&school.pool, person).await? {
        return Ok(None);
    }
    let glances = Glance::all(school, person).await?;
    let learner = Learner::of(school, person, &glances).await?;
    let heard = store::heard_by(&school.pool, person).await?;
    let progress = Progress {
        glances: &glances,
        learner: &learner,
        heard: &heard,
    };
    let held = held_back(unit.order, &progress.standings(&unit));
    let place = unit.items.iter().position(is_it);
    let first = place.and_then(|p| held.get(p).copied().flatten());
    Ok(first.and_then(|f| unit.items.into_iter().nth(f)))
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
