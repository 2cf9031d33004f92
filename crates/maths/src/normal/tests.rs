//! The normal form may fail to see that two things are equal, but it may never say so of two that are not.

use proptest::prelude::*;
use rstest::rstest;

use super::*;
use crate::{Names, ReadOptions, read_expression};

fn tree(text: &str) -> Expr {
    let names = Names::new(["x", "y", "a", "n"]).unwrap();
    read_expression(text, &ReadOptions::new(&names))
        .unwrap_or_else(|e| panic!("{text}: {e:?}"))
        .tree
}

fn plain() -> Normaliser {
    Normaliser::new(Vec::new(), Vec::new())
}

fn proves(a: &str, b: &str) -> bool {
    plain().proves_equal(&tree(a), &tree(b)).unwrap_or(false)
}

#[rstest]
#[case("(x+1)^2", "x^2 + 2x + 1")]
#[case("(x+y)^5", "(x+y)^2 (x+y)^3")]
#[case("(x^2-1)/(x-1)", "x + 1")]
#[case("1/x + 1/y", "(x+y)/(x y)")]
#[case("1/(1+1/x)", "x/(x+1)")]
#[case("x/2 + x/3", "5x/6")]
#[case("sqrt(8)", "2sqrt(2)")]
#[case("sqrt(12) + sqrt(27)", "5sqrt(3)")]
#[case("1/sqrt(2)", "sqrt(2)/2")]
#[case("1/(sqrt(3)-1)", "(sqrt(3)+1)/2")]
#[case("cbrt(16)", "2cbrt(2)")]
#[case("sqrt(2)sqrt(3)", "sqrt(6)")]
#[case("2^(1/2)*2^(1/3)", "2^(5/6)")]
#[case("(2^x)^2", "4^x")]
#[case("2^x*3^x", "6^x")]
#[case("2^(x+1)", "2*2^x")]
#[case("e^x e^y", "e^(x+y)")]
#[case("sqrt(e^x)", "e^(x/2)")]
#[case("(e^x)^3", "e^(3x)")]
#[case("1/e^x", "e^(-x)")]
#[case("ln(e^x)", "x")]
#[case("ln(6)", "ln(2) + ln(3)")]
#[case("ln(1/2)", "-ln(2)")]
#[case("ln(8)/ln(2)", "3")]
#[case("log_2(8)", "3")]
#[case("log(100x)", "2 + log(x)")]
#[case("sin(x)^2 + cos(x)^2", "1")]
#[case("sin(-x)", "-sin(x)")]
#[case("cos(-x)", "cos(x)")]
#[case("sin(2x)", "2sin(x)cos(x)")]
#[case("cos(2x)", "1 - 2sin(x)^2")]
#[case("tan(x)cos(x)", "sin(x)")]
#[case("1 + tan(x)^2", "sec(x)^2")]
#[case("sin(x + pi/2)", "cos(x)")]
#[case("sin(x + 2pi)", "sin(x)")]
#[case("sin(pi - x)", "sin(x)")]
#[case("sin(x)cos(y) + cos(x)sin(y)", "sin(x+y)")]
#[case("cosh(x)^2 - sinh(x)^2", "1")]
#[case("cosh(x) + sinh(x)", "e^x")]
#[case("tanh(x)", "(e^(2x)-1)/(e^(2x)+1)")]
#[case("sqrt(x^2)", "|x|")]
#[case("|x y|", "|x||y|")]
#[case("|x|^2", "x^2")]
#[case("|-x|", "|x|")]
#[case("max(x, y) + min(x, y)", "x + y")]
#[case("max(x, y)", "max(y, x)")]
#[case("cbrt(x^3)", "x")]
#[case("15%", "3/20")]
#[case("180°", "pi")]
#[case("5!/3!", "20")]
fn equal_things_have_one_normal_form(#[case] a: &str, #[case] b: &str) {
    assert!(proves(a, b), "{a} and {b}");
    assert!(proves(b, a), "{b} and {a}");
}

#[rstest]
#[case("sqrt(x^2)", "x")]
#[case("sqrt(x)sqrt(x)", "|x| + 1")]
#[case("(x+1)^2", "x^2 + 1")]
#[case("x^2", "|x|")]
#[case("ln(x^2)", "2ln(x) + 1")]
#[case("sin(2x)", "2sin(x)")]
#[case("e^(x^2)", "(e^x)^2")]
#[case("2^(3^x)", "(2^3)^x")]
#[case("|x+y|", "|x|+|y|")]
#[case("max(x,y)", "x")]
#[case("sqrt(x+y)", "sqrt(x)+sqrt(y)")]
#[case("1/(x+y)", "1/x + 1/y")]
#[case("x/(x+1)", "1/2")]
#[case("sqrt(2)", "1.41421356237")]
#[case("pi", "3.14159265358979")]
#[case("e", "2.71828182845905")]
#[case("0.333333333333", "1/3")]
#[case("cos(x+pi)", "cos(x)")]
#[case("log(x)", "ln(x)")]
#[case("tan(x)", "sin(x)")]
#[case("cbrt(x)", "sqrt(x)")]
fn different_things_never_have(#[case] a: &str, #[case] b: &str) {
    assert!(!proves(a, b), "{a} and {b}");
    assert!(!proves(b, a), "{b} and {a}");
}

#[test]
fn a_variable_that_is_never_negative_needs_no_bars() {
    let mut positive = Normaliser::new(vec!["x".into()], Vec::new());
    assert_eq!(positive.proves_equal(&tree("sqrt(x^2)"), &tree("x")), Ok(true));
    assert_eq!(positive.proves_equal(&tree("sqrt(y^2)"), &tree("y")), Ok(false));
    let mut positive = Normaliser::new(vec!["x".into()], Vec::new());
    assert_eq!(positive.proves_equal(&tree("|x|"), &tree("x")), Ok(true));
}

#[test]
fn powers_of_minus_one_need_whole_exponents() {
    let with = |whole: &[&str], a: &str, b: &str| {
        let whole = whole.iter().map(|n| Arc::from(*n)).collect();
        Normaliser::new(Vec::new(), whole)
            .proves_equal(&tree(a), &tree(b))
            .unwrap_or(false)
    };
    assert!(with(&["n"], "(-1)^n (-1)^n", "((-1)^n)^2"));
    assert!(!with(&["n"], "(-1)^n", "1"));
    assert!(!with(&["n"], "(-1)^(2n+1)", "1"));
    assert!(!with(&["n"], "(-2)^n", "2^n"));
}

#[test]
fn too_big_is_said_and_not_worked_through() {
    let big = tree("(x+y+a+1)^40 (x-y+a+2)^40");
    assert!(matches!(
        plain().proves_equal(&big, &tree("1")),
        Err(Stop::TooBig)
    ));
}

#[test]
fn dividing_by_nothing_has_no_value() {
    assert!(matches!(
        plain().proves_equal(&tree("1/(x-x)"), &tree("1")),
        Err(Stop::NoValue)
    ));
}

#[rstest]
#[case("3x^2 y + 1", Some(2))]
#[case("(x+1)(x-1)", Some(2))]
#[case("x/2", Some(1))]
#[case("1/x", None)]
#[case("sqrt(x)", None)]
#[case("sin(x)", None)]
#[case("x^n", None)]
#[case("pi x", None)]
fn polynomials_are_told_from_the_rest(#[case] text: &str, #[case] terms: Option<usize>) {
    assert_eq!(plain().polynomial(&tree(text)).map(|t| t.len()), terms, "{text}");
}

fn small() -> impl Strategy<Value = i64> {
    prop_oneof![-9i64..=-1, 1i64..=9]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn expanding_is_seen_and_one_wrong_coefficient_too(a in small(), b in small(), c in small(), d in small(), off in small()) {
        let product = format!("({a}x + ({b}))({c}x + ({d}))");
        let right = format!("{}x^2 + ({})x + ({})", a * c, a * d + b * c, b * d);
        let wrong = format!("{}x^2 + ({})x + ({})", a * c, a * d + b * c + off, b * d);
        prop_assert!(proves(&product, &right));
        prop_assert!(!proves(&product, &wrong));
    }

    #[test]
    fn roots_of_squares_come_out(k in 2i64..200, m in 2i64..12) {
        let (inside, outside) = (k * m * m, format!("{m}sqrt({k})"));
        let root = format!("sqrt({inside})");
        let more = format!("{}sqrt({k})", m + 1);
        prop_assert!(proves(&root, &outside));
        prop_assert!(!proves(&root, &more));
    }

    #[test]
    fn constants_go_through_exponentials(k in 2i64..400, p in 1i64..6, q in 1i64..6) {
        let one = format!("{k} e^({p}x/{q})");
        let other = format!("{k} (exp(x))^({p}/{q})");
        let moved = format!("{} (exp(x))^({p}/{q})", k + 1);
        prop_assert!(proves(&one, &other));
        prop_assert!(!proves(&one, &moved));
    }
}
