//! All skills, with the evidence for each level.

use actix_web::{get, web};
use coursework::{Level, SOLID};
use marking::Skill;
use school::{Learner, School, skills, title_of};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;

use super::shared::skill::{LevelView, PageBrief, page_brief};
use crate::http::auth::SignedIn;
use crate::http::error::{ApiError, Problem};

#[derive(Serialize, ToSchema)]
pub(crate) struct SkillsView {
    #[serde(with = "time::serde::rfc3339")]
    now: OffsetDateTime,
    /// From here on a score is solid.
    solid: u8,
    skills: Vec<SkillView>,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct SkillView {
    id: String,
    title: String,
    class: String,
    words: String,
    /// 0 for the lowest.
    stratum: usize,
    score: u8,
    level: LevelView,
    /// What is missing before it opens; empty if it is open.
    missing: Vec<String>,
    /// The assignment that opened it, where prerequisites are missing.
    opened_by: Option<String>,
    page: Option<PageBrief>,
    requires: Vec<String>,
    /// What it opens, with others.
    opens: Vec<String>,
    /// The newest of it, oldest first.
    evidence: Vec<EvidenceView>,
    /// Older pieces that are not among it, though the score comes from them too.
    evidence_left_out: usize,
    /// The score if the next typed check comes out right, and wrong.
    next_right: u8,
    next_wrong: u8,
    /// The starting point that it rests on, where no check came before that.
    from_start: Option<FromStart>,
    /// How the score went, oldest first.
    course: Vec<CoursePoint>,
}

/// A score that a starting point gave.
#[derive(Serialize, ToSchema)]
pub(crate) struct FromStart {
    class: String,
    #[serde(with = "time::serde::rfc3339")]
    at: OffsetDateTime,
    score: u8,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct CoursePoint {
    #[serde(with = "time::serde::rfc3339")]
    pub at: OffsetDateTime,
    /// 0 to 100.
    pub score: f64,
}

#[derive(Serialize, ToSchema)]
pub(crate) struct EvidenceView {
    #[serde(with = "time::serde::rfc3339")]
    at: OffsetDateTime,
    right: bool,
    /// It counts less: there was help, or the skill was not the question's main one.
    weaker: bool,
    source: String,
    /// The score just after it.
    score: u8,
}

/// Pieces of evidence that are shown of a skill: the newest.
const MOST_SHOWN: usize = 60;

/// All skills with the student's level, and the evidence for it.
#[utoipa::path(path = "/api/skills", responses((status = 200, body = SkillsView), (status = 401, body = Problem)))]
#[get("/skills")]
pub(crate) async fn get_skills(
    school: web::Data<School>,
    who: SignedIn,
) -> Result<web::Json<SkillsView>, ApiError> {
    let learner = Learner::load(&school, who.0.id).await?;
    let now = learner.now;
    let strata = marking::strata(skills()).unwrap_or_default();
    let view = |skill: &Skill| SkillView {
        stratum: strata.get(skill.id.as_str()).copied().unwrap_or(0),
        ..skill_view(&learner, skill, now)
    };
    Ok(web::Json(SkillsView {
        now,
        solid: SOLID,
        skills: skills().iter().map(view).collect(),
    }))
}

fn skill_view(learner: &Learner, skill: &Skill, now: OffsetDateTime) -> SkillView {
    let mastery = learner.mastery(&skill.id);
    let evidence: Vec<_> = learner
        .evidence(&skill.id)
        .iter()
        .filter(|s| s.evidence.at <= now)
        .zip(&mastery.history)
        .collect();
    let left_out = evidence.len().saturating_sub(MOST_SHOWN);
    let opens = skills().iter().filter(|s| s.requires.contains(&skill.id));
    let titles = |ids: Vec<&str>| ids.into_iter().map(title_of).collect();
    let missing = learner.missing(skill);
    SkillView {
        id: skill.id.clone(),
        title: skill.title.clone(),
        class: skill.class.clone(),
        words: skill.words.clone(),
        stratum: 0,
        score: mastery.score,
        level: mastery.level.into(),
        opened_by: learner
            .opened_by(&skill.id)
            .filter(|_| mastery.level == Level::New && !skill.requires.is_empty())
            .map(str::to_owned),
        missing: titles(missing),
        page: page_brief(learner, &skill.id),
        requires: titles(skill.requires.iter().map(String::as_str).collect()),
        opens: opens.map(|s| s.title.clone()).collect(),
        evidence_left_out: left_out,
        evidence: evidence
            .into_iter()
            .skip(left_out)
            .map(|(sourced, (evidence, score))| EvidenceView {
                at: evidence.at,
                right: evidence.right,
                weaker: evidence.weight < 1.0,
                source: sourced.source.clone(),
                score: *score,
            })
            .collect(),
        next_right: mastery.next_right,
        next_wrong: mastery.next_wrong,
        from_start: mastery.from_start.and_then(|score| {
            let (found, _) = learner.start_found(&skill.id)?;
            Some(FromStart {
                class: found.class_title.clone(),
                at: found.at,
                score,
            })
        }),
        course: learner
            .course(&skill.id)
            .into_iter()
            .map(|(at, score)| CoursePoint {
                at,
                score: f64::from(score),
            })
            .collect(),
    }
}
