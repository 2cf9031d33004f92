//! Assignments with a goal that is done or not: handed in by themselves once it is done, as nothing in them could still be
//! changed, and work that is done but never handed in is what students lose points to.

use coursework::{Command, Goal, may_work};
use store::PersonId;
use uuid::Uuid;

use crate::School;
use crate::desk::Desk;
use crate::error::SchoolError;
use crate::glance::Glance;
use crate::learner::Learner;

/// Hands in the assignments whose goal is one of these and is reached, where that is still possible. The goal is asked with
/// the assignment's class.
pub(crate) async fn hand_in_where(
    school: &School,
    person: PersonId,
    is_one: impl Fn(Uuid, &Goal) -> bool,
) -> Result<(), SchoolError> {
    let glances = Glance::all(school, person).await?;
    let learner = Learner::of(school, person, &glances).await?;
    for glance in &glances {
        let class = glance.stored.head.class_id;
        let goal = glance.assignment.settings.goal.as_ref();
        let handed_in = glance.work.standing_hand_ins().next().is_some();
        if handed_in || !goal.is_some_and(|g| is_one(class, g)) {
            continue;
        }
        let mut desk = Desk::load(school, glance.stored.head.id, person).await?;
        if may_work(&desk.assignment, &desk.work, desk.now).is_err() {
            continue;
        }
        desk.run(school, &Command::Open { seeds: Vec::new() }).await?;
        let progress = learner.progress(class, &desk.assignment, desk.work_id);
        if let Some(progress) = progress.filter(coursework::GoalProgress::is_reached) {
            desk.run(school, &Command::HandInProgress { progress }).await?;
        }
    }
    Ok(())
}
