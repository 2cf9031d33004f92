//! Class lists from portals, and what the portal's grade book has.

use std::collections::BTreeMap;

use futures_util::future::join_all;
use lti::{Member, MemberStatus, PlatformResult};
use reqwest::Method;
use serde::Serialize;
use store::{MemberRole, PersonId, PortalCourse};
use time::Duration;
use uuid::Uuid;

use super::arrive::{account_role, member_role};
use super::client::Platform;
use crate::School;
use crate::classes::create_under_free_name;
use crate::error::SchoolError;

/// A list is asked for again after as long.
const EVERY: Duration = Duration::hours(6);
/// Pages of one list.
const MOST_PAGES: usize = 100;

/// What came of asking for a course's members.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Asked {
    /// Who is new in the class, or back.
    pub came: Vec<String>,
    pub left: Vec<String>,
    /// Somebody of that name is in the class already: joined when they come from the portal and sign in once.
    pub to_be_joined: Vec<String>,
    /// Neither students nor teachers.
    pub others: usize,
}

impl Asked {
    fn words(&self) -> String {
        format!(
            "{} came, {} left, {} to be joined",
            self.came.len(),
            self.left.len(),
            self.to_be_joined.len()
        )
    }
}

async fn members(school: &School, course: &PortalCourse) -> Result<Vec<Member>, Platform> {
    let portal = store::find_portal(&school.pool, course.portal)
        .await?
        .ok_or(SchoolError::NotFound)?;
    let refused = |words: &str| Platform::Refused {
        status: 0,
        words: words.to_owned(),
    };
    let first = course
        .memberships_url
        .clone()
        .ok_or_else(|| refused("it has not said where its list of members is"))?;
    let mut all = Vec::new();
    let mut next = Some(first);
    for _ in 0..MOST_PAGES {
        let Some(address) = next else { return Ok(all) };
        if super::address_fault(&address).is_some() {
            return Err(refused("its list goes on at an address that can't be used"));
        }
        let call = (Method::GET, address.as_str(), lti::MEDIA_MEMBERSHIPS);
        let page = school
            .portals
            .service(school, &portal, lti::SCOPE_MEMBERSHIPS, call, None)
            .await?;
        all.extend(lti::read_page(&page.body).map_err(|e| refused(&e.to_string()))?);
        next = page.link.as_deref().and_then(lti::next_page);
    }
    Err(refused("its list has no end"))
}

/// Asks for the members of a course, and fills its class: who is new comes in, who left is marked.
///
/// # Errors
/// What the portal or the database said.
pub async fn ask_members(school: &School, course: &PortalCourse) -> Result<Asked, Platform> {
    let asked = async {
        let listed = members(school, course).await?;
        Ok(take_members(school, course, &listed).await?)
    };
    let asked: Result<Asked, Platform> = asked.await;
    let now = school.now();
    let words = match &asked {
        Ok(asked) => asked.words(),
        Err(error) => error.to_string(),
    };
    store::save_asked(&school.pool, course.id, &words, now).await?;
    match &asked {
        Err(Platform::Away(_)) => {
            store::portal_away(&school.pool, course.portal, super::outbox::pause, now).await?
        }
        _ => store::portal_answers(&school.pool, course.portal).await?,
    }
    asked
}

async fn take_members(
    school: &School,
    course: &PortalCourse,
    listed: &[Member],
) -> Result<Asked, SchoolError> {
    let pool = &school.pool;
    let now = school.now();
    let known: BTreeMap<String, PersonId> = store::subjects_of(pool, course.portal)
        .await?
        .into_iter()
        .collect();
    let portal = store::find_portal(pool, course.portal)
        .await?
        .ok_or(SchoolError::NotFound)?;
    let class = store::members_of(pool, course.class).await?;
    let linked = |person: PersonId| known.values().any(|p| *p == person);
    let mut asked = Asked::default();
    for member in listed.iter().filter(|m| m.status == MemberStatus::Active) {
        let Some(role) = member.role else {
            asked.others += 1;
            continue;
        };
        let name = member
            .name
            .clone()
            .unwrap_or_else(|| format!("Member {}", member.subject));
        let person = match known.get(&member.subject) {
            Some(person) => *person,
            None => {
                if store::is_name_unlinked(pool, course.portal, &name).await? {
                    asked.to_be_joined.push(name);
                    continue;
                }
                let person = create_under_free_name(school, &name, account_role(&portal, role)).await?;
                if !store::link_in_portal(pool, course.portal, &member.subject, person, now).await? {
                    store::forget_person(pool, person, now).await?;
                    continue;
                }
                person
            }
        };
        if store::come_by_portal(pool, course.class, person, member_role(role)).await? {
            asked.came.push(name);
        }
    }
    for member in class
        .iter()
        .filter(|m| m.left_at.is_none() && linked(m.person.id))
    {
        let still = listed.iter().any(|l| {
            l.status == MemberStatus::Active && known.get(&l.subject).is_some_and(|p| *p == member.person.id)
        });
        // Who teaches is not put out of their class by a list.
        if !still
            && member.role != MemberRole::Teacher
            && store::set_left_by_portal(pool, course.class, member.person.id, now).await?
        {
            asked.left.push(member.person.display_name.clone());
        }
    }
    Ok(asked)
}

/// Asks for the lists that are due.
pub(crate) async fn ask_due(school: &School) -> Result<(), SchoolError> {
    let now = school.now();
    let courses = store::due_courses(&school.pool, now - EVERY, now).await?;
    let mut by_portal: BTreeMap<Uuid, Vec<PortalCourse>> = BTreeMap::new();
    for course in courses {
        by_portal.entry(course.portal).or_default().push(course);
    }
    // Portals don't wait for each other. Courses of one do: whoever is new in two of them comes in once.
    let ask = async |courses: Vec<PortalCourse>| {
        for course in &courses {
            if let Err(error) = ask_members(school, course).await {
                tracing::warn!(course = %course.id, cause = %error, "a portal's class list");
            }
        }
    };
    join_all(by_portal.into_values().map(ask)).await;
    Ok(())
}

/// A score that the portal's grade book has otherwise.
#[derive(Clone, Debug, PartialEq)]
pub struct Differs {
    pub line: Uuid,
    pub student: PersonId,
    pub name: String,
    pub title: String,
    /// Per cent.
    pub here: Option<f64>,
    pub there: Option<f64>,
}

/// Reads the portal's grade book beside the recorded scores of a class.
///
/// # Errors
/// What the portal or the database said.
pub async fn compare(school: &School, class: Uuid) -> Result<Vec<Differs>, Platform> {
    let pool = &school.pool;
    let members = store::members_of(pool, class).await?;
    let mut differs = Vec::new();
    for course in store::courses_of_class(pool, class).await? {
        let portal = store::find_portal(pool, course.portal)
            .await?
            .ok_or(SchoolError::NotFound)?;
        let subjects = store::subjects_of(pool, course.portal).await?;
        for line in store::lines_of_class(pool, class)
            .await?
            .iter()
            .filter(|l| l.course == course.id)
        {
            let mut there: BTreeMap<String, f64> = BTreeMap::new();
            let mut next = line.url.as_deref().and_then(lti::results_url);
            for _ in 0..MOST_PAGES {
                let Some(address) = next.take() else { break };
                let call = (Method::GET, address.as_str(), lti::MEDIA_RESULTS);
                let page = school
                    .portals
                    .service(school, &portal, lti::SCOPE_RESULT, call, None)
                    .await?;
                for result in page.body.as_array().into_iter().flatten() {
                    let Ok(result) = serde_json::from_value::<PlatformResult>(result.clone()) else {
                        continue;
                    };
                    if let Some(score) = result.result_score {
                        there.insert(
                            result.user_id,
                            100.0 * score / result.result_maximum.unwrap_or(1.0),
                        );
                    }
                }
                next = page.link.as_deref().and_then(lti::next_page);
            }
            let recorded = store::recorded_of(pool, line.assignment).await?;
            for member in members.iter().filter(|m| m.role == MemberRole::Student) {
                let Some((subject, _)) = subjects.iter().find(|(_, p)| *p == member.person.id) else {
                    continue;
                };
                let here = recorded
                    .iter()
                    .find(|(p, _)| *p == member.person.id)
                    .map(|(_, s)| *s);
                let there = there.get(subject).copied();
                let same = match (here, there) {
                    (None, None) => true,
                    (Some(a), Some(b)) => (a - b).abs() < 0.5,
                    _ => false,
                };
                if !same {
                    differs.push(Differs {
                        line: line.id,
                        student: member.person.id,
                        name: member.person.display_name.clone(),
                        title: line.title.clone(),
                        here,
                        there,
                    });
                }
            }
        }
    }
    Ok(differs)
}
