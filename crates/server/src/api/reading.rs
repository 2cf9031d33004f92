//! Reading pages: one a skill, in steps; where each student left it.

use actix_web::http::header;
use actix_web::{HttpRequest, HttpResponse, get, put, web};
use marking::{Block, Page, PageBlock, Term};
use school::{Glance, Learner, School, SchoolError, find_figure, find_page, find_skill, find_sound};
use serde::{Deserialize, Serialize};
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

use super::shared::skill::{SkillBrief, brief};
use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};
use crate::http::ranges::in_ranges;

#[derive(Serialize, ToSchema)]
pub(crate) struct PageView {
    skill: SkillBrief,
    words: String,
    class: String,
    steps: Vec<PageStepView>,
    minutes: usize,
    /// The words of the trade that it uses.
    terms: Vec<Term>,
    /// The step where it was left, from 0.
    step: usize,
    #[serde(with = "time::serde::rfc3339::option")]
    read_at: Option<OffsetDateTime>,
    /// Reading that is set and not over, with this page in it.
    set_by: Vec<SetReading>,
}

/// A reading assignment that a page belongs to.
#[derive(Serialize, ToSchema)]
pub(crate) struct SetReading {
    assignment: Uuid,
    title: String,
    pages: usize,
    pages_read: usize,
    /// The first page of it that was not read, other than this one.
    next: Option<String>,
    handed_in: bool,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct PageStepView {
    title: String,
    blocks: Vec<PageBlockView>,
}

#[derive(Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub(crate) enum PageBlockView {
    /// `speech` is the block in words.
    Text {
        block: Block,
        speech: String,
    },
    Figure {
        address: String,
        alt: String,
    },
    /// A question to check oneself: the nth of the page, from 0.
    Check {
        check: usize,
    },
    /// A recording with stops, by its name or id.
    Recording {
        name: String,
    },
    /// A worked example to be walked: the nth of the page, from 0, with so many steps.
    Walk {
        walk: usize,
        about: Block,
        speech: String,
        steps: usize,
    },
}

pub(super) fn steps(page: &Page) -> Vec<PageStepView> {
    let (mut checks, mut walks) = (0.., 0..);
    let mut block = |b: &PageBlock| match b {
        PageBlock::Text { block, speech } => PageBlockView::Text {
            block: block.clone(),
            speech: speech.clone(),
        },
        PageBlock::Figure { file, alt } => PageBlockView::Figure {
            address: format!("/api/figures/{file}"),
            alt: alt.clone(),
        },
        PageBlock::Recording { name } => PageBlockView::Recording { name: name.clone() },
        PageBlock::Walk { about, speech, steps } => PageBlockView::Walk {
            walk: walks.next().unwrap_or(0),
            about: about.clone(),
            speech: speech.clone(),
            steps: steps.len(),
        },
        PageBlock::Check { .. } => PageBlockView::Check {
            check: checks.next().unwrap_or(0),
        },
    };
    let step = |s: &marking::PageStep| PageStepView {
        title: s.title.clone(),
        blocks: s.blocks.iter().map(&mut block).collect(),
    };
    page.steps.iter().map(step).collect()
}

/// Reading that is open to this student now and has this page in it.
fn set_by(desks: &[Glance], learner: &Learner, skill: &str) -> Vec<SetReading> {
    let reading = |desk: &Glance| {
        let settings = &desk.assignment.settings;
        let Some(coursework::Goal::Read { skills }) = &settings.goal else {
            return None;
        };
        coursework::may_work(&desk.assignment, &desk.work, desk.now).ok()?;
        skills.iter().find(|s| *s == skill)?;
        let unread = || skills.iter().filter(|s| !learner.has_read(s));
        Some(SetReading {
            assignment: desk.stored.head.id,
            title: desk.stored.head.title.clone(),
            pages: skills.len(),
            pages_read: skills.len() - unread().count(),
            next: unread().find(|s| *s != skill).cloned(),
            handed_in: desk.work.standing_hand_ins().next().is_some(),
        })
    };
    desks.iter().filter_map(reading).collect()
}

/// The reading page of a skill.
#[utoipa::path(path = "/api/pages/{skill}", params(("skill" = String, Path)),
    responses((status = 200, body = PageView), (status = 404, body = Problem)))]
#[get("/pages/{skill}")]
pub(crate) async fn get_page(
    school: web::Data<School>,
    who: SignedIn,
    skill: web::Path<String>,
) -> Result<web::Json<PageView>, ApiError> {
    let page = find_page(&skill).ok_or(SchoolError::NotFound)?;
    let named = find_skill(&skill).ok_or(SchoolError::NotFound)?;
    let desks = Glance::all(&school, who.0.id).await?;
    let learner = Learner::of(&school, who.0.id, &desks).await?;
    let mine = learner.page(&skill);
    Ok(web::Json(PageView {
        skill: brief(&learner, &skill),
        words: named.words.clone(),
        class: named.class.clone(),
        steps: steps(page),
        minutes: page.minutes(),
        terms: page.terms.clone(),
        step: mine.map_or(0, |p| p.step.min(page.steps.len().saturating_sub(1))),
        read_at: mine.and_then(|p| p.read_at),
        set_by: set_by(&desks, &learner, &skill),
    }))
}

#[derive(Deserialize, ToSchema)]
pub(crate) struct PlaceRequest {
    /// From 0.
    step: usize,
    /// It was read to the end.
    #[serde(default)]
    read: bool,
}

/// Keeps where a page was left, and that it was read. Once read it stays read.
#[utoipa::path(path = "/api/pages/{skill}/place", params(("skill" = String, Path)), request_body = PlaceRequest,
    responses((status = 204), (status = 404, body = Problem)))]
#[put("/pages/{skill}/place")]
pub(crate) async fn put_place(
    school: web::Data<School>,
    who: SignedIn,
    skill: web::Path<String>,
    body: web::Json<PlaceRequest>,
) -> Result<HttpResponse, ApiError> {
    let page = find_page(&skill).ok_or(SchoolError::NotFound)?;
    let step = body.step.min(page.steps.len().saturating_sub(1));
    store::put_page(&school.pool, who.0.id, &skill, step, body.read, school.now()).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// A figure of a page.
#[utoipa::path(path = "/api/figures/{file}", params(("file" = String, Path)),
    responses((status = 200, body = String, content_type = "image/svg+xml"), (status = 404, body = Problem)))]
#[get("/figures/{file}")]
pub(crate) async fn get_figure(_who: SignedIn, file: web::Path<String>) -> Result<HttpResponse, ApiError> {
    let bytes = find_figure(&file).ok_or(SchoolError::NotFound)?;
    Ok(HttpResponse::Ok()
        .insert_header((header::CONTENT_TYPE, "image/svg+xml"))
        .insert_header((header::CACHE_CONTROL, "private, no-cache"))
        .body(bytes))
}

/// A recording that a question plays.
#[utoipa::path(path = "/api/sounds/{file}", params(("file" = String, Path)),
    responses((status = 200, body = Vec<u8>, content_type = "audio/mpeg"), (status = 206), (status = 404, body = Problem)))]
#[get("/sounds/{file}")]
pub(crate) async fn get_sound(
    _who: SignedIn,
    request: HttpRequest,
    file: web::Path<String>,
) -> Result<HttpResponse, ApiError> {
    let bytes = find_sound(&file).ok_or(SchoolError::NotFound)?;
    Ok(in_ranges(&request, bytes)
        .insert_header((header::CONTENT_TYPE, "audio/mpeg"))
        .insert_header((header::CACHE_CONTROL, "private, max-age=3600"))
        .finish())
}
