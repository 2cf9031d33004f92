//! Asking a portal's services: within bounds of time and size, with access tokens that are kept while they hold.

use std::collections::BTreeMap;
use std::sync::{Mutex, OnceLock, PoisonError};
use std::time::{Duration, Instant};

use lti::{JwkSet, Refusal, client_assertion};
use reqwest::header;
use reqwest::{Method, RequestBuilder, StatusCode};
use serde_json::Value;
use store::Portal;
use uuid::Uuid;

use super::keys::signing_key;
use crate::School;
use crate::error::SchoolError;
use crate::own::fresh_token;

/// For a whole answer.
const PATIENCE: Duration = Duration::from_secs(20);
/// Bytes of an answer.
const LARGEST: usize = 2 * 1024 * 1024;
/// A portal's keys are asked for again after as long.
const KEYS_LAST: Duration = Duration::from_secs(3600);
/// And not sooner after as short, whoever sends unknown keys.
const KEYS_REST: Duration = Duration::from_secs(5);
/// An access token is not used for its last moments.
const MARGIN: Duration = Duration::from_secs(30);

/// What a portal answered, or that it did not.
#[derive(Debug, thiserror::Error)]
pub enum Platform {
    /// It can't be reached, or says that it can't answer now.
    #[error("{0}")]
    Away(String),
    /// It answered that it won't.
    #[error("{status}: {words}")]
    Refused { status: u16, words: String },
    #[error(transparent)]
    School(#[from] SchoolError),
}

impl From<store::StoreError> for Platform {
    fn from(error: store::StoreError) -> Self {
        Platform::School(error.into())
    }
}

/// An answer that was read.
pub(crate) struct Answer {
    pub body: Value,
    pub link: Option<String>,
    pub status: u16,
}

#[derive(Default)]
struct Kept {
    /// What a portal answered when it was asked for its keys; nothing where it did not.
    keys: BTreeMap<Uuid, (Option<JwkSet>, Instant)>,
    tokens: BTreeMap<(Uuid, String), (String, Instant)>,
}

/// Whether an address is at one of the servers that the administrator registered for a portal. Others are sent no token.
fn is_of(portal: &Portal, address: &str) -> bool {
    let origin = |a: &str| url::Url::parse(a).ok().map(|u| u.origin());
    let asked = origin(address);
    asked.as_ref().is_some_and(url::Origin::is_tuple)
        && [
            &portal.issuer,
            &portal.token_url,
            &portal.jwks_url,
            &portal.authorization_url,
        ]
        .into_iter()
        .any(|own| origin(own) == asked)
}

/// Asks portals.
#[derive(Default)]
pub struct Client {
    http: OnceLock<reqwest::Client>,
    kept: Mutex<Kept>,
    /// One asks a portal for its keys; the others wait for what comes of it.
    asking: tokio::sync::Mutex<()>,
}

impl Client {
    fn http(&self) -> Result<&reqwest::Client, Platform> {
        if let Some(http) = self.http.get() {
            return Ok(http);
        }
        // Whoever was first has installed it.
        let _ = rustls::crypto::ring::default_provider().install_default();
        let made = reqwest::Client::builder()
            .timeout(PATIENCE)
            .connect_timeout(Duration::from_secs(5))
            .redirect(reqwest::redirect::Policy::none())
            .user_agent("green-slate")
            .build()
            .map_err(|e| SchoolError::Inside(e.to_string()))?;
        Ok(self.http.get_or_init(|| made))
    }

    fn kept(&self) -> std::sync::MutexGuard<'_, Kept> {
        self.kept.lock().unwrap_or_else(PoisonError::into_inner)
    }

    async fn ask(&self, request: RequestBuilder) -> Result<Answer, Platform> {
        let away = |e: reqwest::Error| {
            let words = if e.is_timeout() {
                "it did not answer in time"
            } else if e.is_connect() {
                "it could not be reached"
            } else {
                "the connection broke"
            };
            Platform::Away(words.into())
        };
        let mut answer = request.send().await.map_err(away)?;
        let status = answer.status();
        let link = answer
            .headers()
            .get(header::LINK)
            .and_then(|v| v.to_str().ok())
            .map(str::to_owned);
        let mut bytes = Vec::new();
        while let Some(chunk) = answer.chunk().await.map_err(away)? {
            bytes.extend_from_slice(&chunk);
            if bytes.len() > LARGEST {
                return Err(Platform::Refused {
                    status: status.as_u16(),
                    words: "its answer is too long".into(),
                });
            }
        }
        if status.is_server_error() || status == StatusCode::TOO_MANY_REQUESTS {
            return Err(Platform::Away(format!("it answered {}", status.as_u16())));
        }
        if !status.is_success() {
            // What it says beside that may be anything, also of a server that was not meant to be asked.
            return Err(Platform::Refused {
                status: status.as_u16(),
                words: status.canonical_reason().unwrap_or("refused").to_owned(),
            });
        }
        Ok(Answer {
            body: serde_json::from_slice(&bytes).unwrap_or(Value::Null),
            link,
            status: status.as_u16(),
        })
    }

    /// The portal's keys: as they are kept, or asked for anew where a key was not among them.
    pub(crate) async fn keys(&self, portal: &Portal, anew: bool) -> Result<JwkSet, Platform> {
        let least = if anew { KEYS_REST } else { KEYS_LAST };
        if let Some(known) = self.known_keys(portal, least) {
            return known;
        }
        let _one = self.asking.lock().await;
        if let Some(known) = self.known_keys(portal, least) {
            return known;
        }
        let asked = self.ask_for_keys(portal).await;
        let kept = asked.as_ref().ok().cloned();
        self.kept().keys.insert(portal.id, (kept, Instant::now()));
        asked
    }

    /// Keys that are not too old, or that there were none a moment ago.
    fn known_keys(&self, portal: &Portal, least: Duration) -> Option<Result<JwkSet, Platform>> {
        let kept = self.kept();
        let (keys, at) = kept.keys.get(&portal.id)?;
        match keys {
            Some(keys) => (at.elapsed() < least).then(|| Ok(keys.clone())),
            None => (at.elapsed() < KEYS_REST)
                .then(|| Err(Platform::Away("it did not answer a moment ago".into()))),
        }
    }

    async fn ask_for_keys(&self, portal: &Portal) -> Result<JwkSet, Platform> {
        let answer = self.ask(self.http()?.get(&portal.jwks_url)).await?;
        serde_json::from_value(answer.body).map_err(|_| Platform::Refused {
            status: answer.status,
            words: "its keys can't be read".into(),
        })
    }

    /// The claims of a token that the portal signed.
    pub(crate) async fn open(
        &self,
        portal: &Portal,
        token: &str,
    ) -> Result<Result<Value, Refusal>, Platform> {
        let keys = self.keys(portal, false).await?;
        match lti::open(token, &keys) {
            // A portal may have changed its key under the same name.
            Err(Refusal::UnknownKey | Refusal::Signature) => {
                Ok(lti::open(token, &self.keys(portal, true).await?))
            }
            opened => Ok(opened),
        }
    }

    async fn access_token(&self, school: &School, portal: &Portal, scopes: &str) -> Result<String, Platform> {
        let key = (portal.id, scopes.to_owned());
        if let Some((token, until)) = self.kept().tokens.get(&key)
            && *until > Instant::now()
        {
            return Ok(token.clone());
        }
        let audience = portal.token_audience.as_ref().unwrap_or(&portal.token_url);
        // The portal's clock is the world's, whatever ours is moved to.
        let now = time::OffsetDateTime::now_utc();
        let claims = client_assertion(&portal.client_id, audience, &fresh_token()?, now);
        let assertion = signing_key(school)
            .await?
            .sign(&claims)
            .map_err(|e| SchoolError::Inside(e.to_string()))?;
        let form = [
            ("grant_type", "client_credentials"),
            (
                "client_assertion_type",
                "urn:ietf:params:oauth:client-assertion-type:jwt-bearer",
            ),
            ("client_assertion", assertion.as_str()),
            ("scope", scopes),
        ];
        let answer = self.ask(self.http()?.post(&portal.token_url).form(&form)).await?;
        let token = answer.body["access_token"].as_str().ok_or(Platform::Refused {
            status: answer.status,
            words: "it gave no access token".into(),
        })?;
        let lasts = answer.body["expires_in"].as_u64().unwrap_or(60).min(24 * 3600);
        let until = Instant::now() + Duration::from_secs(lasts).saturating_sub(MARGIN);
        self.kept().tokens.insert(key, (token.to_owned(), until));
        Ok(token.to_owned())
    }

    fn forget_token(&self, portal: &Portal, scopes: &str) {
        self.kept().tokens.remove(&(portal.id, scopes.to_owned()));
    }

    /// Asks a service with an access token of these scopes; a token that is not taken is replaced, once.
    pub(crate) async fn service(
        &self,
        school: &School,
        portal: &Portal,
        scopes: &str,
        (method, address, media): (Method, &str, &str),
        body: Option<&Value>,
    ) -> Result<Answer, Platform> {
        if !is_of(portal, address) {
            return Err(Platform::Refused {
                status: 0,
                words: "it names a service at another server than its own, which is not asked".into(),
            });
        }
        let mut again = true;
        loop {
            let token = self.access_token(school, portal, scopes).await?;
            let mut request = self.http()?.request(method.clone(), address).bearer_auth(token);
            request = match body {
                Some(body) => request.header(header::CONTENT_TYPE, media).body(body.to_string()),
                None => request.header(header::ACCEPT, media),
            };
            match self.ask(request).await {
                Err(Platform::Refused { status: 401, .. }) if again => {
                    self.forget_token(portal, scopes);
                    again = false;
                }
                answer => return answer,
            }
        }
    }
}
