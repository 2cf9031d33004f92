//! Wrong entries of many students, grouped by what they are equal to: the marker decides, so that `1/2` and `0.5` are one
//! group, and where everybody has numbers of their own, entries that went wrong in the same way.

use serde::{Deserialize, Serialize};

use crate::bank::{Item, ItemPart};
use crate::response::Response;
use crate::verdict::Slip;

/// What the entries of a group have in common.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "like", rename_all = "snake_case")]
pub enum Likeness {
    /// The nth reply of the part's author was meant for them.
    Reply { nth: usize },
    /// The right answer times something, in words: "twice", "with the other sign".
    Times { words: String },
    /// The same slip.
    Slip { slip: Slip },
    /// They come to the same.
    Entry { response: Response },
}

/// A wrong entry in a part, beside the set it was given on.
#[derive(Clone, Copy)]
pub struct WrongEntry<'a> {
    pub item: &'a Item,
    pub part: &'a str,
    pub response: &'a Response,
    /// Which of the part's replies it was given.
    pub reply: Option<usize>,
    pub slip: Option<Slip>,
}

impl<'a> WrongEntry<'a> {
    fn part(&self) -> Option<&'a ItemPart> {
        self.item.find_part(self.part)
    }
}

/// Some entries, by their places in what was given.
#[derive(Clone, Debug, PartialEq)]
pub struct WrongGroup {
    pub like: Likeness,
    pub entries: Vec<usize>,
}

/// How a number may stand to the right one, in words that come after "It is".
const MULTIPLES: &[(f64, &str)] = &[
    (-1.0, "the right answer with the other sign"),
    (2.0, "twice the right answer"),
    (0.5, "half the right answer"),
    (4.0, "four times the right answer"),
    (0.25, "a quarter of the right answer"),
    (10.0, "ten times the right answer"),
    (0.1, "a tenth of the right answer"),
    (100.0, "a hundred times the right answer"),
    (0.01, "a hundredth of the right answer"),
    (1_000.0, "a thousand times the right answer"),
    (0.001, "a thousandth of the right answer"),
    (60.0, "sixty times the right answer"),
    (1.0 / 60.0, "a sixtieth of the right answer"),
    (3.6, "3.6 times the right answer"),
    (1.0 / 3.6, "the right answer divided by 3.6"),
    (std::f64::consts::PI, "π times the right answer"),
    (std::f64::consts::FRAC_1_PI, "the right answer divided by π"),
];

/// Relative, since students round.
const CLOSE: f64 = 2e-3;

fn multiple(part: &ItemPart, response: &Response) -> Option<&'static str> {
    let given = maths::approximate(&part.posed.value(response)?).ok()?;
    let right = maths::approximate(&part.posed.value(&part.posed.key())?).ok()?;
    if right == 0.0 {
        return None;
    }
    let ratio = given / right;
    let near = |(times, _): &&(f64, &str)| ((ratio - times) / times).abs() < CLOSE;
    MULTIPLES.iter().find(near).map(|(_, words)| *words)
}

/// What an entry is known to have in common with others, whatever their numbers.
fn known(entry: &WrongEntry<'_>) -> Option<Likeness> {
    if let Some(nth) = entry.reply {
        return Some(Likeness::Reply { nth });
    }
    if let Some(words) = entry.part().and_then(|p| multiple(p, entry.response)) {
        let words = words.to_owned();
        return Some(Likeness::Times { words });
    }
    entry.slip.map(|slip| Likeness::Slip { slip })
}

/// Groups wrong entries of one part, the largest first. Each is in one group.
pub fn group_wrong(entries: &[WrongEntry<'_>]) -> Vec<WrongGroup> {
    let mut groups: Vec<WrongGroup> = Vec::new();
    for (place, entry) in entries.iter().enumerate() {
        let like = known(entry);
        let fits = |group: &&mut WrongGroup| match (&like, &group.like) {
            (Some(like), of) => like == of,
            (None, Likeness::Entry { response }) => {
                let part = entry.part();
                part.is_some_and(|p| p.posed.is_same_answer(response, entry.response))
            }
            (None, _) => false,
        };
        match groups.iter_mut().find(fits) {
            Some(group) => group.entries.push(place),
            None => groups.push(WrongGroup {
                like: like.unwrap_or_else(|| Likeness::Entry {
                    response: entry.response.clone(),
                }),
                entries: vec![place],
            }),
        }
    }
    groups.sort_by_key(|g| std::cmp::Reverse(g.entries.len()));
    groups
}

/// Whether a wrong entry belongs to what a reply was written for.
pub fn is_like(entry: &WrongEntry<'_>, like: &Likeness) -> bool {
    match like {
        Likeness::Entry { response } => entry
            .part()
            .is_some_and(|p| p.posed.is_same_answer(response, entry.response)),
        Likeness::Slip { slip } => entry.slip == Some(*slip),
        other => known(entry).as_ref() == Some(other),
    }
}

/// Whether most wrong entries agree with each other, and with no slip that is known: then the key may be what is wrong.
pub fn is_doubtful(groups: &[WrongGroup]) -> bool {
    let all: usize = groups.iter().map(|g| g.entries.len()).sum();
    let unexplained = |g: &&WrongGroup| matches!(g.like, Likeness::Entry { .. } | Likeness::Times { .. });
    let largest = groups.iter().find(unexplained).map_or(0, |g| g.entries.len());
    largest >= 3 && 2 * largest > all
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use crate::{parse_question, render};

    const FIXED: &str = "
id: fixed
title: Fixed
points: 1
text: '?'
parts:
  - {id: a, interaction: text_entry, answer: {kind: number, key: '7/3'}}
";

    const DRAWN: &str = "
id: drawn
title: Drawn
points: 1
numbers: {n: {from: 100, to: 900}}
text: 'Twice {{n}}?'
parts:
  - id: a
    interaction: text_entry
    answer: {kind: number, key: '2*{{n}}'}
    replies: [{to: '{{n}}+2', say: 'You added.'}]
";

    fn groups(item: &Item, texts: &[&str]) -> Vec<Vec<usize>> {
        let responses: Vec<Response> = texts.iter().map(|t| Response::Text((*t).to_owned())).collect();
        let entries: Vec<WrongEntry<'_>> = responses
            .iter()
            .map(|response| WrongEntry {
                item,
                part: "a",
                response,
                reply: None,
                slip: None,
            })
            .collect();
        group_wrong(&entries).into_iter().map(|g| g.entries).collect()
    }

    #[test]
    fn what_comes_to_the_same_is_one_group_the_largest_first() {
        let item = render(&parse_question(FIXED).unwrap(), 1).unwrap();
        let found = groups(
            &item,
            &["5", "1/2", "0.5", "2/4", "5.0", "0.50", "banana", "14/3"],
        );
        assert_eq!(found, [vec![1, 2, 3, 5], vec![0, 4], vec![6], vec![7]]);
    }

    #[test]
    fn with_other_numbers_entries_are_told_by_how_they_went_wrong() {
        let question = parse_question(DRAWN).unwrap();
        let items: Vec<Item> = (0..6).map(|seed| render(&question, seed).unwrap()).collect();
        let right = |item: &Item| match item.find_part("a").unwrap().posed.key() {
            Response::Text(key) => {
                let tree = item
                    .find_part("a")
                    .unwrap()
                    .posed
                    .value(&Response::Text(key))
                    .unwrap();
                maths::approximate(&tree).unwrap()
            }
            _ => unreachable!(),
        };
        let given: Vec<Response> = items
            .iter()
            .enumerate()
            .map(|(i, item)| {
                Response::Text(
                    if i < 4 {
                        right(item) * 2.0
                    } else {
                        right(item) + 1.0
                    }
                    .to_string(),
                )
            })
            .collect();
        let entries: Vec<WrongEntry<'_>> = items
            .iter()
            .zip(&given)
            .map(|(item, response)| WrongEntry {
                item,
                part: "a",
                response,
                reply: None,
                slip: None,
            })
            .collect();
        let found = group_wrong(&entries);
        assert_eq!(found[0].entries, [0, 1, 2, 3]);
        assert!(matches!(&found[0].like, Likeness::Times { words } if words == "twice the right answer"));
        assert!(is_doubtful(&found));
        assert!(!is_doubtful(&found[1..]));
        let slips = [WrongGroup {
            like: Likeness::Slip { slip: Slip::Sign },
            entries: vec![0, 1, 2, 3],
        }];
        assert!(!is_doubtful(&slips), "a slip explains them");
    }

    proptest! {
        #[test]
        fn each_entry_is_in_one_group_and_equal_ones_are_together(
            numbers in prop::collection::vec((1i64..9, 1i64..5, 0u8..3), 1..24)
        ) {
            let item = render(&parse_question(FIXED).unwrap(), 1).unwrap();
            let write = |(p, q, form): &(i64, i64, u8)| match form {
                0 => format!("{p}/{q}"),
                1 => format!("{}/{}", 2 * p, 2 * q),
                _ => format!("({p})*1/({q})"),
            };
            let texts: Vec<String> = numbers.iter().map(write).collect();
            let texts: Vec<&str> = texts.iter().map(String::as_str).collect();
            let found = groups(&item, &texts);
            let mut all: Vec<usize> = found.iter().flatten().copied().collect();
            all.sort_unstable();
            prop_assert_eq!(all, (0..numbers.len()).collect::<Vec<_>>());
            let of = |place: usize| found.iter().position(|g| g.contains(&place));
            for (i, a) in numbers.iter().enumerate() {
                for (j, b) in numbers.iter().enumerate() {
                    prop_assert_eq!(a.0 * b.1 == b.0 * a.1, of(i) == of(j), "{} {}", texts[i], texts[j]);
                }
            }
            let sizes: Vec<usize> = found.iter().map(Vec::len).collect();
            prop_assert!(sizes.windows(2).all(|w| w[0] >= w[1]));
        }
    }
}
