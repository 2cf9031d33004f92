//! Units: a class's material in the teacher's order, and what comes first in it.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A part of a course: what it is about, and its material in order.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Unit {
    pub id: Uuid,
    pub title: String,
    /// One line on what it is about.
    #[serde(default)]
    pub about: String,
    #[serde(default)]
    pub order: UnitOrder,
    pub items: Vec<UnitItem>,
}

#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct UnitItem {
    pub id: Uuid,
    #[serde(flatten)]
    pub material: Material,
}

impl UnitItem {
    /// Whether it is this assignment.
    pub fn is_assignment(&self, id: Uuid) -> bool {
        self.material == Material::Assignment { assignment: id }
    }
}

/// What stands in a unit.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Material {
    /// The reading page of a skill.
    Page {
        skill: String,
    },
    /// A recording that a question ships with: its slug, and the sound's name in it.
    Recording {
        question: String,
        sound: String,
    },
    /// Practice of a skill, as far as one likes.
    Practice {
        skill: String,
    },
    Assignment {
        assignment: Uuid,
    },
}

/// Whether the order of a unit matters.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum UnitOrder {
    /// It is only the order in which things stand.
    #[default]
    Free,
    /// What comes next is pointed out, and nothing is held back.
    Advised,
    /// What comes later opens once what stands before it is done.
    Asked,
}

/// How far a student is with something in a unit.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum HowFar {
    /// It is not there for this student: not given out yet, or for others.
    Absent,
    Open,
    Begun,
    Done,
}

/// For every item of a unit the one that has to be done before it, where there is one: the first before it that is not
/// done. What a student has begun stays open, and what is not there for them holds nothing back.
pub fn held_back(order: UnitOrder, standings: &[HowFar]) -> Vec<Option<usize>> {
    let first = match order {
        UnitOrder::Asked => next_item(standings),
        UnitOrder::Free | UnitOrder::Advised => None,
    };
    let one = |(place, standing): (usize, &HowFar)| {
        first.filter(|first| *first < place && *standing == HowFar::Open)
    };
    standings.iter().enumerate().map(one).collect()
}

/// What comes next: the first that is there and not done.
pub fn next_item(standings: &[HowFar]) -> Option<usize> {
    standings
        .iter()
        .position(|s| matches!(s, HowFar::Open | HowFar::Begun))
}

/// Why units can't be saved. The words are for the teacher.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum UnitFault {
    #[error("A class has at most {MOST_UNITS} units.")]
    TooManyUnits,
    #[error("Unit {0} needs a title, of {LONGEST_TITLE} characters at most.")]
    Title(usize),
    #[error("What unit {0} is about is too long: {LONGEST_ABOUT} characters at most.")]
    About(usize),
    #[error("Unit {0} has too much in it: {MOST_ITEMS} at most.")]
    TooManyItems(usize),
    #[error("Something stands twice in these units.")]
    Twice,
}

const MOST_UNITS: usize = 60;
const MOST_ITEMS: usize = 60;
const LONGEST_TITLE: usize = 80;
const LONGEST_ABOUT: usize = 300;

/// # Errors
/// The first fault; units are counted from 1 in it.
pub fn check_units(units: &[Unit]) -> Result<(), UnitFault> {
    if units.len() > MOST_UNITS {
        return Err(UnitFault::TooManyUnits);
    }
    let mut ids = BTreeSet::new();
    let mut assignments = BTreeSet::new();
    for (unit, number) in units.iter().zip(1..) {
        let title = unit.title.trim();
        if title.is_empty() || title.chars().count() > LONGEST_TITLE || title.contains(char::is_control) {
            return Err(UnitFault::Title(number));
        }
        if unit.about.chars().count() > LONGEST_ABOUT || unit.about.contains('\0') {
            return Err(UnitFault::About(number));
        }
        if unit.items.len() > MOST_ITEMS {
            return Err(UnitFault::TooManyItems(number));
        }
        let mut fresh = ids.insert(unit.id);
        for (place, item) in unit.items.iter().enumerate() {
            fresh &= ids.insert(item.id);
            fresh &= !unit.items.iter().take(place).any(|i| i.material == item.material);
            if let Material::Assignment { assignment } = item.material {
                fresh &= assignments.insert(assignment);
            }
        }
        if !fresh {
            return Err(UnitFault::Twice);
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn standing() -> impl Strategy<Value = HowFar> {
        prop_oneof![
            Just(HowFar::Absent),
            Just(HowFar::Open),
            Just(HowFar::Begun),
            Just(HowFar::Done)
        ]
    }

    proptest! {
        #[test]
        fn only_what_is_asked_for_is_held_back_and_something_can_always_be_done(
            standings in proptest::collection::vec(standing(), 0..12),
            at in 0usize..12,
        ) {
            for order in [UnitOrder::Free, UnitOrder::Advised] {
                prop_assert!(held_back(order, &standings).iter().all(Option::is_none));
            }
            let held = held_back(UnitOrder::Asked, &standings);
            for (place, first) in held.iter().enumerate() {
                let Some(first) = first else { continue };
                prop_assert!(*first < place, "what holds back stands before");
                prop_assert!(held[*first].is_none(), "and is open itself");
                prop_assert!(standings[*first] != HowFar::Done && standings[*first] != HowFar::Absent);
                prop_assert_eq!(standings[place], HowFar::Open, "what was begun stays open");
            }
            // Doing one thing more never closes another.
            if at < standings.len() {
                let mut more = standings.clone();
                more[at] = HowFar::Done;
                for (now, before) in held_back(UnitOrder::Asked, &more).iter().zip(&held) {
                    prop_assert!(now.is_none() || before.is_some());
                }
            }
        }
    }

    fn unit(items: Vec<Material>) -> Unit {
        let item = |material| UnitItem {
            id: Uuid::now_v7(),
            material,
        };
        Unit {
            id: Uuid::now_v7(),
            title: "Ratios".into(),
            about: String::new(),
            order: UnitOrder::Asked,
            items: items.into_iter().map(item).collect(),
        }
    }

    fn page(skill: &str) -> Material {
        Material::Page { skill: skill.into() }
    }

    #[test]
    fn what_does_not_fit_is_named_by_its_unit() {
        let good = unit(vec![page("levers"), page("moments")]);
        assert_eq!(check_units(&[good.clone(), unit(vec![page("levers")])]), Ok(()));
        assert_eq!(check_units(&vec![good.clone(); 61]), Err(UnitFault::TooManyUnits));
        let untitled = Unit {
            title: " ".into(),
            ..unit(vec![])
        };
        assert_eq!(check_units(&[good.clone(), untitled]), Err(UnitFault::Title(2)));
        let wordy = Unit {
            about: "x".repeat(301),
            ..unit(vec![])
        };
        assert_eq!(check_units(&[wordy]), Err(UnitFault::About(1)));
        let full = unit((0..61).map(|n| page(&n.to_string())).collect());
        assert_eq!(check_units(&[full]), Err(UnitFault::TooManyItems(1)));
        assert_eq!(
            check_units(&[unit(vec![page("a"), page("a")])]),
            Err(UnitFault::Twice)
        );
        let one = Material::Assignment {
            assignment: Uuid::nil(),
        };
        let twice = [unit(vec![one.clone()]), unit(vec![one])];
        assert_eq!(
            check_units(&twice),
            Err(UnitFault::Twice),
            "an assignment stands in one unit"
        );
        assert_eq!(check_units(&[good.clone(), good]), Err(UnitFault::Twice));
    }

    #[test]
    fn they_are_kept_as_plain_json() {
        let unit = unit(vec![page("levers")]);
        let json = serde_json::to_value(&unit).unwrap();
        assert_eq!(json["items"][0]["kind"], "page");
        assert_eq!(json["order"], "asked");
        assert_eq!(serde_json::from_value::<Unit>(json).unwrap(), unit);
    }
}
