//! Families of answers instead of single ones: each is made from numbers that are drawn, written in the ways that people
//! write it, and changed in ways that make it wrong.

use std::fmt::Write;

use marking::{AnswerBlock, Marker, Slip};
use proptest::prelude::*;
use serde_json::{Value, json};

struct Marked {
    outcome: &'static str,
    score: f64,
    slip: Option<&'static str>,
}

fn mark(block: Value, entry: &str) -> Marked {
    let block: AnswerBlock = serde_json::from_value(block.clone()).unwrap_or_else(|e| panic!("{block}: {e}"));
    let marking = Marker::new(&block)
        .unwrap_or_else(|e| panic!("{block:?}: {e}"))
        .mark(entry);
    Marked {
        outcome: marking.outcome.name(),
        score: marking.score,
        slip: marking.slip.map(Slip::name),
    }
}

/// A piece of a union: its ends, and whether they belong to it.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Piece {
    from: i64,
    to: i64,
    from_in: bool,
    to_in: bool,
}

impl Piece {
    fn as_interval(self) -> String {
        let (open, close) = (
            if self.from_in { '[' } else { '(' },
            if self.to_in { ']' } else { ')' },
        );
        format!("{open}{}, {}{close}", self.from, self.to)
    }

    fn as_inequality(self) -> String {
        let (low, high) = (
            if self.from_in { "<=" } else { "<" },
            if self.to_in { "<=" } else { "<" },
        );
        format!("{} {low} x {high} {}", self.from, self.to)
    }

    fn turned_round(self) -> String {
        let (low, high) = (
            if self.from_in { "≥" } else { ">" },
            if self.to_in { "≥" } else { ">" },
        );
        format!("{} {high} x {low} {}", self.to, self.from)
    }

    fn with_and(self) -> String {
        let (low, high) = (
            if self.from_in { ">=" } else { ">" },
            if self.to_in { "<=" } else { "<" },
        );
        format!("x {low} {} and x {high} {}", self.from, self.to)
    }

    fn calculated(self) -> String {
        let (open, close) = (
            if self.from_in { '[' } else { '(' },
            if self.to_in { ']' } else { ')' },
        );
        format!("{open}{}/2, {}-1{close}", self.from * 2, self.to + 1)
    }
}

fn pieces() -> impl Strategy<Value = Vec<Piece>> {
    let one = (1i64..9, 1i64..9, any::<bool>(), any::<bool>());
    (-40i64..40, prop::collection::vec(one, 1..4)).prop_map(|(start, steps)| {
        let mut at = start;
        let piece = |(gap, length, from_in, to_in): (i64, i64, bool, bool)| {
            let from = at + gap;
            at = from + length;
            Piece {
                from,
                to: at,
                from_in,
                to_in,
            }
        };
        steps.into_iter().map(piece).collect()
    })
}

fn union(pieces: &[Piece], one: impl Fn(Piece) -> String, between: &str) -> String {
    let all: Vec<String> = pieces.iter().map(|p| one(*p)).collect();
    all.join(between)
}

fn interval_block(pieces: &[Piece]) -> Value {
    json!({"kind": "interval", "key": union(pieces, Piece::as_interval, " U "), "variable": "x"})
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn a_union_is_right_however_it_is_written(all in pieces(), turn in any::<bool>()) {
        let block = || interval_block(&all);
        let mut turned = all.clone();
        if turn {
            turned.reverse();
        }
        let written = [
            union(&turned, Piece::as_interval, " U "),
            union(&turned, Piece::as_interval, " ∪ "),
            union(&turned, Piece::as_interval, " or "),
            union(&turned, Piece::as_inequality, " or "),
            union(&turned, Piece::turned_round, " or "),
            union(&turned, Piece::calculated, " U "),
        ];
        for entry in written {
            prop_assert_eq!(mark(block(), &entry).outcome, "correct", "{} for {}", entry, block());
        }
        if let [only] = all.as_slice() {
            prop_assert_eq!(mark(block(), &only.with_and()).outcome, "correct", "{}", only.with_and());
        }
    }

    #[test]
    fn pieces_that_meet_or_overlap_are_one(all in pieces(), cut in 1i64..8) {
        let first = all[0];
        let inside = (first.from + cut).min(first.to);
        let left = Piece { to: inside, to_in: true, ..first };
        let right = Piece { from: first.from, ..first };
        let entry = format!(
            "{} U {}",
            union(&[left, right], Piece::as_interval, " U "),
            union(&all, Piece::as_interval, " U ")
        );
        let wanted = if inside < first.to || first.to_in { "correct" } else { "incorrect" };
        prop_assert_eq!(mark(interval_block(&all), &entry).outcome, wanted, "{}", entry);
    }

    #[test]
    fn an_end_that_moves_is_wrong_and_one_that_changes_sides_is_named(all in pieces(), which in any::<prop::sample::Index>()) {
        let place = which.index(all.len());
        let mut moved = all.clone();
        moved[place].from -= 1;
        let touches = place > 0 && moved[place - 1].to >= moved[place].from;
        if !touches {
            let found = mark(interval_block(&all), &union(&moved, Piece::as_interval, " U "));
            prop_assert_eq!(found.outcome, "incorrect");
            prop_assert_ne!(found.slip, Some("endpoint"));
        }
        let mut other = all.clone();
        other[place].to_in = !other[place].to_in;
        let found = mark(interval_block(&all), &union(&other, Piece::as_interval, " U "));
        prop_assert_eq!(found.outcome, "incorrect");
        prop_assert_eq!(found.slip, Some("endpoint"), "{:?} for {:?}", other, all);
    }

    #[test]
    fn ends_at_infinity(from in -50i64..50, closed in any::<bool>()) {
        let (bracket, sign) = if closed { ("[", ">=") } else { ("(", ">") };
        let block = json!({"kind": "interval", "key": format!("{bracket}{from}, inf)"), "variable": "x"});
        for entry in [format!("x {sign} {from}"), format!("{bracket}{from}, ∞)"), format!("{from} {} x", if closed { "≤" } else { "<" })] {
            prop_assert_eq!(mark(block.clone(), &entry).outcome, "correct", "{}", entry);
        }
        let closed_at_infinity = format!("{bracket}{from}, inf]");
        prop_assert_eq!(mark(block.clone(), &closed_at_infinity).outcome, "wrong_form");
        prop_assert_eq!(mark(block.clone(), &format!("x {} {from}", if closed { ">" } else { ">=" })).outcome, "incorrect");
        prop_assert_eq!(mark(block, &format!("(-inf, {from})")).outcome, "incorrect");
    }
}

fn members() -> impl Strategy<Value = Vec<i64>> {
    prop::collection::btree_set(-60i64..60, 1..6)
        .prop_map(|s| s.into_iter().collect::<Vec<_>>())
        .prop_shuffle()
}

fn joined(members: &[i64], between: &str) -> String {
    let all: Vec<String> = members.iter().map(i64::to_string).collect();
    all.join(between)
}

fn set_block(members: &[i64], partial: bool) -> Value {
    json!({"kind": "set", "key": format!("{{{}}}", joined(members, ", ")), "partial": partial})
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn the_order_of_a_sets_members_and_repeats_never_matter(all in members(), partial in any::<bool>()) {
        let mut sorted = all.clone();
        sorted.sort_unstable();
        let mut repeated = all.clone();
        repeated.extend(&all);
        let each: Vec<String> = all.iter().map(|m| format!("x = {m}")).collect();
        let entries = [
            joined(&sorted, ", "),
            format!("{{{}}}", joined(&repeated, ",")),
            joined(&all, " or "),
            each.join(" or "),
            each.join(", "),
        ];
        for entry in entries {
            let found = mark(set_block(&all, partial), &entry);
            prop_assert_eq!((found.outcome, found.score), ("correct", 1.0), "{}", entry);
        }
    }

    #[test]
    fn a_sets_share_is_what_is_right_less_what_is_extra(all in members(), drop in 0usize..6, extra in 0usize..4) {
        let kept = all.len().saturating_sub(drop);
        let mut entry: Vec<i64> = all[..kept].to_vec();
        entry.extend((0..extra).map(|n| 100 + i64::try_from(n).unwrap()));
        prop_assume!(!entry.is_empty());
        let found = mark(set_block(&all, true), &joined(&entry, ", "));
        let (right, size) = (f64::from(u32::try_from(kept).unwrap()), f64::from(u32::try_from(all.len()).unwrap()));
        let wanted = ((right - f64::from(u32::try_from(extra).unwrap())) / size).max(0.0);
        prop_assert!((found.score - wanted).abs() < 1e-9, "{} of {}", found.score, wanted);
        let outcome = if kept == all.len() && extra == 0 { "correct" } else if wanted > 0.0 { "partial" } else { "incorrect" };
        prop_assert_eq!(found.outcome, outcome);
        // Missing is named only where nothing is extra, and the other way round.
        if kept < all.len() && extra == 0 {
            prop_assert_eq!(found.slip, Some("missing_member"));
        }
        if kept == all.len() && extra > 0 {
            prop_assert_eq!(found.slip, Some("extra_member"));
        }
        // All or nothing, where no share was promised.
        let whole = mark(set_block(&all, false), &joined(&entry, ", "));
        prop_assert_eq!(whole.score, if outcome == "correct" { 1.0 } else { 0.0 });
    }

    #[test]
    fn a_list_minds_its_order(all in members()) {
        let block = json!({"kind": "list", "key": joined(&all, ", ")});
        prop_assert_eq!(mark(block.clone(), &format!("({})", joined(&all, ", "))).outcome, "correct");
        let mut turned = all.clone();
        turned.reverse();
        // Where turning it round also turns every sign, the sign is the first thing to say.
        let negated: Vec<i64> = all.iter().map(|m| -m).collect();
        if turned != all && turned != negated {
            let found = mark(block.clone(), &joined(&turned, ", "));
            prop_assert_eq!((found.outcome, found.slip), ("incorrect", Some("swapped")));
        }
        if all.len() > 1 {
            prop_assert_eq!(mark(block, &joined(&all[1..], ", ")).outcome, "incorrect");
        }
    }

    #[test]
    fn a_matrix_earns_its_entries_and_knows_its_transpose(rows in 1usize..4, columns in 1usize..4, numbers in prop::collection::vec(-20i64..20, 9), wrong in any::<prop::sample::Index>()) {
        let written = |entry: &dyn Fn(usize, usize) -> i64, rows: usize, columns: usize| {
            let mut text = String::from("[");
            for r in 0..rows {
                let row: Vec<i64> = (0..columns).map(|c| entry(r, c)).collect();
                write!(text, "{}[{}]", if r > 0 { ", " } else { "" }, joined(&row, ", ")).unwrap();
            }
            text + "]"
        };
        let at = |r: usize, c: usize| numbers[r * 3 + c];
        let block = json!({"kind": "matrix", "key": written(&at, rows, columns), "partial": true});
        let by_rows: Vec<String> = (0..rows)
            .map(|r| (0..columns).map(|c| at(r, c).to_string()).collect::<Vec<_>>().join(" "))
            .collect();
        prop_assert_eq!(mark(block.clone(), &format!("[{}]", by_rows.join("; "))).outcome, "correct");
        let place = wrong.index(rows * columns);
        let spoilt = |r: usize, c: usize| at(r, c) + if r * columns + c == place { 1 } else { 0 };
        let found = mark(block.clone(), &written(&spoilt, rows, columns));
        let entries = f64::from(u32::try_from(rows * columns).unwrap());
        prop_assert!((found.score - (entries - 1.0) / entries).abs() < 1e-9);
        let turned = |r: usize, c: usize| at(c, r);
        if rows == columns && (0..rows).any(|r| (0..columns).any(|c| at(r, c) != at(c, r))) {
            prop_assert_eq!(mark(block, &written(&turned, columns, rows)).slip, Some("swapped"));
        } else if rows != columns {
            prop_assert_ne!(mark(block, &written(&turned, columns, rows)).outcome, "correct");
        }
    }
}

/// A decimal with two places, from hundredths.
fn hundredths(n: i64) -> String {
    let sign = if n < 0 { "-" } else { "" };
    format!("{sign}{}.{:02}", n.abs() / 100, n.abs() % 100)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn bounds_are_inclusive_and_exact(key in -90_000i64..90_000, off in 1i64..500, inside in any::<bool>(), up in any::<bool>()) {
        // The key in hundredths, the bound in hundredths; the entry lies on the bound or a hundredth of a hundredth outside.
        let sign = if up { 1 } else { -1 };
        let thousandths = key * 100 + sign * (off * 100 + i64::from(!inside));
        let entry = format!("{}{}.{:04}", if thousandths < 0 { "-" } else { "" }, thousandths.abs() / 10_000, thousandths.abs() % 10_000);
        let block = json!({"kind": "number", "key": hundredths(key), "tolerance": {"absolute": off as f64 / 100.0}});
        let wanted = if inside { "correct" } else { "incorrect" };
        prop_assert_eq!(mark(block.clone(), &entry).outcome, wanted, "{} for {}", entry, block);
    }

    #[test]
    fn rounding_to_places_takes_the_half(key in 1i64..90_000, places in 0u32..3) {
        // A key that ends in 5 at the first place that is cut off may be rounded to either side.
        let power = 10i64.pow(places);
        let text = |n: i64, more: &str| {
            if places == 0 && more.is_empty() {
                return n.to_string();
            }
            let dot = if places == 0 { "." } else { "" };
            let whole = format!("{}{}", n / power, if places == 0 { String::new() } else { format!(".{:0width$}", n % power, width = places as usize) });
            format!("{whole}{dot}{more}")
        };
        let block = json!({"kind": "number", "key": text(key, "5"), "tolerance": {"decimals": places}});
        for (entry, wanted) in [(key, "correct"), (key + 1, "correct"), (key + 2, "incorrect"), (key - 1, "incorrect")] {
            prop_assert_eq!(mark(block.clone(), &text(entry, "")).outcome, wanted, "{} for {}", text(entry, ""), block);
        }
    }

    #[test]
    fn slips_of_numbers_are_named(key in 11i64..9_999, k in 2i64..10, power in 1u32..4) {
        let block = || json!({"kind": "number", "key": key.to_string()});
        prop_assert_eq!(mark(block(), &format!("-{key}")).slip, Some("sign"));
        prop_assert_eq!(mark(block(), &format!("1/{key}")).slip, Some("reciprocal"));
        prop_assert_eq!(mark(block(), &(key * k).to_string()).slip, Some("factor"));
        prop_assert_eq!(mark(block(), &(key * 10i64.pow(power)).to_string()).slip, Some("power_of_ten"));
        prop_assert_eq!(mark(block(), &key.to_string()).slip, None);
    }

    #[test]
    fn units_convert_and_their_slips_are_named(metres in 1i64..5_000) {
        let block = || json!({"kind": "number", "key": metres.to_string(), "unit": "m"});
        for (entry, outcome, slip) in [
            (format!("{metres} m"), "correct", None),
            (format!("{} cm", metres * 100), "correct", None),
            (format!("{} mm", metres * 1000), "correct", None),
            (format!("{} km", hundredths(metres * 100).parse::<f64>().unwrap() / 1000.0), "correct", None),
            (metres.to_string(), "wrong_form", None),
            (format!("{metres} cm"), "incorrect", Some("unit_scale")),
            (format!("{metres} km"), "incorrect", Some("unit_scale")),
            (format!("{metres} s"), "incorrect", Some("wrong_dimension")),
            (format!("{metres} m^2"), "incorrect", Some("wrong_dimension")),
        ] {
            let found = mark(block(), &entry);
            prop_assert_eq!((found.outcome, found.slip), (outcome, slip), "{}", entry);
        }
    }

    #[test]
    fn fractions_in_every_form(n in 1i64..60, d in 2i64..60) {
        let gcd = (1..=n.min(d)).rev().find(|g| n % g == 0 && d % g == 0).unwrap();
        let (n, d) = (n / gcd, d / gcd);
        prop_assume!(d > 1);
        let block = |form: &str| json!({"kind": "number", "key": format!("{n}/{d}"), "form": form});
        prop_assert_eq!(mark(block("lowest_terms"), &format!("{n}/{d}")).outcome, "correct");
        prop_assert_eq!(mark(block("lowest_terms"), &format!("{}/{}", n * 3, d * 3)).outcome, "wrong_form");
        prop_assert_eq!(mark(block("fraction"), &format!("{}/{}", n * 3, d * 3)).outcome, "correct");
        prop_assert_eq!(mark(block("fraction"), &format!("{}/{}", n + 1, d)).outcome, "incorrect");
        if n > d {
            let mixed = format!("{} {}/{d}", n / d, n % d);
            prop_assert_eq!(mark(block("mixed"), &mixed).outcome, "correct", "{}", mixed);
            prop_assert_eq!(mark(block("mixed"), &format!("{n}/{d}")).outcome, "wrong_form");
            prop_assert_eq!(mark(block("lowest_terms"), &format!("{} {}/{d}", n / d + 1, n % d)).outcome, "incorrect");
        }
    }
}
