//! What the portal holds.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::{Mutex, MutexGuard, PoisonError};

use serde::Deserialize;
use serde_json::Value;
use time::OffsetDateTime;

use crate::keys::SigningKey;

/// A made-up school, as its file says it.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct World {
    pub name: String,
    pub course: Course,
    pub people: Vec<Person>,
    #[serde(default)]
    pub links: Vec<Link>,
}

#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Course {
    pub id: String,
    pub title: String,
}

#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Person {
    pub id: String,
    pub name: String,
    #[serde(default)]
    pub teacher: bool,
    /// Was in the course once.
    #[serde(default)]
    pub left: bool,
}

/// A link to something in a tool.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Link {
    pub id: String,
    pub title: String,
    /// Below the tool's address where it is not named in full.
    #[serde(default)]
    pub url: String,
    #[serde(default)]
    pub custom: BTreeMap<String, String>,
    #[serde(skip)]
    pub line_item: Option<usize>,
    /// What a line item for it is worth; without, it has none.
    #[serde(default)]
    pub points: Option<f64>,
}

/// A column of the grade book.
#[derive(Clone, Debug)]
pub struct LineItem {
    pub label: String,
    pub maximum: f64,
    pub resource_id: Option<String>,
    pub resource_link_id: Option<String>,
    pub due: Option<String>,
    pub results: BTreeMap<String, Received>,
}

/// A score as it was sent last.
#[derive(Clone, Debug, PartialEq)]
pub struct Received {
    pub given: Option<f64>,
    pub maximum: Option<f64>,
    pub activity: String,
    pub grading: String,
    pub timestamp: OffsetDateTime,
}

pub(crate) struct Held {
    pub world: World,
    pub line_items: Vec<LineItem>,
    pub keys: Vec<SigningKey>,
    /// Access tokens with their scopes.
    pub tokens: BTreeMap<String, BTreeSet<String>>,
    pub used: BTreeSet<String>,
    /// Services answer that they are away.
    pub away: bool,
    /// Services take their time.
    pub slow: bool,
    pub log: Vec<String>,
    /// Scores that were taken, in the order in which they came.
    pub taken: Vec<(usize, String, Received)>,
}

/// The portal: registered with it is one tool.
pub struct Portal {
    held: Mutex<Held>,
    /// Its own address, which is its issuer.
    pub base: String,
    /// The tool's address.
    pub tool: String,
    pub client_id: String,
    pub deployment: String,
}

impl Portal {
    pub fn new(world: World, base: &str, tool: &str) -> Self {
        Self::with_key(world, base, tool, SigningKey::new("portal-1"))
    }

    /// With a key that is there already.
    pub fn with_key(world: World, base: &str, tool: &str, key: SigningKey) -> Self {
        // Whoever is first installs it for the whole process; reqwest wants one, with or without TLS.
        let _ = rustls::crypto::ring::default_provider().install_default();
        let mut world = world;
        let mut line_items = Vec::new();
        for link in &mut world.links {
            if let Some(maximum) = link.points {
                link.line_item = Some(line_items.len());
                line_items.push(LineItem {
                    label: link.title.clone(),
                    maximum,
                    resource_id: link.custom.get("assignment").cloned(),
                    resource_link_id: Some(link.id.clone()),
                    due: None,
                    results: BTreeMap::new(),
                });
            }
        }
        Self {
            held: Mutex::new(Held {
                world,
                line_items,
                keys: vec![key],
                tokens: BTreeMap::new(),
                used: BTreeSet::new(),
                away: false,
                slow: false,
                log: Vec::new(),
                taken: Vec::new(),
            }),
            base: base.trim_end_matches('/').to_owned(),
            tool: tool.trim_end_matches('/').to_owned(),
            client_id: "green-slate-7".into(),
            deployment: "1".into(),
        }
    }

    pub(crate) fn held(&self) -> MutexGuard<'_, Held> {
        self.held.lock().unwrap_or_else(PoisonError::into_inner)
    }

    pub fn issuer(&self) -> &str {
        &self.base
    }

    pub fn set_away(&self, away: bool) {
        self.held().away = away;
    }

    pub fn set_slow(&self, slow: bool) {
        self.held().slow = slow;
    }

    /// A new key signs; the old one is published no more.
    pub fn rotate(&self) {
        let key = SigningKey::new(&format!(
            "portal-{}",
            OffsetDateTime::now_utc().unix_timestamp_nanos()
        ));
        let mut held = self.held();
        held.keys = vec![key];
        held.log.push("the signing key was changed".into());
    }

    /// Signs anything at all with the key of today.
    pub fn sign(&self, claims: &Value) -> Option<String> {
        self.held().keys.last().map(|k| k.sign(claims))
    }

    /// What the grade book has: the label of a line item, somebody's id, their score.
    pub fn grades(&self) -> Vec<(String, String, Received)> {
        let held = self.held();
        let rows = held.line_items.iter().flat_map(|l| {
            l.results
                .iter()
                .map(|(who, r)| (l.label.clone(), who.clone(), r.clone()))
        });
        rows.collect()
    }

    /// Every score that was taken, in the order in which they came.
    pub fn taken(&self) -> Vec<(String, String, Received)> {
        let held = self.held();
        let named = |(line, who, r): &(usize, String, Received)| {
            let label = held.line_items.get(*line).map(|l| l.label.clone());
            (label.unwrap_or_default(), who.clone(), r.clone())
        };
        held.taken.iter().map(named).collect()
    }

    pub fn log(&self) -> Vec<String> {
        self.held().log.clone()
    }

    pub fn links(&self) -> Vec<Link> {
        self.held().world.links.clone()
    }

    /// Somebody comes to the course.
    pub fn add_person(&self, person: Person) {
        self.held().world.people.push(person);
    }

    /// Somebody leaves the course.
    pub fn leave(&self, id: &str) {
        for person in self.held().world.people.iter_mut().filter(|p| p.id == id) {
            person.left = true;
        }
    }

    pub fn add_link(&self, link: Link) {
        self.held().world.links.push(link);
    }

    pub(crate) fn note(&self, line: String) {
        let now = OffsetDateTime::now_utc();
        let (h, m, s) = now.time().as_hms();
        let mut held = self.held();
        held.log.push(format!("{h:02}:{m:02}:{s:02} {line}"));
        let extra = held.log.len().saturating_sub(500);
        held.log.drain(..extra);
    }
}
