//! Terms that were gone through as cards.

use std::collections::BTreeMap;

use coursework::Card;
use sqlx::PgExecutor;

use crate::Result;
use crate::people::PersonId;

/// The cards that somebody has seen, by page and term.
///
/// # Errors
/// What the database said.
pub async fn cards_of(db: impl PgExecutor<'_>, person: PersonId) -> Result<BTreeMap<(String, String), Card>> {
    let rows = sqlx::query!(
        "select skill, term, missed, in_row, at from term_cards where person_id = $1",
        person.0
    )
    .fetch_all(db)
    .await?;
    let card = |missed, in_row: i32, at| Card {
        missed,
        in_row: u32::try_from(in_row).unwrap_or(0),
        at,
    };
    Ok(rows
        .into_iter()
        .map(|r| ((r.skill, r.term), card(r.missed, r.in_row, r.at)))
        .collect())
}

/// # Errors
/// What the database said.
pub async fn put_card(
    db: impl PgExecutor<'_>,
    person: PersonId,
    skill: &str,
    term: &str,
    card: &Card,
) -> Result<()> {
    sqlx::query!(
        "insert into term_cards (person_id, skill, term, missed, in_row, at) values ($1, $2, $3, $4, $5, $6)
         on conflict (person_id, skill, term) do update set missed = $4, in_row = $5, at = $6",
        person.0,
        skill,
        term,
        card.missed,
        i32::try_from(card.in_row).unwrap_or(i32::MAX),
        card.at
    )
    .execute(db)
    .await?;
    Ok(())
}
