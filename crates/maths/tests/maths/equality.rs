//! Equality: by proof where there is one, by points in high precision else; never by luck.

use std::collections::BTreeMap;
use std::sync::Arc;

use maths::{
    Domain, Evidence, Expr, Names, Precision, Range, ReadOptions, Undefined, compare, compare_constants,
    read_expression, sign_of_constant,
};
use proptest::prelude::*;
use rstest::rstest;

fn tree(typed: &str) -> Expr {
    let names = Names::new(["x", "y", "n"]).unwrap();
    read_expression(typed, &ReadOptions::new(&names)).unwrap().tree
}

fn over(range: Option<Range>) -> Domain {
    let of = |name: &str| range.clone().map(|r| (Arc::from(name), r));
    Domain(BTreeMap::from_iter(["x", "y", "n"].into_iter().filter_map(of)))
}

#[rstest]
#[case("x^2 - 1", "(x-1)(x+1)")]
#[case("(x+y)^3", "x^3 + 3x^2 y + 3x y^2 + y^3")]
#[case("1/x + 1/y", "(x+y)/(x y)")]
#[case("sin(x)^2 + cos(x)^2", "1")]
#[case("sin(3x)", "3sin(x) - 4sin(x)^3")]
#[case("sin(x+y)", "sin x cos y + cos x sin y")]
#[case("tan(x)", "sin(x)/cos(x)")]
#[case("1 + tan(x)^2", "sec(x)^2")]
#[case("cos(x - pi/3)", "cos(x)/2 + sqrt(3)/2 sin(x)")]
#[case("sin(x + pi/2)", "cos x")]
#[case("e^(x+y)", "e^x e^y")]
#[case("4^x", "2^(2x)")]
#[case("sinh(2x)", "2 sinh(x) cosh(x)")]
#[case("cbrt(8x^3)", "2x")]
#[case("sqrt(8)x", "2sqrt(2)x")]
#[case("sqrt(x^2)", "|x|")]
#[case("ln(e^x)", "x")]
#[case("sin(-x)", "-sin(x)")]
#[case("max(x, y) + min(x, y)", "x + y")]
fn identities_are_proved(#[case] key: &str, #[case] entry: &str) {
    let judged = compare(&tree(key), &tree(entry), &Domain::default());
    assert_eq!(judged.evidence, Evidence::ProvedEqual);
    assert!(judged.equal);
}

#[rstest]
#[case("x", "sqrt(x)^2")]
#[case("ln(x^2)", "2 ln x")]
#[case("x", "e^(ln x)")]
#[case("sin(x)", "x - x^3/6")]
#[case("x", "x + 10^-30")]
#[case("|x|", "x")]
#[case("|x - 1000|", "1000 - x")]
#[case("|x-3| + |x-3.01|", "|2x - 6.01|")]
#[case("x^(1/3)", "sqrt(x)^(2/3)")]
#[case("floor(x)", "x - 1/2")]
#[case("0", "e^(-1000x^2)")]
fn what_differs_anywhere_is_different(#[case] key: &str, #[case] entry: &str) {
    assert!(!compare(&tree(key), &tree(entry), &Domain::default()).equal);
}

#[rstest]
#[case::positive("2 ln x", "ln(x^2)", Range::Positive)]
#[case::positive_product("sqrt(x) sqrt(y)", "sqrt(x y)", Range::Positive)]
#[case::whole("cos(2pi n)", "1", Range::Integer)]
#[case::whole_signs("(-1)^n", "cos(pi n)", Range::Integer)]
#[case::factorials("(n+1)!/n!", "n + 1", Range::NonnegativeInteger)]
#[case::range("|x - 5|", "5 - x", Range::Between(maths::read_rational("0").unwrap(), maths::read_rational("5").unwrap()))]
fn the_domain_decides(#[case] key: &str, #[case] entry: &str, #[case] range: Range) {
    assert!(compare(&tree(key), &tree(entry), &over(Some(range))).equal);
}

#[test]
fn a_removable_point_is_no_difference_either_way() {
    assert!(compare(&tree("x+1"), &tree("(x^2-1)/(x-1)"), &Domain::default()).equal);
    assert!(compare(&tree("(x^2-1)/(x-1)"), &tree("x+1"), &Domain::default()).equal);
}

#[test]
fn a_witness_is_a_point_where_they_differ() {
    let Evidence::ProvedDifferent { witness } =
        compare(&tree("x^2"), &tree("x^3"), &Domain::default()).evidence
    else {
        panic!("a witness")
    };
    let at = |e: Expr| {
        witness
            .iter()
            .fold(e, |e, (name, value)| e.substitute(name, &Expr::rational(value)))
    };
    let (a, b) = (at(tree("x^2")), at(tree("x^3")));
    assert_ne!(maths::exact_value(&a), maths::exact_value(&b));
}

#[rstest]
#[case("sqrt(2)+sqrt(3)", "sqrt(5+2sqrt(6))")]
#[case("cos(pi/5)", "(1+sqrt(5))/4")]
#[case("sqrt(3+2sqrt(2))", "1+sqrt(2)")]
#[case("cbrt(7+5sqrt(2))", "1+sqrt(2)")]
#[case("sin(18°)", "(sqrt(5)-1)/4")]
#[case("tan(pi/8)", "sqrt(2)-1")]
fn algebraic_numbers_are_proved_equal(#[case] a: &str, #[case] b: &str) {
    let order = compare_constants(&tree(a), &tree(b));
    assert_eq!(order, Ok((std::cmp::Ordering::Equal, Precision::Proved)));
}

#[rstest]
#[case("e^(pi*sqrt(163))", "262537412640768744")]
#[case("355/113", "pi")]
#[case("10^20 + 1", "10^20")]
#[case("sqrt(10^40 + 1)", "10^20")]
fn near_misses_are_told_apart(#[case] a: &str, #[case] b: &str) {
    let (order, precision) = compare_constants(&tree(a), &tree(b)).unwrap();
    assert_ne!(order, std::cmp::Ordering::Equal);
    assert_eq!(precision, Precision::Proved);
}

#[rstest]
#[case("1/0")]
#[case("0^0")]
#[case("ln(0)")]
#[case("sqrt(-1)")]
#[case("1/(sqrt(2)^2 - 2)")]
#[case("arcsin(2)")]
fn what_has_no_value_is_said_to_have_none(#[case] typed: &str) {
    let tree = tree(typed);
    let found = maths::has_value(&tree).and_then(|()| sign_of_constant(&tree).map(|_| ()));
    assert_eq!(found, Err(Undefined::NoValue));
}

/// Polynomials and their like, small enough to be worked out.
fn expressions() -> impl Strategy<Value = String> {
    let leaf = prop::sample::select(vec!["x", "y", "2", "3", "1/2", "pi", "7"]).prop_map(str::to_owned);
    leaf.prop_recursive(3, 12, 2, |inner| {
        prop_oneof![
            (inner.clone(), inner.clone()).prop_map(|(a, b)| format!("({a} + {b})")),
            (inner.clone(), inner.clone()).prop_map(|(a, b)| format!("({a})*({b})")),
            (inner.clone(), inner.clone()).prop_map(|(a, b)| format!("({a} - {b})")),
            inner.clone().prop_map(|a| format!("({a})^2")),
            inner.clone().prop_map(|a| format!("sin({a})")),
            inner.prop_map(|a| format!("abs({a})")),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(150))]

    #[test]
    fn equality_is_reflexive(a in expressions()) {
        prop_assert!(compare(&tree(&a), &tree(&a), &Domain::default()).equal);
    }

    #[test]
    fn equality_is_symmetric_for_total_expressions(a in expressions(), b in expressions()) {
        let there = compare(&tree(&a), &tree(&b), &Domain::default()).equal;
        let back = compare(&tree(&b), &tree(&a), &Domain::default()).equal;
        prop_assert_eq!(there, back);
    }

    #[test]
    fn adding_nothing_changes_nothing(a in expressions(), b in expressions()) {
        let more = tree(&format!("({a}) + ({b}) - ({b})"));
        prop_assert!(compare(&tree(&a), &more, &Domain::default()).equal);
    }

    #[test]
    fn adding_something_changes_something(a in expressions()) {
        let more = tree(&format!("({a}) + 1/1000000"));
        prop_assert!(!compare(&tree(&a), &more, &Domain::default()).equal);
    }
}
