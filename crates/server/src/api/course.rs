//! A class as its students see it: its units with what is read, done, due and open.

use actix_web::{HttpResponse, get, post, web};
use coursework::{HowFar, Material, Unit, UnitItem, UnitOrder, held_back, next_item, terms};
use marking::Recording;
use school::placing::{has_questions, skills_of_class};
use school::units::Progress;
use school::{Glance, Learner, School, title_of};
use serde::Serialize;
use time::{Date, OffsetDateTime};
use utoipa::ToSchema;
use uuid::Uuid;

use super::shared::kind::KindView;
use super::shared::skill::{LevelView, SkillBrief, brief};
use super::shared::state::{ScoreView, StateView, recorded_view, state_view};
use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

time::serde::format_description!(day, Date, "[year]-[month]-[day]");

#[derive(Serialize, ToSchema)]
pub(crate) struct MyClasses {
    classes: Vec<MyClass>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct MyClass {
    id: Uuid,
    title: String,
    teachers: Vec<String>,
    start: StartOffer,
}

/// Whether a class's starting point is to be done.
#[derive(Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum StartOffer {
    /// Nothing to ask, or the student has worked in the class already.
    None,
    /// They are new in the class.
    Offered,
    UnderWay,
    /// Done, and let be done again.
    Again,
    Done,
}

/// A class with its material.
#[derive(Serialize, ToSchema)]
pub(crate) struct CourseView {
    id: Uuid,
    title: String,
    teachers: Vec<String>,
    /// From the teacher.
    word: String,
    #[serde(with = "day::option")]
    #[schema(value_type = Option<String>)]
    starts_on: Option<Date>,
    #[serde(with = "day::option")]
    #[schema(value_type = Option<String>)]
    ends_on: Option<Date>,
    #[serde(with = "time::serde::rfc3339")]
    now: OffsetDateTime,
    units: Vec<CourseUnit>,
    /// What stands in no unit.
    others: Vec<CourseWork>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct CourseUnit {
    id: Uuid,
    title: String,
    about: String,
    order: UnitOrderView,
    items: Vec<CourseItem>,
    /// The item that comes next, from 0, where an order is advised or asked for.
    next: Option<usize>,
    done: usize,
}

#[derive(Clone, Copy, Serialize, serde::Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum UnitOrderView {
    Free,
    Advised,
    Asked,
}

impl From<UnitOrder> for UnitOrderView {
    fn from(order: UnitOrder) -> Self {
        match order {
            UnitOrder::Free => UnitOrderView::Free,
            UnitOrder::Advised => UnitOrderView::Advised,
            UnitOrder::Asked => UnitOrderView::Asked,
        }
    }
}

impl From<UnitOrderView> for UnitOrder {
    fn from(order: UnitOrderView) -> Self {
        match order {
            UnitOrderView::Free => UnitOrder::Free,
            UnitOrderView::Advised => UnitOrder::Advised,
            UnitOrderView::Asked => UnitOrder::Asked,
        }
    }
}

#[derive(Clone, Copy, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum StandingView {
    Open,
    Begun,
    Done,
}

/// Something in a unit, as far as this student is with it.
#[derive(Serialize, ToSchema)]
pub(crate) struct CourseItem {
    id: Uuid,
    title: String,
    standing: StandingView,
    /// What has to be done before it.
    first: Option<String>,
    what: CourseWhat,
}

#[derive(Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub(crate) enum CourseWhat {
    Page {
        skill: SkillBrief,
    },
    Recording {
        recording: Recording,
    },
    Practice {
        skill: String,
        level: LevelView,
        score: u8,
    },
    Assignment {
        work: CourseWork,
    },
}

/// An assignment of the class.
#[derive(Serialize, ToSchema)]
pub(crate) struct CourseWork {
    id: Uuid,
    title: String,
    work_kind: KindView,
    counts: bool,
    /// Per cent of the class's grade.
    weight: f64,
    #[serde(with = "time::serde::rfc3339")]
    opens: OffsetDateTime,
    #[serde(with = "time::serde::rfc3339")]
    due: OffsetDateTime,
    state: StateView,
    recorded: Option<ScoreView>,
}

fn work(glance: &Glance, all_weights: f64) -> CourseWork {
    let settings = &glance.assignment.settings;
    let terms = terms(&glance.assignment, &glance.work);
    let counts = settings.counts && all_weights > 0.0;
    CourseWork {
        id: glance.stored.head.id,
        title: glance.stored.head.title.clone(),
        work_kind: settings.kind.into(),
        counts: settings.counts,
        weight: if counts {
            100.0 * f64::from(settings.weight) / all_weights
        } else {
            0.0
        },
        opens: terms.opens,
        due: terms.due,
        state: state_view(&glance.assignment, &glance.work, glance.now),
        recorded: recorded_view(&glance.assignment, &glance.work, glance.now),
    }
}

async fn start_offer(
    school: &School,
    class: &store::ClassJoined,
    placing: Option<&store::PlacingState>,
    glances: &[Glance],
    learner: &Learner,
) -> Result<StartOffer, ApiError> {
    Ok(match placing {
        Some(store::PlacingState::UnderWay) => StartOffer::UnderWay,
        Some(store::PlacingState::Again) => StartOffer::Again,
        Some(store::PlacingState::Done) => StartOffer::Done,
        None => {
            let mut works = glances.iter().filter(|g| g.stored.head.class_id == class.id);
            let is_new = works.all(|g| g.work.opened_at.is_none());
            let skills = skills_of_class(class.id, &class.title, glances);
            if is_new && has_questions(school, &skills, learner).await? {
                StartOffer::Offered
            } else {
                StartOffer::None
            }
        }
    })
}

/// The classes one is in.
#[utoipa::path(path = "/api/class", responses((status = 200, body = MyClasses), (status = 401, body = Problem)))]
#[get("/class")]
pub(crate) async fn get_my_classes(
    school: web::Data<School>,
    who: SignedIn,
) -> Result<web::Json<MyClasses>, ApiError> {
    let classes = store::classes_joined(&school.pool, who.0.id).await?;
    let glances = Glance::all(&school, who.0.id).await?;
    let placings = store::placings_by(&school.pool, who.0.id).await?;
    let learner = Learner::of(&school, who.0.id, &glances).await?;
    let mut mine = Vec::with_capacity(classes.len());
    for c in classes {
        mine.push(MyClass {
            start: start_offer(&school, &c, placings.get(&c.id), &glances, &learner).await?,
            id: c.id,
            title: c.title,
            teachers: c.teachers,
        });
    }
    Ok(web::Json(MyClasses { classes: mine }))
}

/// What a course page is made of.
struct Course<'a> {
    progress: Progress<'a>,
    weights: f64,
}

impl Course<'_> {
    fn item(&self, item: &UnitItem, standing: HowFar) -> Option<CourseItem> {
        let standing = match standing {
            HowFar::Absent => return None,
            HowFar::Open => StandingView::Open,
            HowFar::Begun => StandingView::Begun,
            HowFar::Done => StandingView::Done,
        };
        let learner = self.progress.learner;
        let (title, what) = match &item.material {
            Material::Page { skill } => {
                let skill = brief(learner, skill);
                (skill.title.clone(), CourseWhat::Page { skill })
            }
            Material::Practice { skill } => {
                let mastery = learner.mastery(skill);
                let practice = CourseWhat::Practice {
                    skill: skill.clone(),
                    level: mastery.level.into(),
                    score: mastery.score,
                };
                (title_of(skill), practice)
            }
            Material::Recording { .. } => {
                let recording = self.progress.recording(&item.material)?.clone();
                (recording.title.clone(), CourseWhat::Recording { recording })
            }
            Material::Assignment { assignment } => {
                let work = work(self.progress.glance(*assignment)?, self.weights);
                (work.title.clone(), CourseWhat::Assignment { work })
            }
        };
        Some(CourseItem {
            id: item.id,
            title,
            standing,
            first: None,
            what,
        })
    }

    fn unit(&self, unit: &Unit) -> CourseUnit {
        // What is not there for this student is neither shown nor held against the order.
        let shown: Vec<(CourseItem, HowFar)> = unit
            .items
            .iter()
            .map(|i| (i, self.progress.standing(i)))
            .filter_map(|(i, s)| Some((self.item(i, s)?, s)))
            .collect();
        let (mut items, standings): (Vec<CourseItem>, Vec<HowFar>) = shown.into_iter().unzip();
        let held = held_back(unit.order, &standings);
        for (place, first) in held.into_iter().enumerate() {
            let title = first.and_then(|f| items.get(f)).map(|i| i.title.clone());
            if let Some(item) = items.get_mut(place) {
                item.first = title;
            }
        }
        CourseUnit {
            id: unit.id,
            title: unit.title.clone(),
            about: unit.about.clone(),
            order: unit.order.into(),
            next: match unit.order {
                UnitOrder::Free => None,
                UnitOrder::Advised | UnitOrder::Asked => next_item(&standings),
            },
            done: standings.iter().filter(|s| **s == HowFar::Done).count(),
            items,
        }
    }
}

pub(crate) async fn find(school: &School, who: &SignedIn, id: Uuid) -> Result<store::ClassJoined, ApiError> {
    let joined = store::classes_joined(&school.pool, who.0.id).await?;
    joined.into_iter().find(|c| c.id == id).ok_or(ApiError::NotFound)
}

/// A class with its units.
#[utoipa::path(path = "/api/class/{id}", params(("id" = Uuid, Path)),
    responses((status = 200, body = CourseView), (status = 404, body = Problem)))]
#[get("/class/{id}")]
pub(crate) async fn get_course(
    school: web::Data<School>,
    who: SignedIn,
    id: web::Path<Uuid>,
) -> Result<web::Json<CourseView>, ApiError> {
    let class = find(&school, &who, *id).await?;
    let (units, _) = store::units_of(&school.pool, class.id).await?;
    let mut glances = Glance::all(&school, who.0.id).await?;
    let learner = Learner::of(&school, who.0.id, &glances).await?;
    glances.retain(|g| g.stored.head.class_id == class.id);
    let settings = glances.iter().map(|g| &g.assignment.settings);
    let weights = settings.filter(|s| s.counts).map(|s| f64::from(s.weight)).sum();
    let course = Course {
        progress: Progress::load(&school, who.0.id, &units, &glances, &learner).await?,
        weights,
    };
    let in_units = |id: Uuid| units.iter().flat_map(|u| &u.items).any(|i| i.is_assignment(id));
    let others = glances.iter().filter(|g| !in_units(g.stored.head.id));
    Ok(web::Json(CourseView {
        id: class.id,
        title: class.title,
        teachers: class.teachers,
        word: class.word,
        starts_on: class.starts_on,
        ends_on: class.ends_on,
        now: school.now(),
        units: units.iter().map(|u| course.unit(u)).collect(),
        others: others.map(|g| work(g, weights)).collect(),
    }))
}

/// Notes that a recording of a unit was heard.
#[utoipa::path(path = "/api/class/{id}/heard/{item}", params(("id" = Uuid, Path), ("item" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
#[post("/class/{id}/heard/{item}")]
pub(crate) async fn put_heard(
    school: web::Data<School>,
    who: SignedIn,
    path: web::Path<(Uuid, Uuid)>,
) -> Result<HttpResponse, ApiError> {
    let (id, item) = path.into_inner();
    let class = find(&school, &who, id).await?;
    let (units, _) = store::units_of(&school.pool, class.id).await?;
    let mut items = units.iter().flat_map(|u| &u.items);
    let is_it = |i: &UnitItem| i.id == item && matches!(i.material, Material::Recording { .. });
    if !items.any(is_it) {
        return Err(ApiError::NotFound);
    }
    store::put_heard(&school.pool, who.0.id, item, school.now()).await?;
    Ok(HttpResponse::NoContent().finish())
}
