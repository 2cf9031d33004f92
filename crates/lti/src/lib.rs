//! What a tool has to know of Learning Tools Interoperability 1.3 (1EdTech): reading and judging a platform's messages, and
//! writing its own. Pure: no clock, no network, no database; instants come in from outside.
//!
//! Sources: LTI Core 1.3, Security Framework 1.0, Assignment and Grade Services 2.0, Names and Role Provisioning Services 2.0,
//! Deep Linking 2.0. Names are the specifications' own.

mod deep_link;
mod jwt;
mod launch;
mod refusal;
mod roster;
mod score;
mod service;

pub use deep_link::{ContentItem, DeepLinkingSettings, LineItem, deep_linking_response};
pub use jwt::{Jwk, JwkSet, KeyError, ToolKey, open};
pub use launch::{Context, Expected, Grades, Launch, Message, ResourceLink, Role, judge};
pub use refusal::Refusal;
pub use roster::{Member, MemberStatus, RosterError, next_page, read_page};
pub use score::{
    ActivityProgress, GradingProgress, PlacedLineItem, PlatformResult, Score, results_url, scores_url,
};
pub use service::{
    MEDIA_LINE_ITEM, MEDIA_LINE_ITEMS, MEDIA_MEMBERSHIPS, MEDIA_RESULTS, MEDIA_SCORE, SCOPE_LINE_ITEM,
    SCOPE_MEMBERSHIPS, SCOPE_RESULT, SCOPE_SCORE, client_assertion,
};
