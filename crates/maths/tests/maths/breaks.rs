//! Branches that begin and end in narrow places, and far out: families of hundreds of constants, since a single case can be
//! right by luck.

use std::sync::Arc;

use maths::{Domain, Names, Range, ReadOptions, compare, read_expression};

fn equal_over(key: &str, entry: &str, name: &str, range: Range) -> bool {
    let names = Names::new([name]).unwrap();
    let tree = |text: &str| read_expression(text, &ReadOptions::new(&names)).unwrap().tree;
    let domain = Domain([(Arc::from(name), range)].into());
    compare(&tree(key), &tree(entry), &domain).equal
}

fn equal(key: &str, entry: &str) -> bool {
    equal_over(key, entry, "x", Range::Real)
}

/// Quadratics that are below zero only between `a` and `a + gap`.
fn quadratics() -> impl Iterator<Item = String> {
    (-60..=200).step_by(13).flat_map(|a: i64| {
        [1, 2, 3].map(|gap| {
            let b = a + gap;
            let sign = |n: i64| {
                if n < 0 {
                    format!("- {}", -n)
                } else {
                    format!("+ {n}")
                }
            };
            format!("x^2 {}x {}", sign(-(a + b)), sign(a * b))
        })
    })
}

#[test]
fn bars_over_a_quadratic_that_is_negative_in_a_narrow_place_are_not_left_out() {
    let mut tried = 0;
    for q in quadratics() {
        for (key, entry) in [
            (format!("|{q}|"), q.clone()),
            (format!("sqrt(({q})^2)"), q.clone()),
            (format!("max({q}, 0)"), q.clone()),
            (format!("ln(({q})^2)"), format!("2ln({q})")),
            (format!("|{q}| * |x|"), format!("({q}) * |x|")),
        ] {
            assert!(!equal(&key, &entry), "{key} is not {entry}");
            tried += 1;
        }
        // And what is the same stays the same.
        assert!(equal(&format!("|{q}|"), &format!("sqrt(({q})^2)")), "{q}");
        assert!(equal(&format!("|{q}|"), &format!("max({q}, -({q}))")), "{q}");
    }
    assert!(tried >= 300);
}

#[test]
fn with_decimals_too() {
    for n in (1..=150).step_by(5) {
        let (a, b) = (f64::from(n) * 1.3, f64::from(n) * 1.3 + 0.37);
        let q = format!("(x - {a:.2})(x - {b:.2})");
        assert!(!equal(&format!("|{q}|"), &q), "{q}");
        let far = f64::from(n) * 9_731.0;
        assert!(
            !equal(&format!("|{far:.0} - x|"), &format!("{far:.0} - x")),
            "{far}"
        );
        let near = 0.9_f64.powi(n);
        assert!(!equal_over(
            &format!("|x - {near:.9}|"),
            &format!("x - {near:.9}"),
            "x",
            Range::Positive
        ));
    }
}

#[test]
fn a_whole_number_may_have_its_threshold_anywhere() {
    for n in (30..=600).step_by(19) {
        let differ = |key: &str, entry: &str| {
            assert!(
                !equal_over(key, entry, "n", Range::PositiveInteger),
                "{key} is not {entry}"
            );
        };
        differ(&format!("|n - {n}|"), &format!("{n} - n"));
        differ(&format!("max(n, {n})"), &format!("{n}"));
        differ(&format!("min(n, {n})"), "n");
        differ(&format!("floor(n/{n})"), "0");
        differ(&format!("5 min(n, {n}) + 4 max(n - {n}, 0)"), "5n");
        let same = format!("n + {n} - min(n, {n})");
        assert!(
            equal_over(&format!("max(n, {n})"), &same, "n", Range::PositiveInteger),
            "{same}"
        );
    }
}

#[test]
fn single_points_without_a_value_are_left_aside() {
    for n in (1..=60).step_by(4) {
        let root = n * n;
        for (key, entry) in [
            ("arcsin(x)".to_owned(), "arctan(x/sqrt(1-x^2))".to_owned()),
            (
                format!("sqrt({root} - x^2)"),
                format!("({root} - x^2)/sqrt({root} - x^2)"),
            ),
            (
                format!("sqrt(x^2 - {root})"),
                format!("(x^2 - {root})/sqrt(x^2 - {root})"),
            ),
            (
                format!("sqrt(x({n} - x))"),
                format!("x({n} - x)/sqrt(x({n} - x))"),
            ),
            (format!("|x^2 - {root}|"), format!("e^(ln|x^2 - {root}|)")),
        ] {
            assert!(equal(&key, &entry), "{key} is {entry}");
        }
        // Half of the domain is no single point.
        assert!(!equal(&format!("ln((x - {n})^2)"), &format!("2ln(x - {n})")));
        assert!(!equal(&format!("x + {n}"), &format!("sqrt(x + {n})^2")));
    }
}

#[test]
fn half_angles_of_whole_multiples_of_pi_are_decided() {
    for n in [1, 2, 3, 5, 8, 12, 20] {
        for (key, entry) in [
            (format!("sqrt((1-cos({n} pi x))/2)"), format!("|sin({n} pi x/2)|")),
            (format!("|sin({n} pi x)|"), format!("sqrt(1-cos({n} pi x)^2)")),
        ] {
            assert!(equal(&key, &entry), "{key} is {entry}");
        }
        assert!(!equal(&format!("|sin({n} pi x)|"), &format!("sin({n} pi x)")));
    }
}
