//! Terms as cards: known or not yet. What was not known comes back as slips do, after 2, 7 and 21 days; nothing is scored.

use time::{Duration, OffsetDateTime};

use crate::slips::COMES_BACK;

/// A card as it was left.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Card {
    /// It was not known at least once.
    pub missed: bool,
    /// How often in a row it was known since then.
    pub in_row: u32,
    pub at: OffsetDateTime,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum CardStanding {
    NotYet,
    /// It was missed once, and is to be known again.
    Back,
    New,
    Known {
        /// When it comes back, if it does.
        comes_back: Option<OffsetDateTime>,
    },
}

impl Card {
    /// The card after one more answer.
    ///
    /// ```
    /// use coursework::{Card, CardStanding};
    /// use time::{Duration, OffsetDateTime};
    /// let now = OffsetDateTime::UNIX_EPOCH;
    /// let missed = Card::after(None, false, now);
    /// assert_eq!(missed.standing(now), CardStanding::NotYet);
    /// let known = Card::after(Some(missed), true, now);
    /// assert_eq!(known.standing(now + Duration::days(2)), CardStanding::Back);
    /// ```
    pub fn after(before: Option<Card>, known: bool, now: OffsetDateTime) -> Card {
        let missed = before.is_some_and(|c| c.missed);
        let in_row = before.map_or(0, |c| c.in_row);
        // Known again before it comes back says nothing new.
        let too_soon = before.is_some_and(
            |c| matches!(c.standing(now), CardStanding::Known { comes_back: Some(at) } if at > now),
        );
        match known {
            false => Card {
                missed: true,
                in_row: 0,
                at: now,
            },
            true if too_soon => before.unwrap_or(Card {
                missed,
                in_row,
                at: now,
            }),
            true => Card {
                missed,
                in_row: in_row.saturating_add(1),
                at: now,
            },
        }
    }

    pub fn standing(&self, now: OffsetDateTime) -> CardStanding {
        if self.in_row == 0 {
            return CardStanding::NotYet;
        }
        let place = usize::try_from(self.in_row - 1).unwrap_or(usize::MAX);
        let days = COMES_BACK.get(place).filter(|_| self.missed);
        let comes_back = days.map(|d| self.at + Duration::days(*d));
        match comes_back {
            Some(at) if at <= now => CardStanding::Back,
            comes_back => CardStanding::Known { comes_back },
        }
    }
}

/// Where a card stands that may not have been seen yet.
pub fn card_standing(card: Option<Card>, now: OffsetDateTime) -> CardStanding {
    card.map_or(CardStanding::New, |c| c.standing(now))
}
