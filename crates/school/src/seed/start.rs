//! Starting points that students of the world have done.

use std::collections::BTreeSet;

use marking::Response;
use store::Person;
use uuid::Uuid;

use super::WorldError;
use super::world::WorldStart;
use crate::School;
use crate::content::find_skill;
use crate::placing::{Said, answer, begin, find_placing, last_asked};

/// Skills with all they build on.
fn with_what_they_need(skills: &[String]) -> Result<BTreeSet<String>, WorldError> {
    let mut known = BTreeSet::new();
    let mut left: Vec<String> = skills.to_vec();
    while let Some(id) = left.pop() {
        let skill = find_skill(&id).ok_or_else(|| format!("there is no skill `{id}`"))?;
        if known.insert(id) {
            left.extend(skill.requires.iter().cloned());
        }
    }
    Ok(known)
}

/// Does a class's starting point as somebody who knows some skills: right where one of them is asked, *Not learned yet*
/// elsewhere. One that is begun already stays as it is.
pub(super) async fn start(
    school: &School,
    class: Uuid,
    title: &str,
    person: &Person,
    script: &WorldStart,
) -> Result<(), WorldError> {
    if find_placing(school, class, person.id).await?.is_some() {
        return Ok(());
    }
    let known = with_what_they_need(&script.knows)?;
    begin(school, class, title, person.id).await?;
    while let Some(standing) = find_placing(school, class, person.id).await? {
        let Some(asked) = standing.placing.open() else {
            break;
        };
        let said = if known.contains(&asked.skill) {
            let (_, item) = last_asked(school, &standing.placing, person.id).await?;
            let right = |p: &marking::ItemPart| (p.id.clone(), p.typed_key());
            Said::Answer(item.parts.iter().map(right).collect::<Vec<(String, Response)>>())
        } else {
            Said::NotLearned
        };
        let number = standing.placing.asked.len();
        let unread = answer(school, class, person, number, said).await?;
        if let Some(part) = unread.first() {
            return Err(format!("its key can't be read in part `{}`", part.part).into());
        }
    }
    Ok(())
}
