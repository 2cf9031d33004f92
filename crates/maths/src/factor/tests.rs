//! Polynomials are built from factors, so that what must come out is known beforehand.

use num_bigint::BigInt;
use proptest::prelude::*;
use rstest::rstest;

use super::*;
use crate::{Names, Normaliser, ReadOptions, read_expression};

const NAMES: [&str; 3] = ["x", "y", "z"];

fn poly(text: &str) -> WholePoly {
    let names = Names::new(NAMES).unwrap();
    let tree = read_expression(text, &ReadOptions::new(&names)).unwrap().tree;
    let mut normaliser = Normaliser::new(Vec::new(), Vec::new());
    let terms = normaliser
        .polynomial(&tree)
        .unwrap_or_else(|| panic!("{text} is no polynomial"));
    WholePoly::primitive(&terms, &NAMES.map(Arc::from)).0
}

fn taken_out(text: &str) -> BigRational {
    let names = Names::new(NAMES).unwrap();
    let tree = read_expression(text, &ReadOptions::new(&names)).unwrap().tree;
    let terms = Normaliser::new(Vec::new(), Vec::new()).polynomial(&tree).unwrap();
    WholePoly::primitive(&terms, &NAMES.map(Arc::from)).1
}

fn same_up_to_sign(a: &WholePoly, b: &WholePoly) -> bool {
    a == b || *a == b.divided(&BigInt::from(-1))
}

#[rstest]
#[case("6x + 9", 3, 1)]
#[case("x/2 + 1/3", 1, 6)]
#[case("4x^2/5 + 6x/5", 2, 5)]
#[case("x + y", 1, 1)]
#[case("0.25x + 0.5", 1, 4)]
fn what_all_coefficients_share_is_taken_out(#[case] text: &str, #[case] n: i64, #[case] d: i64) {
    assert_eq!(taken_out(text), BigRational::new(n.into(), d.into()));
}

#[rstest]
#[case("(x-1)(x+2)", "(x-1)(x+5)", "x-1")]
#[case("(x-1)^3", "(x-1)^2 (x+7)", "(x-1)^2")]
#[case("x^2 - 1", "x^2 + 1", "1")]
#[case("(x+y)(x-y)", "(x+y)^2", "x+y")]
#[case("(2x+3y)(x y+1)", "(2x+3y)(x-z)", "2x+3y")]
#[case("x y z", "x z^2", "x z")]
#[case("x^2 y + x y", "x y + y", "(x+1) y")]
#[case("(x^2+x+1)(x-9)", "(x^2+x+1)(x+9)", "x^2+x+1")]
#[case("5", "x+1", "1")]
#[case("x^6 - 1", "x^4 - 1", "x^2 - 1")]
fn the_greatest_common_divisor_of(#[case] a: &str, #[case] b: &str, #[case] wanted: &str) {
    let found = gcd(&poly(a), &poly(b)).unwrap();
    let found = found.divided(&found.content());
    assert!(same_up_to_sign(&found, &poly(wanted)), "{a} and {b}: {found:?}");
}

#[test]
fn nothing_shares_everything_with_zero() {
    let (zero, p) = (WholePoly::zero(3), poly("x y + 3"));
    assert_eq!(gcd(&zero, &p), Some(p.clone()));
    assert_eq!(gcd(&p, &zero), Some(p));
}

#[rstest]
#[case::linear("3x + 7", false)]
#[case::constant_taken_out("6x + 14", false)]
#[case::difference_of_squares("x^2 - 9", true)]
#[case::sum_of_squares("x^2 + 9", false)]
#[case::square("x^2 + 6x + 9", true)]
#[case::irrational_roots("x^2 - 2", false)]
#[case::rational_roots("6x^2 + x - 2", true)]
#[case::common_variable("x^2 + 5x", true)]
#[case::cube("x^3 + 8", true)]
#[case::no_rational_root("x^3 + x + 1", false)]
#[case::without_a_root_but_a_product("x^4 + 4", true)]
#[case::product_of_quadratics("(x^2+1)(x^2+x+3)", true)]
#[case::fourth_powers("x^4 + 1", false)]
#[case::five("x^5 - x - 1", false)]
#[case::cyclotomic("x^6 + x^5 + x^4 + x^3 + x^2 + x + 1", false)]
#[case::two_variables("x^2 - y^2", true)]
#[case::two_variables_not("x^2 + y^2", false)]
#[case::linear_in_one("x y + x + 1", false)]
#[case::grouping("x y + 2x + 3y + 6", true)]
#[case::common_letter("x y + x z", true)]
#[case::square_of_a_sum("x^2 + 2x y + y^2", true)]
#[case::three("x^2 + y^2 + z^2", false)]
#[case::three_as_a_product("x^2 - (y+z)^2", true)]
#[case::cubes("x^3 - y^3", true)]
fn what_can_be_factored(#[case] text: &str, #[case] wanted: bool) {
    assert_eq!(is_reducible(&poly(text)), Some(wanted), "{text}");
}

#[test]
fn past_its_bounds_nothing_is_claimed() {
    assert_eq!(is_reducible(&poly("x^11 + x + 1")), None);
    assert_eq!(gcd(&poly("x^13 + 1"), &poly("x^14 + x")), None);
}

#[test]
fn every_difference_of_two_squares_and_no_sum_of_them() {
    for k in 1..=60i64 {
        assert_eq!(
            is_reducible(&poly(&format!("x^2 - {}", k * k))),
            Some(true),
            "x^2 - {k}^2"
        );
        assert_eq!(
            is_reducible(&poly(&format!("x^2 + {k}"))),
            Some(false),
            "x^2 + {k}"
        );
        let square = (1..=8).any(|r| r * r == k);
        assert_eq!(
            is_reducible(&poly(&format!("x^2 - {k}"))),
            Some(square),
            "x^2 - {k}"
        );
    }
}

fn factor() -> impl Strategy<Value = String> {
    let small = -7i64..=7;
    prop_oneof![
        (1i64..=4, small.clone()).prop_map(|(a, b)| format!("({a}x + ({b}))")),
        (1i64..=3, small.clone(), small.clone()).prop_map(|(a, b, c)| format!("({a}x^2 + ({b})x + ({c}))")),
        (1i64..=4, 1i64..=4, small).prop_map(|(a, b, c)| format!("({a}x + {b}y + ({c}))")),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn a_product_of_two_factors_is_reducible(a in factor(), b in factor()) {
        let product = poly(&format!("{a}{b}"));
        prop_assume!(product.total_degree() > 1);
        // None: not decided, which is allowed; that it can't be factored is not.
        prop_assert_ne!(is_reducible(&product), Some(false), "{}{}", a, b);
    }

    #[test]
    fn a_common_factor_divides_what_is_found(a in factor(), b in factor(), c in factor()) {
        let (left, right, shared) = (poly(&format!("{a}{c}")), poly(&format!("{b}{c}")), poly(&c));
        if let Some(found) = gcd(&left, &right) {
            prop_assert!(left.exactly_by(&found).is_some());
            prop_assert!(right.exactly_by(&found).is_some());
            prop_assert!(shared.is_constant() || found.exactly_by(&shared).is_some(), "{} of {}{} and {}{}", c, a, c, b, c);
        }
    }
}
