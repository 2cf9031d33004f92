//! The units of the world's classes, and the skills their teacher suggests.

use coursework::{Material, Unit, UnitItem, check_units};
use store::{ClassTerms, MemberRole, PersonId, SuggestTo};
use time::{Duration, OffsetDateTime};
use uuid::Uuid;

use super::WorldError;
use super::world::{WorldClass, WorldItem};
use crate::School;
use crate::content::{find_page, find_skill};

/// The term of the demo's classes, in days from its start.
const TERM: (i64, i64) = (-60, 50);

async fn material(school: &School, class: Uuid, item: &WorldItem) -> Result<Material, WorldError> {
    Ok(match item.clone() {
        WorldItem::Page(skill) => {
            find_page(&skill).ok_or_else(|| format!("there is no page on `{skill}`"))?;
            Material::Page { skill }
        }
        WorldItem::Practice(skill) => {
            find_skill(&skill).ok_or_else(|| format!("there is no skill `{skill}`"))?;
            Material::Practice { skill }
        }
        WorldItem::Recording(question, sound) => {
            let found = crate::units::recording(school, &question, &sound).await?;
            found.ok_or_else(|| format!("`{question}` has no recording `{sound}` that stands by itself"))?;
            Material::Recording { question, sound }
        }
        WorldItem::Work(slug) => {
            let found = store::find_assignment_by_slug(&school.pool, class, &slug).await?;
            let assignment = found.ok_or_else(|| format!("the class has no `{slug}`"))?;
            Material::Assignment { assignment }
        }
    })
}

/// Puts a class's word, term and units in place, unless somebody has saved units there.
pub(super) async fn put_units(
    school: &School,
    class: &WorldClass,
    now: OffsetDateTime,
) -> Result<(), WorldError> {
    if class.units.is_empty() {
        return Ok(());
    }
    let id = store::put_class(&school.pool, &class.title).await?;
    let (_, version) = store::units_of(&school.pool, id).await?;
    if version > 0 {
        return Ok(());
    }
    let day = |days: i64| Some((now + Duration::days(days)).date());
    let terms = ClassTerms {
        title: &class.title,
        starts_on: day(TERM.0),
        ends_on: day(TERM.1),
        time_zone: "Etc/UTC",
        word: &class.word,
        class_sees_messages: true,
    };
    store::set_class(&school.pool, id, &terms).await?;
    let mut units = Vec::new();
    for unit in &class.units {
        let mut items = Vec::new();
        for item in &unit.items {
            items.push(UnitItem {
                id: Uuid::now_v7(),
                material: material(school, id, item).await?,
            });
        }
        units.push(Unit {
            id: Uuid::now_v7(),
            title: unit.title.clone(),
            about: unit.about.clone(),
            order: unit.order,
            items,
        });
    }
    check_units(&units).map_err(|fault| fault.to_string())?;
    store::save_units(&school.pool, id, version, &units).await?;
    Ok(())
}

/// Puts what the class's teacher suggests in place, once.
pub(super) async fn suggest(
    school: &School,
    class: &WorldClass,
    person: impl Fn(&str) -> Result<PersonId, WorldError>,
    now: OffsetDateTime,
) -> Result<(), WorldError> {
    if class.suggested.is_empty() {
        return Ok(());
    }
    let id = store::put_class(&school.pool, &class.title).await?;
    let members = store::members_of(&school.pool, id).await?;
    let teacher = members.iter().find(|m| m.role == MemberRole::Teacher);
    let teacher = teacher.ok_or("the class has no teacher")?.person.id;
    let standing = store::suggestions_in(&school.pool, id).await?;
    for suggested in &class.suggested {
        if standing.iter().any(|s| s.skill == suggested.skill) {
            continue;
        }
        find_skill(&suggested.skill).ok_or_else(|| format!("there is no skill `{}`", suggested.skill))?;
        let to = SuggestTo {
            class: id,
            group: None,
            student: suggested.student.as_deref().map(&person).transpose()?,
        };
        store::suggest_skill(&school.pool, to, &suggested.skill, &suggested.why, teacher, now).await?;
    }
    Ok(())
}
