use actix_web::{get, web};
use coursework::{Level, SOLID, missing_prerequisites};
use serde::Serialize;
use time::OffsetDateTime;
use utoipa::ToSchema;

use crate::Site;
use crate::auth::SignedIn;
use crate::error::{ApiError, Problem};
use crate::skills::{Known, evidence_for, mastery_of, skills, title_of};

#[derive(Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum LevelView {
    New,
    Growing,
    Steady,
    Solid,
    Fading,
}

impl From<Level> for LevelView {
    fn from(level: Level) -> Self {
        match level {
            Level::New => LevelView::New,
            Level::Growing => LevelView::Growing,
            Level::Steady => LevelView::Steady,
            Level::Solid => LevelView::Solid,
            Level::Fading => LevelView::Fading,
        }
    }
}

/// A skill beside an assignment: its level now.
#[derive(Serialize, ToSchema)]
pub(crate) struct SkillBrief {
    pub id: String,
    pub title: String,
    pub level: LevelView,
    pub score: u8,
}

pub(crate) fn brief(known: &Known, id: &str, now: OffsetDateTime) -> SkillBrief {
    let mastery = mastery_of(known, id, now);
    SkillBrief {
        id: id.to_owned(),
        title: title_of(id),
        level: mastery.level.into(),
        score: mastery.score,
    }
}

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
    requires: Vec<String>,
    /// What it opens, with others.
    opens: Vec<String>,
    /// Oldest first.
    evidence: Vec<EvidenceView>,
    /// The score if the next typed check comes out right, and wrong.
    next_right: u8,
    next_wrong: u8,
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

/// All skills with the student's level, and the evidence for it.
#[utoipa::path(path = "/api/skills", responses((status = 200, body = SkillsView), (status = 401, body = Problem)))]
#[get("/skills")]
pub(crate) async fn get_skills(
    site: web::Data<Site>,
    who: SignedIn,
) -> Result<web::Json<SkillsView>, ApiError> {
    let now = site.now();
    let known = evidence_for(&site, &who.0).await?;
    let strata = marking::strata(skills()).unwrap_or_default();
    let level_of = |id: &str| {
        let mastery = mastery_of(&known, id, now);
        (mastery.score, mastery.level)
    };
    let view = |skill: &marking::Skill| {
        let mastery = mastery_of(&known, &skill.id, now);
        let found = known.get(&skill.id).map(Vec::as_slice).unwrap_or_default();
        let evidence = found
            .iter()
            .filter(|s| s.evidence.at <= now)
            .zip(&mastery.history);
        let opens = skills().iter().filter(|s| s.requires.contains(&skill.id));
        SkillView {
            id: skill.id.clone(),
            title: skill.title.clone(),
            class: skill.class.clone(),
            words: skill.words.clone(),
            stratum: strata.get(skill.id.as_str()).copied().unwrap_or(0),
            score: mastery.score,
            level: mastery.level.into(),
            missing: missing_prerequisites(&skill.requires, level_of)
                .into_iter()
                .map(title_of)
                .collect(),
            requires: skill.requires.iter().map(|r| title_of(r)).collect(),
            opens: opens.map(|s| s.title.clone()).collect(),
            evidence: evidence
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
        }
    };
    Ok(web::Json(SkillsView {
        now,
        solid: SOLID,
        skills: skills().iter().map(view).collect(),
    }))
}
