//! `green-slate portal …`: what the administrator of a school tells about its portal.

use school::School;
use school::portal::{address_fault, make_key};
use store::PortalChange;

pub(crate) const USAGE: &str = "  portal add NAME --issuer URL --client-id ID --deployment ID… --sign-in URL --token URL --keys URL [--audience TEXT] [--teachers make-classes]
                                     registers a portal (LTI 1.3), or changes one; docs/portal.md says what goes where.
                                     With --teachers make-classes, those it names as teachers may make classes and use the
                                     bank; without, they teach the classes that its courses are here, and no others
  portal course --issuer URL [--deployment ID] --course ID --class TITLE
                                     says beforehand which class a course of the portal is
  portal list                        prints the portals, and what to type into them
  portal end ISSUER                  nobody comes from it any more, and nothing is sent to it
  portal new-key                     signs with a new key from now on; the old one stays published for a week";

pub(crate) async fn run(words: &[&str], school: &School) -> Result<(), String> {
    match words {
        ["add", name, options @ ..] => add(school, name, options).await,
        ["course", options @ ..] => course(school, options).await,
        ["list"] => list(school).await,
        ["end", issuer] => {
            let ended = store::end_portal(&school.pool, issuer, school.now())
                .await
                .map_err(|e| e.to_string())?;
            if !ended {
                return Err(format!("no portal has the issuer {issuer}"));
            }
            println!("Nobody comes from {issuer} any more, and nothing is sent to it.");
            Ok(())
        }
        ["new-key"] => {
            let kid = make_key(school, false).await.map_err(|e| e.to_string())?;
            println!("{kid} signs from now on.");
            Ok(())
        }
        _ => Err(format!("green-slate COMMAND\n{USAGE}")),
    }
}

/// The values of options, each of which is named in `known`; those that may come several times keep all.
fn options<'a>(words: &[&'a str], known: &[&str]) -> Result<Vec<(&'a str, &'a str)>, String> {
    let mut found = Vec::new();
    let mut left = words;
    while let [name, value, rest @ ..] = left {
        if !known.contains(name) {
            return Err(format!("{name} is no option here\n{USAGE}"));
        }
        found.push((*name, *value));
        left = rest;
    }
    match left {
        [] => Ok(found),
        [one, ..] => Err(format!("{one} stands alone\n{USAGE}")),
    }
}

fn one<'a>(found: &[(&str, &'a str)], name: &str) -> Result<&'a str, String> {
    let value = found.iter().find(|(n, _)| *n == name).map(|(_, v)| *v);
    value
        .filter(|v| !v.trim().is_empty())
        .ok_or_else(|| format!("{name} is missing\n{USAGE}"))
}

async fn add(school: &School, name: &str, words: &[&str]) -> Result<(), String> {
    let known = [
        "--issuer",
        "--client-id",
        "--deployment",
        "--sign-in",
        "--token",
        "--keys",
        "--audience",
        "--teachers",
    ];
    let found = options(words, &known)?;
    let deployments: Vec<String> = found
        .iter()
        .filter(|(n, _)| *n == "--deployment")
        .map(|(_, v)| (*v).to_owned())
        .collect();
    if deployments.is_empty() {
        return Err(format!("--deployment is missing\n{USAGE}"));
    }
    let (sign_in, token, keys) = (
        one(&found, "--sign-in")?,
        one(&found, "--token")?,
        one(&found, "--keys")?,
    );
    if let Some(why) = [sign_in, token, keys].into_iter().find_map(address_fault) {
        return Err(why);
    }
    let vouches_for_teachers = match one(&found, "--teachers") {
        Ok("make-classes") => true,
        Ok(other) => return Err(format!("--teachers is make-classes or left out, not {other}")),
        Err(_) => false,
    };
    let change = PortalChange {
        name,
        issuer: one(&found, "--issuer")?,
        client_id: one(&found, "--client-id")?,
        authorization_url: sign_in,
        token_url: token,
        token_audience: one(&found, "--audience").ok(),
        jwks_url: keys,
        deployments: &deployments,
        vouches_for_teachers,
    };
    store::add_portal(&school.pool, &change, school.now())
        .await
        .map_err(|e| e.to_string())?;
    println!("{name} is registered.");
    Ok(())
}

async fn course(school: &School, words: &[&str]) -> Result<(), String> {
    let found = options(words, &["--issuer", "--deployment", "--course", "--class"])?;
    let issuer = one(&found, "--issuer")?;
    let portals = store::portals_known(&school.pool)
        .await
        .map_err(|e| e.to_string())?;
    let mut fits = portals
        .iter()
        .filter(|p| p.issuer == issuer && p.ended_at.is_none());
    let portal = fits
        .next()
        .ok_or_else(|| format!("no portal has the issuer {issuer}"))?;
    let deployment = match (one(&found, "--deployment"), portal.deployments.as_slice()) {
        (Ok(given), _) => given,
        (Err(_), [only]) => only,
        (Err(why), _) => return Err(why),
    };
    let title = one(&found, "--class")?;
    let classes = store::classes_called(&school.pool, title)
        .await
        .map_err(|e| e.to_string())?;
    let [class] = classes.as_slice() else {
        return Err(format!("{} classes are called {title}", classes.len()));
    };
    let context = one(&found, "--course")?;
    store::put_course(&school.pool, portal.id, deployment, context, title, *class)
        .await
        .map_err(|e| e.to_string())?;
    println!("The course {context} of {} is the class {title}.", portal.name);
    Ok(())
}

async fn list(school: &School) -> Result<(), String> {
    let portals = store::portals_known(&school.pool)
        .await
        .map_err(|e| e.to_string())?;
    for p in &portals {
        let ended = if p.ended_at.is_some() { " (ended)" } else { "" };
        println!(
            "{}{ended}\n  issuer       {}\n  client       {}\n  deployments  {}",
            p.name,
            p.issuer,
            p.client_id,
            p.deployments.join(", ")
        );
        println!(
            "  sign-in      {}\n  token        {}\n  keys         {}",
            p.authorization_url, p.token_url, p.jwks_url
        );
    }
    println!(
        "{} portals. Into a portal is typed, below the address of this installation:\n  initiate login /lti/login · redirect \
         /lti/launch · keys /lti/jwks · deep linking /lti/launch",
        portals.len()
    );
    Ok(())
}
