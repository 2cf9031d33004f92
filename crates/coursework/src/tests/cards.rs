//! Terms as cards.

use super::*;

fn after(answers: &[(i64, bool)]) -> Option<Card> {
    let mut card = None;
    for (day, known) in answers {
        card = Some(Card::after(card, *known, noon() + Duration::days(*day)));
    }
    card
}

fn on(answers: &[(i64, bool)], day: i64) -> CardStanding {
    card_standing(after(answers), noon() + Duration::days(day))
}

#[test]
fn what_was_missed_comes_back_after_2_7_and_21_days_and_then_no_more() {
    assert_eq!(on(&[], 0), CardStanding::New);
    assert_eq!(on(&[(0, false)], 30), CardStanding::NotYet);
    let back = |day| CardStanding::Known {
        comes_back: Some(noon() + Duration::days(day)),
    };
    assert_eq!(on(&[(0, false), (0, true)], 1), back(2));
    assert_eq!(on(&[(0, false), (0, true)], 2), CardStanding::Back);
    assert_eq!(on(&[(0, false), (0, true), (3, true)], 9), back(10));
    assert_eq!(on(&[(0, false), (0, true), (3, true), (12, true)], 32), back(33));
    let done = [(0, false), (0, true), (3, true), (12, true), (40, true)];
    assert_eq!(on(&done, 400), CardStanding::Known { comes_back: None });
    // Missed again, it begins anew.
    assert_eq!(on(&[(0, false), (0, true), (3, false), (3, true)], 4), back(5));
}

#[test]
fn what_was_known_at_once_does_not_come_back_and_a_second_look_too_soon_counts_for_nothing() {
    assert_eq!(on(&[(0, true)], 100), CardStanding::Known { comes_back: None });
    let once = after(&[(0, false), (0, true)]);
    assert_eq!(after(&[(0, false), (0, true), (1, true), (1, true)]), once);
}
