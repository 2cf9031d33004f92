use rstest::rstest;

use super::*;
use crate::{Names, ReadOptions, read_expression};

fn same_in(names: &[&str], a: &str, b: &str, domain: &Domain) -> Option<bool> {
    let names = Names::new(names.iter().copied()).unwrap();
    let side = |text: &str| {
        let read = |t: &str| read_expression(t, &ReadOptions::new(&names)).unwrap().tree;
        let (left, right) = text.split_once('=').unwrap();
        read(left).minus(Expr::Group(Box::new(read(right))))
    };
    same_solutions(&side(a), &side(b), names.variables(), domain)
}

fn same(a: &str, b: &str) -> Option<bool> {
    same_in(&["x"], a, b, &Domain::default())
}

#[rstest]
#[case::double_root("(x-2)^2 = 0", "x = 2", true)]
#[case::a_root_more("(x-2)^2 = 0", "(x-2)(x+2) = 0", false)]
#[case::triple("(x-1/3)^3 (x+4) = 0", "(3x-1)(x+4) = 0", true)]
#[case::bars_touch("|x-24| = 0", "x = 24", true)]
#[case::bars_cross("|x-1| = 3", "(x-4)(x+2) = 0", true)]
#[case::bars_have_none("|x-1| = -3", "x^2 + 1 = 0", true)]
#[case::bars_and_a_false_root("|x| = 2x - 3", "x = 3", true)]
#[case::false_root_kept("|x| = 2x - 3", "(x-3)(x-1) = 0", false)]
#[case::nested_bars("||x|-1| = 2", "x^2 = 9", true)]
#[case::irrational("x^2 = 2", "x^4 - 4 = 0", true)]
#[case::close_but_not_the_same("x^2 = 2", "x^2 = 2.000001", false)]
#[case::fraction("1/x = 1/3", "x = 3", true)]
#[case::hole("x^2/x = 0", "x = 0", false)]
#[case::hole_in_both("(x^2-1)/(x-1) = 0", "x = -1", true)]
#[case::no_solution("x^2 + 61 = 0", "x = 61", false)]
#[case::both_without("x^2 + 1 = 0", "x^2 + 5 = 0", true)]
#[case::negative_power("x^-1 = 2", "x = 1/2", true)]
#[case::percent("x% = 3", "x = 300", true)]
fn polynomials_fractions_and_bars_are_exact(#[case] a: &str, #[case] b: &str, #[case] wanted: bool) {
    assert_eq!(same(a, b), Some(wanted));
    assert_eq!(same(b, a), Some(wanted), "the other way round");
}

#[rstest]
#[case::exponential("e^x = 5", "x = ln(5)", Some(true))]
#[case::near_miss("e^x = 5", "x = 1.6094379124341", Some(false))]
#[case::touches("(e^x - 1)^2 = 0", "x = 0", Some(true))]
#[case::touches_elsewhere("(e^x - 3)^2 = 0", "x = ln(3)", Some(true))]
#[case::touches_not_there("(e^x - 3)^2 = 0", "x = 1.1", Some(false))]
#[case::root("sqrt(x) = 3", "x = 9", Some(true))]
#[case::logarithm("ln(x)^2 = 0", "x = 1", Some(true))]
#[case::cosine_touches("(x-1)(1 - cos(x-2))/(1 + x^2 (x-2)^2) = 0", "x = 1", Some(false))]
fn the_rest_is_found_and_pinned(#[case] a: &str, #[case] b: &str, #[case] wanted: Option<bool>) {
    assert_eq!(same(a, b), wanted);
}

#[test]
fn a_hundred_touching_zeros_are_all_seen() {
    for k in 2..=100 {
        assert_eq!(
            same(&format!("(x-{k})^2 = 0"), &format!("x = {k}")),
            Some(true),
            "{k}"
        );
        assert_eq!(
            same(&format!("x^2 - {}x + {} = 0", 2 * k, k * k), &format!("x = {k}")),
            Some(true),
            "{k}"
        );
        assert_eq!(
            same(&format!("|x-{k}| = 0"), &format!("x = -{k}")),
            Some(false),
            "{k}"
        );
        assert_eq!(
            same(&format!("(e^(x/50) - {k})^2 = 0"), &format!("x = 50 ln({k})")),
            Some(true),
            "{k}"
        );
    }
}

#[test]
fn several_variables_are_solved_for_one_by_one() {
    let positive = |names: &[&str]| {
        let ranges = names.iter().map(|n| (Arc::from(*n), Range::Positive));
        Domain(ranges.collect())
    };
    let names = ["F", "m", "a"];
    assert_eq!(
        same_in(&names, "F = m a", "a = F/m", &positive(&names)),
        Some(true)
    );
    assert_eq!(
        same_in(&names, "F = m a", "a = m/F", &positive(&names)),
        Some(false)
    );
    let plane = ["x", "y"];
    assert_eq!(
        same_in(&plane, "x^2 + y^2 = 1", "2x^2 = 2 - 2y^2", &Domain::default()),
        Some(true)
    );
    assert_eq!(
        same_in(&plane, "(x-y)^2 = 0", "x = y", &Domain::default()),
        Some(true)
    );
    assert_eq!(
        same_in(&plane, "(x-y)^2 = 0", "x^2 = y^2", &Domain::default()),
        Some(false)
    );
}

#[test]
fn the_domain_decides_which_solutions_count() {
    let only = |range: Range| Domain(std::iter::once((Arc::from("x"), range)).collect());
    let same = |a: &str, b: &str, range: Range| same_in(&["x"], a, b, &only(range));
    assert_eq!(same("x^2 = 9", "x = 3", Range::Positive), Some(true));
    assert_eq!(same("x^2 = 9", "x = 3", Range::Real), Some(false));
    assert_eq!(same("2x^2 - 7x + 3 = 0", "x = 3", Range::Integer), Some(true));
    assert_eq!(same("x^2 = 0", "x^3 = 0", Range::Positive), Some(true));
    let between = Range::Between(
        BigRational::from(BigInt::from(0)),
        BigRational::from(BigInt::from(2)),
    );
    assert_eq!(same("(x-1)(x-5) = 0", "x = 1", between), Some(true));
}

#[test]
fn what_cannot_be_told_is_undecided_and_noted() {
    let ((), noted) = crate::watching_decisions(|| {
        // Solutions everywhere on one side.
        assert_eq!(same("|x| = x", "|x| - x = 0"), None);
    });
    assert!(noted);
}

#[test]
fn a_zero_is_pinned_to_many_digits() {
    let names = Names::new(["x"]).unwrap();
    let tree = read_expression("x^3 e^x - 2", &ReadOptions::new(&names))
        .unwrap()
        .tree;
    let name = Arc::from("x");
    let zeros = Curve {
        expr: &tree,
        name: &name,
    }
    .zeros(&Domain::default())
    .unwrap();
    let [place] = found::places(&zeros)[..] else {
        panic!("{zeros:?}")
    };
    assert!((place.powi(3) * place.exp() - 2.0).abs() < 1e-12, "{place}");
}
