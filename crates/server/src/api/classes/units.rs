//! The units of a class, as its teacher arranges them.

use actix_web::{get, put, web};
use coursework::{Material, Unit, UnitItem, check_units};
use school::{School, find_page, find_skill, skills};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::{note, on_class};
use crate::api::course::UnitOrderView;
use crate::http::auth::Teacher;
use crate::http::error::{ApiError, Problem};

/// The units of a class. On saving, `version` is the one they were read with.
#[derive(Serialize, Deserialize, ToSchema)]
pub(crate) struct UnitsView {
    version: i32,
    units: Vec<UnitView>,
}

#[derive(Serialize, Deserialize, ToSchema)]
pub(crate) struct UnitView {
    /// Of a new one, any that is not taken.
    id: Uuid,
    title: String,
    #[serde(default)]
    about: String,
    order: UnitOrderView,
    items: Vec<UnitItemView>,
}

/// Something in a unit: of its kind, what names it.
#[derive(Serialize, Deserialize, ToSchema)]
pub(crate) struct UnitItemView {
    id: Uuid,
    kind: MaterialKind,
    /// Of a page and of practice.
    #[serde(default)]
    skill: Option<String>,
    /// Of a recording.
    #[serde(default)]
    question: Option<String>,
    #[serde(default)]
    sound: Option<String>,
    #[serde(default)]
    assignment: Option<Uuid>,
}

#[derive(Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum MaterialKind {
    Page,
    Recording,
    Practice,
    Assignment,
}

impl UnitItemView {
    fn of(item: &UnitItem) -> Self {
        let plain = |kind| UnitItemView {
            id: item.id,
            kind,
            skill: None,
            question: None,
            sound: None,
            assignment: None,
        };
        match item.material.clone() {
            Material::Page { skill } => UnitItemView {
                skill: Some(skill),
                ..plain(MaterialKind::Page)
            },
            Material::Practice { skill } => UnitItemView {
                skill: Some(skill),
                ..plain(MaterialKind::Practice)
            },
            Material::Recording { question, sound } => UnitItemView {
                question: Some(question),
                sound: Some(sound),
                ..plain(MaterialKind::Recording)
            },
            Material::Assignment { assignment } => UnitItemView {
                assignment: Some(assignment),
                ..plain(MaterialKind::Assignment)
            },
        }
    }

    fn item(self) -> Option<UnitItem> {
        let material = match self.kind {
            MaterialKind::Page => Material::Page { skill: self.skill? },
            MaterialKind::Practice => Material::Practice { skill: self.skill? },
            MaterialKind::Recording => Material::Recording {
                question: self.question?,
                sound: self.sound?,
            },
            MaterialKind::Assignment => Material::Assignment {
                assignment: self.assignment?,
            },
        };
        Some(UnitItem {
            id: self.id,
            material,
        })
    }
}

impl UnitView {
    fn of(unit: &Unit) -> Self {
        UnitView {
            id: unit.id,
            title: unit.title.clone(),
            about: unit.about.clone(),
            order: unit.order.into(),
            items: unit.items.iter().map(UnitItemView::of).collect(),
        }
    }

    fn unit(self) -> Result<Unit, ApiError> {
        let items: Option<Vec<UnitItem>> = self.items.into_iter().map(UnitItemView::item).collect();
        Ok(Unit {
            id: self.id,
            title: self.title.trim().to_owned(),
            about: self.about.trim().to_owned(),
            order: self.order.into(),
            items: items
                .ok_or_else(|| ApiError::Unusable("Something in a unit does not say what it is.".into()))?,
        })
    }
}

/// What can stand in a unit.
#[derive(Serialize, ToSchema)]
pub(crate) struct MaterialsView {
    pages: Vec<SkillNamed>,
    practice: Vec<SkillNamed>,
    recordings: Vec<RecordingNamed>,
    /// Of the class.
    assignments: Vec<AssignmentNamed>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct SkillNamed {
    skill: String,
    title: String,
    class: String,
}

impl SkillNamed {
    pub fn of(skill: &marking::Skill) -> Self {
        SkillNamed {
            skill: skill.id.clone(),
            title: skill.title.clone(),
            class: skill.class.clone(),
        }
    }
}

#[derive(Serialize, ToSchema)]
pub(crate) struct RecordingNamed {
    question: String,
    sound: String,
    title: String,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct AssignmentNamed {
    id: Uuid,
    title: String,
    given_out: bool,
}

async fn units_view(school: &School, class: Uuid) -> Result<UnitsView, ApiError> {
    let (units, version) = store::units_of(&school.pool, class).await?;
    Ok(UnitsView {
        version,
        units: units.iter().map(UnitView::of).collect(),
    })
}

/// The units of a class.
#[utoipa::path(path = "/api/classes/{id}/units", params(("id" = Uuid, Path)),
    responses((status = 200, body = UnitsView), (status = 404, body = Problem)))]
#[get("/classes/{id}/units")]
pub(crate) async fn get_units(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
) -> Result<web::Json<UnitsView>, ApiError> {
    let class = who.class(&school, *id).await?;
    Ok(web::Json(units_view(&school, class.id).await?))
}

/// Whether what an item names is there.
async fn is_there(school: &School, mine: &[Uuid], item: &UnitItem) -> Result<bool, ApiError> {
    Ok(match &item.material {
        Material::Page { skill } => find_page(skill).is_some(),
        Material::Practice { skill } => find_skill(skill).is_some(),
        Material::Assignment { assignment } => mine.contains(assignment),
        Material::Recording { question, sound } => {
            school::units::recording(school, question, sound).await?.is_some()
        }
    })
}

/// Saves the units of a class, unless somebody else has saved them meanwhile.
#[utoipa::path(path = "/api/classes/{id}/units", params(("id" = Uuid, Path)), request_body = UnitsView,
    responses((status = 200, body = UnitsView), (status = 400, body = Problem), (status = 404, body = Problem),
        (status = 409, body = Problem)))]
#[put("/classes/{id}/units")]
pub(crate) async fn put_units(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
    body: web::Json<UnitsView>,
) -> Result<web::Json<UnitsView>, ApiError> {
    let class = who.class(&school, *id).await?;
    let UnitsView { version, units } = body.into_inner();
    let units: Vec<Unit> = units.into_iter().map(UnitView::unit).collect::<Result<_, _>>()?;
    check_units(&units).map_err(|fault| ApiError::Unusable(fault.to_string()))?;
    let columns = store::sheet_columns(&school.pool, class.id).await?;
    let mine: Vec<Uuid> = columns.iter().map(|c| c.id).collect();
    let (before, _) = store::units_of(&school.pool, class.id).await?;
    let kept: Vec<Uuid> = before.iter().flat_map(|u| &u.items).map(|i| i.id).collect();
    for item in units.iter().flat_map(|u| &u.items) {
        // What went since it was put here may stay; it is shown to nobody.
        if !kept.contains(&item.id) && !is_there(&school, &mine, item).await? {
            return Err(ApiError::Unusable("Something in a unit is not there.".into()));
        }
    }
    if !store::save_units(&school.pool, class.id, version, &units).await? {
        return Err(store::StoreError::Conflict.into());
    }
    if before != units {
        note(&school, on_class(class.id, &who, "changed the units")).await?;
    }
    Ok(web::Json(units_view(&school, class.id).await?))
}

/// What can stand in a unit of a class.
#[utoipa::path(path = "/api/classes/{id}/materials", params(("id" = Uuid, Path)),
    responses((status = 200, body = MaterialsView), (status = 404, body = Problem)))]
#[get("/classes/{id}/materials")]
pub(crate) async fn get_materials(
    school: web::Data<School>,
    who: Teacher,
    id: web::Path<Uuid>,
) -> Result<web::Json<MaterialsView>, ApiError> {
    let class = who.class(&school, *id).await?;
    let recordings = school::units::recordings(&school).await?;
    let recording = |(question, sound, shown): (String, String, marking::Recording)| RecordingNamed {
        question,
        sound,
        title: shown.title,
    };
    let columns = store::sheet_columns(&school.pool, class.id).await?;
    let assignment = |c: store::SheetColumn| AssignmentNamed {
        id: c.id,
        title: c.title,
        given_out: c.given_out,
    };
    Ok(web::Json(MaterialsView {
        pages: skills()
            .iter()
            .filter(|s| find_page(&s.id).is_some())
            .map(SkillNamed::of)
            .collect(),
        practice: skills().iter().map(SkillNamed::of).collect(),
        recordings: recordings.into_iter().map(recording).collect(),
        assignments: columns.into_iter().map(assignment).collect(),
    }))
}
