//! As much of a browser as a launch needs: cookies by site, redirects, and forms that are sent by pressing their button.

use std::collections::BTreeMap;

use reqwest::header;
use reqwest::{Client, Method, RequestBuilder, StatusCode, Url};
use serde_json::Value;

/// What a page or a call came to.
pub struct Page {
    pub status: StatusCode,
    pub url: Url,
    pub text: String,
    pub policy: String,
}

impl Page {
    pub fn json(&self) -> Value {
        serde_json::from_str(&self.text).unwrap_or(Value::Null)
    }

    /// The page's form: where it goes, and its fields.
    pub fn form(&self) -> Option<(String, Vec<(String, String)>)> {
        let action = between(&self.text, "action=\"", "\"")?;
        let fields = self
            .text
            .split("<input")
            .skip(1)
            .filter_map(|input| {
                let name = between(input, "name=", " ")?;
                let value = between(input, "value=\"", "\"")?;
                Some((name.trim_matches('"').to_owned(), plain(&value)))
            })
            .collect();
        Some((plain(&action), fields))
    }
}

fn plain(text: &str) -> String {
    text.replace("&quot;", "\"")
        .replace("&#39;", "'")
        .replace("&lt;", "<")
        .replace("&gt;", ">")
        .replace("&amp;", "&")
}

fn between(text: &str, from: &str, to: &str) -> Option<String> {
    let start = text.find(from)? + from.len();
    let end = start + text[start..].find(to)?;
    Some(text[start..end].to_owned())
}

/// Which requests that another site begins a cookie goes along with (RFC 6265bis, 5.2).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum SameSite {
    Strict,
    /// With a link that is followed.
    Lax,
    None,
}

/// A browser with its cookies.
pub struct Browser {
    http: Client,
    /// By site and name.
    pub cookies: BTreeMap<(String, String), (String, SameSite)>,
}

/// What begins a request.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Foreign {
    No,
    /// A link or a redirect from another site.
    Link,
    /// Its form, its frame.
    Otherwise,
}

fn site(url: &Url) -> String {
    url.host_str().unwrap_or_default().to_owned()
}

impl Browser {
    pub fn new() -> Self {
        let _ = rustls::crypto::ring::default_provider().install_default();
        let http = Client::builder()
            .redirect(reqwest::redirect::Policy::none())
            .build()
            .unwrap();
        Browser {
            http,
            cookies: BTreeMap::new(),
        }
    }

    async fn send(&mut self, request: RequestBuilder, url: &Url, foreign: Foreign) -> (Page, Option<Url>) {
        let goes = |same_site: SameSite| match foreign {
            Foreign::No => true,
            Foreign::Link => same_site != SameSite::Strict,
            Foreign::Otherwise => same_site == SameSite::None,
        };
        let jar: Vec<String> = self
            .cookies
            .iter()
            .filter(|((s, _), (_, same_site))| *s == site(url) && goes(*same_site))
            .map(|((_, name), (value, _))| format!("{name}={value}"))
            .collect();
        let answer = request
            .header(header::COOKIE, jar.join("; "))
            .send()
            .await
            .unwrap();
        for cookie in answer.headers().get_all(header::SET_COOKIE) {
            let cookie = cookie.to_str().unwrap();
            let (pair, attributes) = cookie.split_once(';').unwrap_or((cookie, ""));
            let (name, value) = pair.split_once('=').unwrap();
            let key = (site(url), name.to_owned());
            if attributes.contains("Max-Age=0") {
                self.cookies.remove(&key);
            } else {
                let same_site = match attributes {
                    a if a.contains("SameSite=None") => SameSite::None,
                    a if a.contains("SameSite=Strict") => SameSite::Strict,
                    _ => SameSite::Lax,
                };
                self.cookies.insert(key, (value.to_owned(), same_site));
            }
        }
        let text = |name| {
            answer
                .headers()
                .get(name)
                .and_then(|v| v.to_str().ok())
                .unwrap_or_default()
                .to_owned()
        };
        let to = url
            .join(&text(header::LOCATION))
            .ok()
            .filter(|_| answer.status().is_redirection());
        let page = Page {
            status: answer.status(),
            policy: text(header::CONTENT_SECURITY_POLICY),
            url: url.clone(),
            text: answer.text().await.unwrap(),
        };
        (page, to)
    }

    async fn follow(&mut self, mut page: Page, mut to: Option<Url>, mut foreign: bool) -> Page {
        while let Some(url) = to {
            foreign |= site(&url) != site(&page.url);
            let begun = if foreign { Foreign::Link } else { Foreign::No };
            let request = self.http.get(url.clone()).header("sec-fetch-dest", "document");
            (page, to) = self.send(request, &url, begun).await;
        }
        page
    }

    /// Opens an address, and stops where it is sent on.
    pub async fn step(&mut self, address: &str) -> (Page, Option<Url>) {
        let url = Url::parse(address).unwrap();
        let request = self.http.get(url.clone()).header("sec-fetch-dest", "document");
        self.send(request, &url, Foreign::Link).await
    }

    /// Opens an address, as typed.
    pub async fn open(&mut self, address: &str) -> Page {
        let url = Url::parse(address).unwrap();
        let request = self.http.get(url.clone()).header("sec-fetch-dest", "document");
        let (page, to) = self.send(request, &url, Foreign::No).await;
        self.follow(page, to, false).await
    }

    /// The same within a frame of another site.
    pub async fn open_in_frame(&mut self, address: &str) -> Page {
        let url = Url::parse(address).unwrap();
        let request = self.http.get(url.clone()).header("sec-fetch-dest", "iframe");
        self.send(request, &url, Foreign::Otherwise).await.0
    }

    /// Sends the form of a page.
    pub async fn submit(&mut self, page: &Page) -> Page {
        let (action, fields) = page.form().unwrap_or_else(|| panic!("a form: {}", page.text));
        self.post(page, &action, &fields).await
    }

    pub async fn post(&mut self, from: &Page, action: &str, fields: &[(String, String)]) -> Page {
        let url = from.url.join(action).unwrap();
        let foreign = site(&url) != site(&from.url);
        let request = self
            .http
            .post(url.clone())
            .header("sec-fetch-dest", "document")
            .header(
                "sec-fetch-site",
                if foreign { "cross-site" } else { "same-origin" },
            )
            .form(fields);
        let begun = if foreign { Foreign::Otherwise } else { Foreign::No };
        let (page, to) = self.send(request, &url, begun).await;
        self.follow(page, to, foreign).await
    }

    /// What the front end asks the server.
    pub async fn ask(&mut self, method: &str, address: &str, body: Option<Value>) -> Page {
        let url = Url::parse(address).unwrap();
        let method: Method = method.parse().unwrap();
        let mut request = self
            .http
            .request(method, url.clone())
            .header("sec-fetch-site", "same-origin");
        if let Some(body) = body {
            request = request.json(&body);
        }
        self.send(request, &url, Foreign::No).await.0
    }
}
