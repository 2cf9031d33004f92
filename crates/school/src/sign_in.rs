//! Sign-in: Argon2id, sessions kept as the hash of their token, and limits that hold in parallel and lock out no school.
//!
//! A try is counted before the password is looked at: under the name together with the address, under the name, and, far
//! more widely, under the address, behind which a whole school may sit. A right password takes its try back. No count lasts
//! longer than its window, and what is refused is not counted, so that the right password gets in after the wait.

use argon2::Argon2;
use argon2::password_hash::{PasswordHasher, PasswordVerifier, phc::PasswordHash};
use sha2::{Digest, Sha256};
use sqlx::PgConnection;
use store::{Person, PersonId, TryLimit};
use time::{Duration, OffsetDateTime};

use crate::School;
use crate::error::SchoolError;

/// A term's worth of evenings: signing in again loses nothing, but is a nuisance.
pub const SESSION_LASTS: Duration = Duration::days(14);

/// Wrong tries at one name from one address in a minute.
const AT_NAME_FROM_ADDRESS: i32 = 10;
/// Wrong tries at one name from anywhere, in its window.
const AT_NAME: i32 = 60;
const NAME_WINDOW: Duration = Duration::minutes(10);
/// Tries under way or wrong from one address in a minute: a school that comes in from the break.
const FROM_ADDRESS: i32 = 1_200;
const WINDOW: Duration = Duration::minutes(1);

/// What came of a try.
pub enum Tried {
    In(Person),
    /// The name and the password do not go together; which of the two, nobody is told.
    Wrong,
    /// Not looked at; free again then.
    TooMany(OffsetDateTime),
}

/// The stored form of a password.
///
/// # Errors
/// If no random salt can be had.
pub fn hash_password(password: &str) -> Result<String, SchoolError> {
    let inside = |e: String| SchoolError::Inside(e);
    let mut salt = [0u8; 16];
    getrandom::fill(&mut salt).map_err(|e| inside(e.to_string()))?;
    let hash = Argon2::default()
        .hash_password_with_salt(password.as_bytes(), &salt)
        .map_err(|e| inside(e.to_string()))?;
    Ok(hash.to_string())
}

/// Whether a password is the one of a hash. One without a hash of ours takes as long, and is not.
fn verify(password: &str, hash: Option<&str>) -> bool {
    match hash.and_then(|h| PasswordHash::new(h).ok()) {
        Some(hash) => Argon2::default()
            .verify_password(password.as_bytes(), &hash)
            .is_ok(),
        None => {
            let _ = hash_password(password);
            false
        }
    }
}

/// Checks a name and password from an address.
///
/// # Errors
/// `Busy` where too many are signing in.
pub async fn check_credentials(
    school: &School,
    address: &str,
    name: &str,
    password: String,
) -> Result<Tried, SchoolError> {
    let now = school.now();
    let name = name.trim().to_lowercase();
    let (at_both, at_name, at_address) = (
        format!("both {address} {name}"),
        format!("name {name}"),
        format!("address {address}"),
    );
    let limit = |key, most, lasts| TryLimit { key, most, lasts };
    let limits = [
        limit(&at_both, AT_NAME_FROM_ADDRESS, WINDOW),
        limit(&at_name, AT_NAME, NAME_WINDOW),
        limit(&at_address, FROM_ADDRESS, WINDOW),
    ];
    if let Some(free) = store::count_try(&school.pool, &limits, now).await? {
        tracing::warn!(address, "sign-in refused: too many tries");
        return Ok(Tried::TooMany(free));
    }
    let found = store::find_credentials(&school.pool, &name).await?;
    let hash = found.as_ref().map(|(_, hash)| hash.clone());
    let right = school
        .compute_password(move || verify(&password, hash.as_deref()))
        .await?;
    match found {
        Some((person, _)) if right => {
            store::forget_tries(
                &school.pool,
                &[at_both, at_name],
                &[at_address],
                now - NAME_WINDOW,
            )
            .await?;
            Ok(Tried::In(person))
        }
        _ => {
            tracing::warn!(address, "sign-in failed");
            Ok(Tried::Wrong)
        }
    }
}

/// The form in which a token is kept and looked up: a copy of the table signs nobody in.
pub fn token_hash(token: &str) -> [u8; 32] {
    Sha256::digest(token.as_bytes()).into()
}

/// Starts a session and gives its token.
///
/// # Errors
/// If the operating system gives no random bytes, or what the database said.
pub async fn start_session(school: &School, person: PersonId) -> Result<String, SchoolError> {
    let mut random = [0u8; 32];
    getrandom::fill(&mut random).map_err(|e| SchoolError::Inside(e.to_string()))?;
    let token: String = random.iter().map(|b| format!("{b:02x}")).collect();
    store::create_session(
        &school.pool,
        &token_hash(&token),
        person,
        school.now(),
        SESSION_LASTS,
    )
    .await?;
    Ok(token)
}

/// # Errors
/// What the database said.
pub async fn end_session(school: &School, token: &str) -> Result<(), SchoolError> {
    let hash = token_hash(token);
    school.held().forget_session(&hash);
    Ok(store::delete_session(&school.pool, &hash).await?)
}

/// Who holds a session.
///
/// # Errors
/// `NotSignedIn` if nobody does.
pub async fn who_is(school: &School, token_hash: &[u8; 32]) -> Result<Person, SchoolError> {
    let now = school.now();
    let ask = async |db: &mut PgConnection| store::find_by_session(db, token_hash, now).await;
    let found = school.lanes.read(ask).await?;
    found.ok_or(SchoolError::NotSignedIn)
}

/// Sets a password; wherever this person is signed in, they are signed out.
///
/// # Errors
/// What the database said.
pub async fn set_password(school: &School, person: PersonId, password: String) -> Result<(), SchoolError> {
    let hash = school
        .compute_password(move || hash_password(&password))
        .await??;
    Ok(store::set_password(&school.pool, person, &hash).await?)
}

/// Codes that are tried from one address in a minute: a class that joins in its first lesson, and no more.
const CODES_FROM_ADDRESS: i32 = 600;

/// Counts a try of a class's code. Gives when the next one may be, where there were too many.
///
/// # Errors
/// What the database said.
pub async fn may_try_a_code(school: &School, address: &str) -> Result<Option<OffsetDateTime>, SchoolError> {
    let key = format!("code {address}");
    let limit = TryLimit {
        key: &key,
        most: CODES_FROM_ADDRESS,
        lasts: WINDOW,
    };
    Ok(store::count_try(&school.pool, &[limit], school.now()).await?)
}

/// Lets a teacher's session act as a made-up student of a class.
///
/// # Errors
/// What the database said.
pub async fn act_as_student(school: &School, token: &str, class: uuid::Uuid) -> Result<(), SchoolError> {
    let hash = token_hash(token);
    school.held().forget_session(&hash);
    Ok(store::act_as_student(&school.pool, class, &hash, "A made-up student").await?)
}

/// Ends it: the session is the teacher's again.
///
/// # Errors
/// What the database said.
pub async fn act_as_oneself(school: &School, token: &str) -> Result<bool, SchoolError> {
    let hash = token_hash(token);
    school.held().forget_session(&hash);
    Ok(store::act_as_oneself(&school.pool, &hash).await?)
}
