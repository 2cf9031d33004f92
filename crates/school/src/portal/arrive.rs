//! Coming from a portal: a sign-in is begun, its answer judged, and somebody arrives: known, new, or to be joined with an
//! account that is there.

use lti::{Context, DeepLinkingSettings, Expected, Launch, Message, Refusal, Role};
use serde::{Deserialize, Serialize};
use serde_json::json;
use store::{MemberRole, Person, PersonId, Portal, PortalCourse};
use time::Duration;
use uuid::Uuid;

use super::client::Platform;
use crate::School;
use crate::classes::create_under_free_name;
use crate::error::SchoolError;
use crate::own::fresh_token;
use crate::sign_in::{start_session, token_hash};

/// From the portal's question to its answer.
const STATE_LASTS: Duration = Duration::minutes(10);
/// For saying who one is, which class a course is, or what is picked.
const ARRIVAL_LASTS: Duration = Duration::minutes(60);

/// A sign-in that was begun: where the browser goes, and the secret that it keeps.
pub struct Begun {
    pub redirect: String,
    pub browser: String,
}

/// What a portal asks for when it opens a link (OpenID Connect's third-party initiated login).
#[derive(Clone, Debug, Deserialize)]
pub struct LoginRequest {
    pub iss: String,
    pub login_hint: String,
    pub target_link_uri: String,
    pub lti_message_hint: Option<String>,
    pub client_id: Option<String>,
    pub lti_deployment_id: Option<String>,
}

/// Why somebody did not arrive.
#[derive(Debug, thiserror::Error)]
pub enum LaunchError {
    #[error(transparent)]
    Refused(#[from] Refusal),
    #[error("The portal could not be asked for its keys just now. Please open the link again in a moment.")]
    Away,
    #[error(transparent)]
    School(#[from] SchoolError),
}

impl From<store::StoreError> for LaunchError {
    fn from(error: store::StoreError) -> Self {
        LaunchError::School(error.into())
    }
}

async fn portal_of(school: &School, request: &LoginRequest) -> Result<Portal, LaunchError> {
    let known = store::portals_known(&school.pool).await?;
    let mut fits = known.into_iter().filter(|p| {
        p.ended_at.is_none()
            && p.issuer == request.iss
            && request.client_id.as_ref().is_none_or(|c| *c == p.client_id)
    });
    let one = fits.next().ok_or(Refusal::UnknownPlatform)?;
    // Two registrations of one issuer can only be told apart by the client.
    if fits.next().is_some() {
        return Err(Refusal::UnknownPlatform.into());
    }
    if let Some(deployment) = &request.lti_deployment_id
        && !one.deployments.contains(deployment)
    {
        return Err(Refusal::Deployment.into());
    }
    Ok(one)
}

/// Begins a sign-in. `base` is our own address; `browser` the secret that this browser keeps already.
///
/// # Errors
/// If the portal is not known, or wants somebody to be sent elsewhere.
pub async fn begin(
    school: &School,
    request: &LoginRequest,
    base: &str,
    browser: Option<String>,
) -> Result<Begun, LaunchError> {
    let portal = portal_of(school, request).await?;
    let ours = match (url::Url::parse(&request.target_link_uri), url::Url::parse(base)) {
        (Ok(target), Ok(base)) => target.origin() == base.origin(),
        _ => false,
    };
    if !ours {
        return Err(Refusal::ElsewhereTarget.into());
    }
    let (state, nonce) = (fresh_token()?, fresh_token()?);
    let browser = match browser.filter(|b| b.len() == 64) {
        Some(browser) => browser,
        None => fresh_token()?,
    };
    let now = school.now();
    store::put_state(
        &school.pool,
        &token_hash(&state),
        &token_hash(&browser),
        portal.id,
        &nonce,
        now,
        now + STATE_LASTS,
    )
    .await?;
    let mut to = url::Url::parse(&portal.authorization_url)
        .map_err(|e| SchoolError::Inside(format!("{}: {e}", portal.authorization_url)))?;
    to.query_pairs_mut()
        .append_pair("scope", "openid")
        .append_pair("response_type", "id_token")
        .append_pair("response_mode", "form_post")
        .append_pair("prompt", "none")
        .append_pair("client_id", &portal.client_id)
        .append_pair("redirect_uri", &format!("{base}/lti/launch"))
        .append_pair("login_hint", &request.login_hint)
        .append_pair("state", &state)
        .append_pair("nonce", &nonce);
    if let Some(hint) = &request.lti_message_hint {
        to.query_pairs_mut().append_pair("lti_message_hint", hint);
    }
    Ok(Begun {
        redirect: to.into(),
        browser,
    })
}

/// What waits for an answer of the browser that came.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Arrival {
    pub kind: ArrivalKind,
    pub subject: String,
    pub name: String,
    pub role: Role,
    pub deployment: String,
    pub context: Option<Context>,
    /// The assignment that the link means: its id, or its short name.
    pub assignment: Option<String>,
    pub line_item: Option<String>,
    pub line_items: Option<String>,
    pub memberships: Option<String>,
    pub picking: Option<DeepLinkingSettings>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum ArrivalKind {
    /// There may be an account already.
    Join,
    /// A teacher says which class the course is.
    Class,
    /// A teacher picks for the portal.
    Pick,
}

/// What comes of a launch.
pub enum Arrived {
    /// Signed in, and on to there.
    In { session: String, to: String },
    /// Something has to be said first, by this browser; perhaps signed in already.
    Asked {
        session: Option<String>,
        arrival: String,
        kind: ArrivalKind,
    },
    /// A student of a course that has no class yet.
    NoClass { portal: String, course: String },
    /// A student who was taken out of the class here.
    TakenOut { class: String },
    /// A teacher of a course that has no class yet, whose account may make none.
    NotVouchedFor { portal: String, course: String },
}

/// Judges the portal's answer, and lets somebody in.
///
/// # Errors
/// What is wrong with it.
pub async fn launch(
    school: &School,
    state: &str,
    browser: &str,
    token: &str,
    base: &str,
) -> Result<Arrived, LaunchError> {
    let now = school.now();
    let taken = store::take_state(&school.pool, &token_hash(state), &token_hash(browser), now).await?;
    let (portal, nonce) = taken.ok_or(Refusal::State)?;
    let portal = store::find_portal(&school.pool, portal)
        .await?
        .filter(|p| p.ended_at.is_none())
        .ok_or(Refusal::UnknownPlatform)?;
    let claims = match school.portals.open(&portal, token).await {
        Ok(opened) => opened?,
        Err(Platform::School(error)) => return Err(error.into()),
        Err(error) => {
            tracing::warn!(portal = portal.name, cause = %error, "the portal's keys can't be fetched");
            return Err(LaunchError::Away);
        }
    };
    let launch = lti::judge(
        &claims,
        &Expected {
            issuer: &portal.issuer,
            client_id: &portal.client_id,
            deployments: &portal.deployments,
            nonce: &nonce,
            base,
            // The portal's clock is the world's, whatever ours is moved to.
            now: time::OffsetDateTime::now_utc(),
        },
    )?;
    let arrival = arrival_of(launch);
    if arrival.picking.is_some() && arrival.role != Role::Teacher {
        return Err(Refusal::PickingIsForTeachers.into());
    }
    let person = match store::find_in_portal(&school.pool, portal.id, &arrival.subject).await? {
        Some(person) => person,
        None => match newcomer(school, &portal, &arrival).await? {
            Newcomer::Made(person) => person,
            Newcomer::MayBeHere => {
                return Ok(asked(school, &portal, arrival, ArrivalKind::Join, None).await?);
            }
            Newcomer::NoClass => return Ok(no_class(&portal, arrival)),
        },
    };
    Ok(land(school, &portal, arrival, person).await?)
}

/// The assignment that a link names: by its id or its short name, or by the address that is opened.
fn arrival_of(launch: Launch) -> Arrival {
    let path = url::Url::parse(&launch.target)
        .map(|u| u.path().to_owned())
        .unwrap_or_default();
    let in_path = path
        .strip_prefix("/work/")
        .and_then(|rest| rest.split('/').next());
    let named = launch.custom.get("assignment").map(String::as_str).or(in_path);
    let assignment = named.map(str::to_owned);
    let picking = match launch.message {
        Message::DeepLinking(settings) => Some(settings),
        Message::ResourceLink(_) => None,
    };
    let grades = launch.grades.unwrap_or_default();
    Arrival {
        kind: ArrivalKind::Join,
        name: launch
            .name
            .unwrap_or_else(|| format!("Member {}", launch.subject)),
        subject: launch.subject,
        role: launch.role,
        deployment: launch.deployment,
        context: launch.context,
        assignment,
        line_item: grades.line_item,
        line_items: grades.line_items,
        memberships: launch.memberships,
        picking,
    }
}

/// The assignment of a class that a link means.
async fn assignment_in(school: &School, class: Uuid, arrival: &Arrival) -> Result<Option<Uuid>, SchoolError> {
    let Some(named) = &arrival.assignment else {
        return Ok(None);
    };
    Ok(match named.parse::<Uuid>() {
        Ok(id) => store::is_assignment_of(&school.pool, id, class)
            .await?
            .then_some(id),
        Err(_) => store::find_assignment_by_slug(&school.pool, class, named).await?,
    })
}

async fn course_of(
    school: &School,
    portal: Uuid,
    arrival: &Arrival,
) -> Result<Option<PortalCourse>, SchoolError> {
    Ok(match &arrival.context {
        Some(context) => store::find_course(&school.pool, portal, &arrival.deployment, &context.id).await?,
        None => None,
    })
}

enum Newcomer {
    Made(Person),
    /// Somebody of that name is here whom the portal does not know.
    MayBeHere,
    NoClass,
}

/// Somebody whom the portal has never sent before.
async fn newcomer(school: &School, portal: &Portal, arrival: &Arrival) -> Result<Newcomer, SchoolError> {
    let may_be_made = may_be_made(school, portal, arrival).await?;
    // A teacher who has an account here may say which of their classes the course is, whoever vouches for them.
    let may_be_known = may_be_made || arrival.role == Role::Teacher;
    if may_be_known && store::is_name_unlinked(&school.pool, portal.id, &arrival.name).await? {
        return Ok(Newcomer::MayBeHere);
    }
    if !may_be_made {
        return Ok(Newcomer::NoClass);
    }
    Ok(Newcomer::Made(make_person(school, portal, arrival).await?))
}

/// Whether an account is made for somebody: they have a class to come into, or the portal vouches for its teachers.
async fn may_be_made(school: &School, portal: &Portal, arrival: &Arrival) -> Result<bool, SchoolError> {
    let vouched = arrival.role == Role::Teacher && portal.vouches_for_teachers;
    Ok(vouched || course_of(school, portal.id, arrival).await?.is_some())
}

/// An account for somebody whom the portal sends: it has no password.
async fn make_person(school: &School, portal: &Portal, arrival: &Arrival) -> Result<Person, SchoolError> {
    let made = create_under_free_name(school, &arrival.name, account_role(portal, arrival.role)).await?;
    if !store::link_in_portal(&school.pool, portal.id, &arrival.subject, made, school.now()).await? {
        // Twice at the same moment: the first one counts.
        store::forget_person(&school.pool, made, school.now()).await?;
    }
    let person = store::find_in_portal(&school.pool, portal.id, &arrival.subject).await?;
    person.ok_or(SchoolError::NotFound)
}

/// What a new account may do beside what it is in its classes: make some, where the portal vouches for its teachers.
pub(super) fn account_role(portal: &Portal, role: Role) -> store::Role {
    match role {
        Role::Teacher if portal.vouches_for_teachers => store::Role::Teacher,
        Role::Teacher | Role::Student | Role::Trial => store::Role::Student,
    }
}

/// What somebody is in the class of a course.
pub(super) fn member_role(role: Role) -> MemberRole {
    match role {
        Role::Student => MemberRole::Student,
        Role::Teacher => MemberRole::Teacher,
        Role::Trial => MemberRole::Trial,
    }
}

fn no_class(portal: &Portal, arrival: Arrival) -> Arrived {
    let portal = portal.name.clone();
    let course = arrival.context.map(|c| c.title).unwrap_or_default();
    match arrival.role {
        Role::Teacher => Arrived::NotVouchedFor { portal, course },
        Role::Student | Role::Trial => Arrived::NoClass { portal, course },
    }
}

async fn asked(
    school: &School,
    portal: &Portal,
    arrival: Arrival,
    kind: ArrivalKind,
    session: Option<String>,
) -> Result<Arrived, SchoolError> {
    let token = fresh_token()?;
    let now = school.now();
    let body = json!(Arrival { kind, ..arrival });
    store::put_arrival(
        &school.pool,
        &token_hash(&token),
        portal.id,
        &body,
        now,
        now + ARRIVAL_LASTS,
    )
    .await?;
    Ok(Arrived::Asked {
        session,
        arrival: token,
        kind,
    })
}

/// Somebody who is known arrives: signed in, in the class, and where the link leads.
///
/// # Errors
/// What the database said.
pub async fn land(
    school: &School,
    portal: &Portal,
    arrival: Arrival,
    person: Person,
) -> Result<Arrived, SchoolError> {
    let pool = &school.pool;
    let course = course_of(school, portal.id, &arrival).await?;
    let Some(course) = course else {
        // The desk is open to them already: they say which of their classes it is.
        let may_choose = arrival.role == Role::Teacher && person.role == store::Role::Teacher;
        if may_choose && arrival.context.is_some() {
            let session = start_session(school, person.id).await?;
            return asked(school, portal, arrival, ArrivalKind::Class, Some(session)).await;
        }
        if arrival.context.is_some() {
            return Ok(no_class(portal, arrival));
        }
        // A link outside all courses: to one's own start.
        let session = start_session(school, person.id).await?;
        return Ok(Arrived::In {
            session,
            to: "/".into(),
        });
    };
    store::come_by_portal(pool, course.class, person.id, member_role(arrival.role)).await?;
    let Some(role) = store::role_in_class(pool, course.class, person.id).await? else {
        return Ok(Arrived::TakenOut {
            class: store::class_title(pool, course.class).await?.unwrap_or_default(),
        });
    };
    let assignment = assignment_in(school, course.class, &arrival).await?;
    take_services(school, &course, &arrival, assignment).await?;
    let session = start_session(school, person.id).await?;
    if arrival.picking.is_some() {
        if role != MemberRole::Teacher {
            return Err(SchoolError::NotFound);
        }
        return asked(school, portal, arrival, ArrivalKind::Pick, Some(session)).await;
    }
    let to = match (role, assignment) {
        (MemberRole::Teacher, Some(id)) => format!("/classes/{}/work/{id}", course.class),
        (MemberRole::Teacher, None) => format!("/classes/{}", course.class),
        (MemberRole::Student | MemberRole::Trial, Some(id)) => format!("/work/{id}"),
        (MemberRole::Student | MemberRole::Trial, None) => "/".into(),
    };
    Ok(Arrived::In { session, to })
}

/// Notes where the services of a course are, and the line item of the link that was opened.
async fn take_services(
    school: &School,
    course: &PortalCourse,
    arrival: &Arrival,
    assignment: Option<Uuid>,
) -> Result<(), SchoolError> {
    let (memberships, line_items) = (arrival.memberships.as_deref(), arrival.line_items.as_deref());
    let new = memberships.is_some_and(|m| course.memberships_url.as_deref() != Some(m))
        || line_items.is_some_and(|l| course.line_items_url.as_deref() != Some(l));
    if new {
        store::set_course_urls(&school.pool, course.id, memberships, line_items).await?;
    }
    if let (Some(assignment), Some(url)) = (assignment, &arrival.line_item) {
        store::put_line(&school.pool, course.id, assignment, Some(url), school.now()).await?;
    }
    Ok(())
}

fn read(body: serde_json::Value) -> Result<Arrival, SchoolError> {
    serde_json::from_value(body).map_err(|e| SchoolError::Inside(e.to_string()))
}

/// What waits for this browser.
///
/// # Errors
/// `NotFound` where nothing does (any more).
pub async fn look(school: &School, token: &str) -> Result<(Portal, Arrival), SchoolError> {
    let found = store::find_arrival(&school.pool, &token_hash(token), school.now()).await?;
    let (portal, body) = found.ok_or(SchoolError::NotFound)?;
    let portal = store::find_portal(&school.pool, portal).await?;
    Ok((portal.ok_or(SchoolError::NotFound)?, read(body)?))
}

/// As [`look`], the first time only, where it is of this kind.
pub(crate) async fn take(
    school: &School,
    token: &str,
    kind: ArrivalKind,
) -> Result<(Portal, Arrival), SchoolError> {
    let (portal, arrival) = look(school, token).await?;
    if arrival.kind != kind {
        return Err(SchoolError::NotFound);
    }
    let taken = store::take_arrival(&school.pool, &token_hash(token), school.now()).await?;
    taken.ok_or(SchoolError::NotFound)?;
    Ok((portal, arrival))
}

/// Somebody says that they have no account here yet.
///
/// # Errors
/// `NotFound` where nothing waits for this browser.
pub async fn on_as_new(school: &School, token: &str) -> Result<Arrived, SchoolError> {
    let (portal, arrival) = take(school, token, ArrivalKind::Join).await?;
    let person = match store::find_in_portal(&school.pool, portal.id, &arrival.subject).await? {
        Some(person) => person,
        None if !may_be_made(school, &portal, &arrival).await? => return Ok(no_class(&portal, arrival)),
        None => make_person(school, &portal, &arrival).await?,
    };
    land(school, &portal, arrival, person).await
}

/// Somebody has signed in to the account that they have: from now on the portal means it. The account of a class that
/// the course is not joins it.
///
/// # Errors
/// `NotFound` where nothing waits for this browser.
pub async fn on_joined(school: &School, token: &str, person: Person) -> Result<Arrived, SchoolError> {
    let (portal, arrival) = take(school, token, ArrivalKind::Join).await?;
    if !store::link_in_portal(&school.pool, portal.id, &arrival.subject, person.id, school.now()).await? {
        return Err(SchoolError::NotFound);
    }
    land(school, &portal, arrival, person).await
}

/// A teacher says which class a course is, one of theirs.
///
/// # Errors
/// `NotFound` where nothing waits for this browser, or it is not their class.
pub async fn chose_class(
    school: &School,
    token: &str,
    teacher: PersonId,
    class: Uuid,
) -> Result<Arrived, SchoolError> {
    let class = store::find_class_taught(&school.pool, teacher, class)
        .await?
        .ok_or(SchoolError::NotFound)?;
    let person = store::find_person(&school.pool, teacher)
        .await?
        .ok_or(SchoolError::NotFound)?;
    let (portal, arrival) = take(school, token, ArrivalKind::Class).await?;
    let context = arrival.context.clone().ok_or(SchoolError::NotFound)?;
    let course = store::put_course(
        &school.pool,
        portal.id,
        &arrival.deployment,
        &context.id,
        &context.title,
        class.id,
    )
    .await?;
    tracing::info!(portal = portal.name, course = %course, class = %class.id, "a course of a portal is a class now");
    land(school, &portal, arrival, person).await
}
