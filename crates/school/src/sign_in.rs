//! Sign-in: Argon2id, sessions kept as the hash of their token, and limits that hold in parallel and lock out no school.
//!
//! A try is counted before the password is looked at: under the name together with the address, under the name, and, far
//! more widely, under the address, behind which a whole school may sit; an address from which nobody ever came in has far
//! fewer. A right password takes its try back. No count lasts longer than its window, and what is refused is not counted, so
//! that the right password gets in after the wait.
//!
//! A browser in which somebody was in before says so by a cookie that only we can write. There, their tries have counts and
//! turns of their own: neither a classmate at the same address nor a flood from anywhere keeps them out.

use argon2::Argon2;
use argon2::password_hash::{PasswordHasher, PasswordVerifier, phc::PasswordHash};
use hmac::{Hmac, Mac};
use sha2::{Digest, Sha256};
use sqlx::PgConnection;
use store::{Person, PersonId, TryLimit};
use time::{Duration, OffsetDateTime};

use crate::School;
use crate::compute::PasswordTurn;
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
/// The same where nobody has come in from for so long.
const FROM_NEW_ADDRESS: i32 = 200;
const STAYS_RIGHT: Duration = Duration::days(60);
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

/// What the browser says of itself.
#[derive(Clone, Copy, Debug)]
pub struct ComesFrom<'a> {
    pub address: &'a str,
    /// What [`remember`] gave it when somebody came in there.
    pub known: Option<&'a str>,
}

/// Checks a name and password.
///
/// # Errors
/// `Busy` where too many are signing in.
pub async fn check_credentials(
    school: &School,
    from: ComesFrom<'_>,
    name: &str,
    password: String,
) -> Result<Tried, SchoolError> {
    let now = school.now();
    let address = from.address;
    let name = name.trim().to_lowercase();
    let browser = match from.known {
        Some(cookie) => known_browser(school, cookie, &name).await?,
        None => None,
    };
    let limit = |key, most, lasts| TryLimit { key, most, lasts };
    let (own, shared, turn) = match &browser {
        Some(browser) => {
            let turn = PasswordTurn::KnownHere { name: name.clone() };
            (vec![format!("known {browser} {name}")], Vec::new(), turn)
        }
        None => (
            vec![format!("both {address} {name}"), format!("name {name}")],
            vec![format!("address {address}")],
            PasswordTurn::Stranger {
                address: address.to_owned(),
            },
        ),
    };
    let of_address = match browser {
        Some(_) => 0,
        None if store::is_right_address(&school.pool, address, now - STAYS_RIGHT).await? => FROM_ADDRESS,
        None => FROM_NEW_ADDRESS,
    };
    let lasts = [(AT_NAME_FROM_ADDRESS, WINDOW), (AT_NAME, NAME_WINDOW)];
    let mut limits: Vec<TryLimit<'_>> = own
        .iter()
        .zip(lasts)
        .map(|(key, (most, lasts))| limit(key, most, lasts))
        .collect();
    limits.extend(shared.iter().map(|key| limit(key, of_address, WINDOW)));
    if let Some(free) = store::count_try(&school.pool, &limits, now).await? {
        tracing::warn!(address, "sign-in refused: too many tries");
        return Ok(Tried::TooMany(free));
    }
    let found = store::find_credentials(&school.pool, &name).await?;
    let hash = found.as_ref().map(|(_, hash)| hash.clone());
    let looked = school
        .compute_password(turn, move || verify(&password, hash.as_deref()))
        .await;
    let right = match looked {
        Ok(right) => right,
        Err(error) => {
            // It was not looked at: it counts for nothing.
            let all: Vec<String> = own.into_iter().chain(shared).collect();
            store::forget_tries(&school.pool, &[], &all, now - NAME_WINDOW).await?;
            return Err(error);
        }
    };
    match found {
        Some((person, _)) if right => {
            store::forget_tries(&school.pool, &own, &shared, now - NAME_WINDOW).await?;
            store::note_right_address(&school.pool, address, now).await?;
            Ok(Tried::In(person))
        }
        _ => {
            tracing::warn!(address, "sign-in failed");
            Ok(Tried::Wrong)
        }
    }
}

/// Names that a browser is known by: a family's computer, a few of a classroom's.
const MOST_KNOWN: usize = 8;
/// Bytes of a browser's own number, and of what we sign.
const OF_BROWSER: usize = 8;
const OF_SIGNATURE: usize = 16;

async fn signing_key(school: &School) -> Result<&[u8], SchoolError> {
    let made = async || {
        let mut fresh = [0u8; 32];
        getrandom::fill(&mut fresh).map_err(|e| SchoolError::Inside(e.to_string()))?;
        Ok::<_, SchoolError>(store::secret(&school.pool, "known browsers", &fresh).await?)
    };
    Ok(school.signing_key.get_or_try_init(made).await?)
}

/// Our signature that somebody was in, in this browser.
fn signed(key: &[u8], browser: &str, name: &str) -> Result<String, SchoolError> {
    let mut mac =
        Hmac::<Sha256>::new_from_slice(key).map_err(|e| SchoolError::Inside(format!("a key: {e}")))?;
    mac.update(browser.as_bytes());
    mac.update(b" ");
    mac.update(name.as_bytes());
    let signature = mac.finalize().into_bytes();
    Ok(signature
        .iter()
        .take(OF_SIGNATURE)
        .map(|b| format!("{b:02x}"))
        .collect())
}

/// The browser's own number, if somebody of this name was in there before.
async fn known_browser(school: &School, cookie: &str, name: &str) -> Result<Option<String>, SchoolError> {
    let mut parts = cookie.split('.');
    let browser = parts.next().unwrap_or_default();
    if browser.len() != 2 * OF_BROWSER || !browser.bytes().all(|b| b.is_ascii_hexdigit()) {
        return Ok(None);
    }
    let wanted = signed(signing_key(school).await?, browser, name)?;
    Ok(parts
        .take(MOST_KNOWN)
        .any(|p| p == wanted)
        .then(|| browser.to_owned()))
}

/// What a browser is given to keep once somebody came in there, beside what it had. It tells no name.
///
/// # Errors
/// If the operating system gives no random bytes, or what the database said.
pub async fn remember(school: &School, cookie: Option<&str>, name: &str) -> Result<String, SchoolError> {
    let name = name.trim().to_lowercase();
    let known = cookie.filter(|c| c.len() < 400 && c.is_ascii());
    let mut parts: Vec<String> = known.unwrap_or_default().split('.').map(str::to_owned).collect();
    let mut browser = parts.remove(0);
    if browser.len() != 2 * OF_BROWSER || !browser.bytes().all(|b| b.is_ascii_hexdigit()) {
        let mut fresh = [0u8; OF_BROWSER];
        getrandom::fill(&mut fresh).map_err(|e| SchoolError::Inside(e.to_string()))?;
        browser = fresh.iter().map(|b| format!("{b:02x}")).collect();
        parts.clear();
    }
    let mine = signed(signing_key(school).await?, &browser, &name)?;
    parts.retain(|p| *p != mine && p.len() == 2 * OF_SIGNATURE);
    parts.insert(0, mine);
    parts.truncate(MOST_KNOWN);
    Ok(format!("{browser}.{}", parts.join(".")))
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

/// Sets a password; wherever this person is signed in, they are signed out. `by` is whose turn it takes.
///
/// # Errors
/// What the database said.
pub async fn set_password(
    school: &School,
    person: PersonId,
    password: String,
    by: PersonId,
) -> Result<(), SchoolError> {
    let hash = school
        .compute_password(PasswordTurn::SignedIn(by), move || hash_password(&password))
        .await??;
    store::set_password(&school.pool, person, &hash).await?;
    school.held().forget_sessions();
    Ok(())
}

/// Somebody changes their own password: everywhere else they are signed out, and their links, tokens and calendar addresses
/// end. Says whether the old one was right.
///
/// # Errors
/// What the database said.
pub async fn change_own_password(
    school: &School,
    person: PersonId,
    session: &[u8; 32],
    old: String,
    new: String,
) -> Result<bool, SchoolError> {
    let hash = store::find_password(&school.pool, person).await?;
    let turn = PasswordTurn::SignedIn(person);
    let made = school
        .compute_password(turn, move || {
            if verify(&old, hash.as_deref()) {
                hash_password(&new).map(Some)
            } else {
                Ok(None)
            }
        })
        .await??;
    let Some(hash) = made else { return Ok(false) };
    store::set_own_password(&school.pool, person, &hash, session).await?;
    school.held().forget_sessions();
    Ok(true)
}

/// Signs somebody out everywhere but here. Says of how many places.
///
/// # Errors
/// What the database said.
pub async fn end_other_sessions(
    school: &School,
    person: PersonId,
    session: &[u8; 32],
) -> Result<u64, SchoolError> {
    let ended = store::end_other_sessions(&school.pool, person, session).await?;
    school.held().forget_sessions();
    Ok(ended)
}

/// Launches begun from one address in a minute: a large school after the break.
const LAUNCHES_FROM_ADDRESS: i32 = 1_000;

/// Whether another sign-in by a portal may begin from an address; each is kept until its answer comes.
///
/// # Errors
/// What the database said.
pub async fn may_begin_launch(school: &School, address: &str) -> Result<bool, SchoolError> {
    let key = format!("launch {address}");
    let limit = TryLimit {
        key: &key,
        most: LAUNCHES_FROM_ADDRESS,
        lasts: WINDOW,
    };
    Ok(store::count_try(&school.pool, &[limit], school.now())
        .await?
        .is_none())
}

/// Counts a look at somebody's own password. Gives when the next one may be, where there were too many.
///
/// # Errors
/// What the database said.
pub async fn may_try_own_password(
    school: &School,
    person: PersonId,
) -> Result<Option<OffsetDateTime>, SchoolError> {
    let key = format!("own {}", person.0);
    let limit = TryLimit {
        key: &key,
        most: AT_NAME_FROM_ADDRESS,
        lasts: WINDOW,
    };
    Ok(store::count_try(&school.pool, &[limit], school.now()).await?)
}

/// Wrong codes from one address in a minute. There are 6 · 10^11: whoever tries as many as this finds none in a century, and
/// a classmate has much to do to keep a class from joining.
const CODES_FROM_ADDRESS: i32 = 6_000;

/// A code was right: its try does not count.
///
/// # Errors
/// What the database said.
pub async fn code_was_right(school: &School, address: &str) -> Result<(), SchoolError> {
    let before = school.now() - NAME_WINDOW;
    Ok(store::forget_tries(&school.pool, &[], &[format!("code {address}")], before).await?)
}

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
