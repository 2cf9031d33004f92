//! What a teacher does with a class: students come in, get a link or a password, and leave. And how a first teacher comes.

use store::{Class, MemberRole, PersonId, Role};
use time::Duration;

use crate::School;
use crate::compute::PasswordTurn;
use crate::error::SchoolError;
use crate::roll::{LONGEST_NAME, RollFault, RollLine, user_name_from};
use crate::sign_in::{hash_password, start_session, token_hash};

/// How long a link that signs in once can be used.
pub const LINK_LASTS: Duration = Duration::days(14);
/// No password has this hash.
const NO_PASSWORD: &str = "none";
/// Letters and digits of a join code that nobody mistakes for others.
const CODE_LETTERS: &[u8; 30] = b"ABCDEFGHJKMNPQRSTUVWXYZ2345678";
const CODE_LENGTH: usize = 8;
pub const SHORTEST_PASSWORD: usize = 8;
pub const LONGEST_PASSWORD: usize = 200;

/// Somebody who came in, with the link that signs them in the first time.
#[derive(Clone, Debug)]
pub struct Added {
    pub person: PersonId,
    pub name: String,
    pub user_name: String,
    /// `None` where the account was there already.
    pub link: Option<String>,
}

/// Why this is no password.
pub fn password_fault(password: &str, user_name: &str) -> Option<&'static str> {
    let length = password.chars().count();
    if length < SHORTEST_PASSWORD {
        return Some("Use at least 8 characters for the password.");
    }
    if length > LONGEST_PASSWORD {
        return Some("Use at most 200 characters for the password.");
    }
    if password.eq_ignore_ascii_case(user_name) {
        return Some("Choose a password that is not your user name.");
    }
    let bare: String = password.to_lowercase();
    if COMMON_PASSWORDS.contains(&bare.as_str()) || is_one_run(&bare) {
        return Some("This password is one of the first that anybody would try. Choose another one.");
    }
    None
}

/// What is tried first.
const COMMON_PASSWORDS: &[&str] = &[
    "password",
    "password1",
    "password12",
    "password123",
    "passw0rd",
    "p@ssw0rd",
    "qwertyui",
    "qwerty12",
    "qwerty123",
    "qwertyuiop",
    "iloveyou",
    "football",
    "baseball",
    "princess",
    "sunshine",
    "superman",
    "trustno1",
    "letmein1",
    "welcome1",
    "welcome123",
    "admin123",
    "administrator",
    "abc12345",
    "abcd1234",
    "1q2w3e4r",
    "1qaz2wsx",
    "asdfghjk",
    "asdfasdf",
    "changeme",
    "computer",
    "dragon12",
    "monkey12",
    "liverpool",
    "arsenal1",
    "chelsea1",
    "homework",
    "greenslate",
    "green slate",
    "mathematics",
];

/// The same sign again and again, or signs in order: `11111111`, `12345678`, `abcdefgh`, `87654321`.
fn is_one_run(password: &str) -> bool {
    let codes: Vec<i64> = password.chars().map(|c| i64::from(u32::from(c))).collect();
    let steps: Vec<i64> = codes.windows(2).map(|w| w[1] - w[0]).collect();
    // 1234567890 goes on after the nine.
    let step = |s: i64| if s == -9 { 1 } else { s };
    [0, 1, -1]
        .iter()
        .any(|one| steps.iter().all(|s| step(*s) == *one))
}

fn random<const N: usize>() -> Result<[u8; N], SchoolError> {
    let mut bytes = [0u8; N];
    getrandom::fill(&mut bytes).map_err(|e| SchoolError::Inside(e.to_string()))?;
    Ok(bytes)
}

/// A code to join a class by: `XXXX-XXXX`.
///
/// # Errors
/// If the operating system gives no random bytes.
pub fn new_code() -> Result<String, SchoolError> {
    let bytes: [u8; CODE_LENGTH] = random()?;
    let letters: Vec<char> = bytes
        .iter()
        .filter_map(|b| CODE_LETTERS.get(usize::from(*b) % CODE_LETTERS.len()))
        .map(|b| char::from(*b))
        .collect();
    let (first, last) = letters.split_at(CODE_LENGTH / 2);
    Ok(format!(
        "{}-{}",
        first.iter().collect::<String>(),
        last.iter().collect::<String>()
    ))
}

/// A code as people type it: any case, with or without its hyphen.
pub fn read_code(typed: &str) -> String {
    let letters: Vec<char> = typed
        .chars()
        .filter(char::is_ascii_alphanumeric)
        .map(|c| c.to_ascii_uppercase())
        .take(CODE_LENGTH + 1)
        .collect();
    let (first, last) = letters.split_at(letters.len().min(CODE_LENGTH / 2));
    format!(
        "{}-{}",
        first.iter().collect::<String>(),
        last.iter().collect::<String>()
    )
}

/// Makes a link that signs somebody in once; earlier ones of theirs end. Gives its token.
///
/// # Errors
/// What the database said.
pub async fn new_link(school: &School, person: PersonId) -> Result<String, SchoolError> {
    let bytes: [u8; 24] = random()?;
    let token: String = bytes.iter().map(|b| format!("{b:02x}")).collect();
    let now = school.now();
    store::put_link(&school.pool, &token_hash(&token), person, now, now + LINK_LASTS).await?;
    Ok(token)
}

/// Adds the students of a list. Each line goes in by itself.
///
/// # Errors
/// What the database said.
pub async fn add_students(
    school: &School,
    class: &Class,
    lines: Vec<RollLine>,
) -> Result<(Vec<Added>, Vec<RollFault>), SchoolError> {
    let (mut added, mut faults) = (Vec::new(), Vec::new());
    for line in lines {
        let fault = |why: String| RollFault {
            line: line.line,
            text: line.name.clone(),
            why,
        };
        match add_student(school, class, &line).await? {
            Ok(one) => added.push(one),
            Err(why) => faults.push(fault(why)),
        }
    }
    Ok((added, faults))
}

async fn add_student(
    school: &School,
    class: &Class,
    line: &RollLine,
) -> Result<Result<Added, String>, SchoolError> {
    let pool = &school.pool;
    let group = line.group.as_deref();
    let there = match &line.user_name {
        Some(user_name) => store::find_credentials(pool, user_name).await?,
        None => None,
    };
    if let Some((person, _)) = there {
        // Whoever has a name by heart must not come into the possession of somebody else's account.
        if person.role != Role::Student || person.display_name.to_lowercase() != line.name.to_lowercase() {
            let user_name = &person.user_name;
            return Ok(Err(format!(
                "The user name {user_name} belongs to somebody else. Choose another one."
            )));
        }
        store::join_class(pool, class.id, person.id, MemberRole::Student, group).await?;
        return Ok(Ok(Added {
            person: person.id,
            name: person.display_name,
            user_name: person.user_name,
            link: None,
        }));
    }
    let Some((person, user_name)) = create(school, line).await? else {
        return Ok(Err("No free user name was found for this name. Type one.".into()));
    };
    store::join_class(pool, class.id, person, MemberRole::Student, group).await?;
    Ok(Ok(Added {
        person,
        name: line.name.clone(),
        user_name,
        link: Some(new_link(school, person).await?),
    }))
}

/// Makes the account, under the first user name that is free.
async fn create(school: &School, line: &RollLine) -> Result<Option<(PersonId, String)>, SchoolError> {
    let made = user_name_from(&line.name);
    let names = match &line.user_name {
        Some(name) => vec![name.clone()],
        None => std::iter::once(made.clone())
            .chain((2..100).map(|n| format!("{made}{n}")))
            .collect(),
    };
    for name in names {
        let id = store::create_person(&school.pool, &name, &line.name, NO_PASSWORD, Role::Student).await?;
        if let Some(id) = id {
            return Ok(Some((id, name)));
        }
    }
    Ok(None)
}

/// An account without a password, under the first user name that is free.
pub(crate) async fn create_under_free_name(
    school: &School,
    name: &str,
    role: Role,
) -> Result<PersonId, SchoolError> {
    let name: String = name.split_whitespace().collect::<Vec<_>>().join(" ");
    let name: String = name
        .chars()
        .filter(|c| !c.is_control())
        .take(LONGEST_NAME)
        .collect();
    let made = user_name_from(&name);
    for n in 1..10_000 {
        let user_name = if n == 1 {
            made.clone()
        } else {
            format!("{made}{n}")
        };
        if let Some(id) = store::create_person(&school.pool, &user_name, &name, NO_PASSWORD, role).await? {
            return Ok(id);
        }
    }
    Err(SchoolError::Inside(format!("no user name is free for {name}")))
}

/// Makes a teacher, with a link that signs them in the first time. `None` where the user name is taken.
///
/// # Errors
/// What the database said.
pub async fn add_teacher(
    school: &School,
    name: &str,
    user_name: &str,
    password: Option<&str>,
) -> Result<Option<Added>, SchoolError> {
    let hash = match password {
        Some(password) => hash_password(password)?,
        None => NO_PASSWORD.to_owned(),
    };
    let made = store::create_person(&school.pool, user_name, name, &hash, Role::Teacher).await?;
    let Some(person) = made else { return Ok(None) };
    let link = match password {
        Some(_) => None,
        None => Some(new_link(school, person).await?),
    };
    Ok(Some(Added {
        person,
        name: name.to_owned(),
        user_name: user_name.to_owned(),
        link,
    }))
}

/// Uses a link: sets the password it was for, and signs in. `None` where it was used or has run out.
///
/// # Errors
/// What the database said.
pub async fn welcome(
    school: &School,
    token: &str,
    password: String,
    address: String,
) -> Result<Option<String>, SchoolError> {
    let hash = school
        .compute_password(PasswordTurn::Stranger { address }, move || {
            hash_password(&password)
        })
        .await??;
    let Some(person) = store::use_link(&school.pool, &token_hash(token), school.now()).await? else {
        return Ok(None);
    };
    store::set_password(&school.pool, person, &hash).await?;
    Ok(Some(start_session(school, person).await?))
}

/// A new student comes in by a class's code, under a password of their own. `None` where the user name is taken.
///
/// # Errors
/// What the database said.
pub async fn join_as_new(
    school: &School,
    class: &Class,
    name: &str,
    user_name: &str,
    password: String,
    address: String,
) -> Result<Option<String>, SchoolError> {
    let hash = school
        .compute_password(PasswordTurn::Stranger { address }, move || {
            hash_password(&password)
        })
        .await??;
    let made = store::create_person(&school.pool, user_name, name, &hash, Role::Student).await?;
    let Some(person) = made else { return Ok(None) };
    store::join_class(&school.pool, class.id, person, MemberRole::Student, None).await?;
    Ok(Some(start_session(school, person).await?))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_code_is_read_as_people_type_it() {
        let code = new_code().unwrap();
        assert_eq!(code.len(), 9);
        assert_ne!(code, new_code().unwrap());
        for typed in [
            code.clone(),
            code.to_lowercase(),
            code.replace('-', " "),
            format!(" {} ", code.replace('-', "")),
        ] {
            assert_eq!(read_code(&typed), code);
        }
        for odd in ["", "-", "ABCDEFGHIJKLMNOP", "ÄÖ"] {
            assert_ne!(read_code(odd), code);
        }
    }

    #[test]
    fn short_and_telling_passwords_are_refused() {
        assert!(password_fault("slate", "ada").is_some());
        assert!(password_fault("Ada.Quill", "ada.quill").is_some());
        assert!(password_fault(&"x".repeat(201), "ada").is_some());
        assert_eq!(password_fault("slate-and-chalk", "ada"), None);
    }
}
