//! Values against what is known of them: exact ones, limits of the domain, and identities at many places.

use num_bigint::BigInt;
use proptest::prelude::*;
use rstest::rstest;

use super::*;
use crate::{Names, ReadOptions, read_expression};

fn tree(text: &str) -> Expr {
    let names = Names::new(["x", "n"]).unwrap();
    read_expression(text, &ReadOptions::new(&names))
        .unwrap_or_else(|e| panic!("{text}: {e:?}"))
        .tree
}

fn no_whole(_: &str) -> bool {
    false
}

/// The ends of the enclosure of a value.
fn at(text: &str, x: &BigRational) -> Result<(f64, f64), Undefined> {
    let point = Point::from([(Arc::from("x"), x.clone())]);
    let mut evaluator = Evaluator::<f64>::new(&point, &no_whole, 53);
    let found = evaluator.interval(&tree(text))?;
    Ok((found.lo, found.hi))
}

fn ratio(n: i64, d: i64) -> BigRational {
    BigRational::new(n.into(), d.into())
}

#[rstest]
#[case("2 + 3*4", 14.0)]
#[case("(2 + 3)*4", 20.0)]
#[case("2^3^2", 512.0)]
#[case("-2^2", -4.0)]
#[case("7/2/2", 1.75)]
#[case("15%", 0.15)]
#[case("90°", std::f64::consts::FRAC_PI_2)]
#[case("5!", 120.0)]
#[case("0!", 1.0)]
#[case("1.5e3", 1500.0)]
#[case("sqrt(2)", std::f64::consts::SQRT_2)]
#[case("cbrt(-27)", -3.0)]
#[case("root(3, 8)", 2.0)]
#[case("(-8)^(1/3)", -2.0)]
#[case("4^(-1/2)", 0.5)]
#[case("e", std::f64::consts::E)]
#[case("pi", std::f64::consts::PI)]
#[case("e^(ln(7))", 7.0)]
#[case("ln(e^3)", 3.0)]
#[case("log(1000)", 3.0)]
#[case("log_2(32)", 5.0)]
#[case("sin(pi/6)", 0.5)]
#[case("cos(pi)", -1.0)]
#[case("tan(pi/4)", 1.0)]
#[case("sec(0)", 1.0)]
#[case("csc(pi/2)", 1.0)]
#[case("cot(pi/4)", 1.0)]
#[case("arcsin(1)", std::f64::consts::FRAC_PI_2)]
#[case("arccos(-1)", std::f64::consts::PI)]
#[case("arctan(1)", std::f64::consts::FRAC_PI_4)]
#[case("sinh(0)", 0.0)]
#[case("cosh(0)", 1.0)]
#[case("tanh(ln(2))", 0.6)]
#[case("|-3.5|", 3.5)]
#[case("min(3, 1, 2)", 1.0)]
#[case("max(3, 1, 2)", 3.0)]
#[case("floor(-2.5)", -3.0)]
#[case("ceil(-2.5)", -2.0)]
fn constants_have_their_values(#[case] text: &str, #[case] wanted: f64) {
    let found = approximate(&tree(text)).unwrap_or_else(|e| panic!("{text}: {e:?}"));
    assert!(
        (found - wanted).abs() <= 1e-14 * wanted.abs().max(1.0),
        "{text} = {found}"
    );
    let quick = approximate_fast(&tree(text)).unwrap();
    assert!(
        (quick - wanted).abs() <= 1e-12 * wanted.abs().max(1.0),
        "{text}, quickly: {quick}"
    );
}

#[rstest]
#[case("1/0")]
#[case("0/0")]
#[case("1/(2-2)")]
#[case("sqrt(-1)")]
#[case("ln(0)")]
#[case("ln(-2)")]
#[case("log(-5)")]
#[case("arcsin(2)")]
#[case("arccos(-1.5)")]
#[case("(-1)^(1/2)")]
#[case("0^(-1)")]
#[case("(-2)!")]
#[case("2.5!")]
#[case("1 + 1/0")]
#[case("0*ln(-1)")]
#[case("max(1, sqrt(-2))")]
fn what_has_no_value_says_so(#[case] text: &str) {
    assert_eq!(approximate(&tree(text)), Err(Undefined::NoValue), "{text}");
    assert_eq!(approximate_fast(&tree(text)), None, "{text}");
}

#[rstest]
#[case::a_zero_that_only_identities_show("1/(sqrt(2)sqrt(3) - sqrt(6))")]
#[case::a_negative_base("(-2)^pi")]
#[case::out_of_range("e^(e^(e^10))")]
#[case::too_large_to_write_out("9^(9^(9^9))")]
fn what_cannot_be_told_is_not_claimed(#[case] text: &str) {
    assert_eq!(approximate(&tree(text)), Err(Undefined::Unknown), "{text}");
}

#[test]
fn a_mixed_number_is_its_sum() {
    let mixed = |w: i64, n: i64, d: i64| approximate(&Expr::Mixed(w.into(), n.into(), d.into()));
    assert_eq!(mixed(2, 1, 4), Ok(2.25));
    assert_eq!(mixed(0, 3, 2), Ok(1.5));
    assert_eq!(mixed(2, 1, 0), Err(Undefined::NoValue));
}

#[test]
fn more_digits_narrow_the_value() {
    let tree = tree("sin(1)^2 + e^(-pi)");
    let mut last = i64::MAX;
    for precision in [64, 128, 256, 512, 1024] {
        let ball = evaluate_precisely(&tree, precision).unwrap();
        assert!(
            ball.width_log2 < last,
            "{precision} bits: width 2^{}",
            ball.width_log2
        );
        assert!(ball.width_log2 < 24 - i64::try_from(precision).unwrap());
        assert!((ball.middle - 0.751_287_335_6).abs() < 1e-9);
        last = ball.width_log2;
    }
}

#[test]
fn a_root_of_what_may_be_negative_is_bounded_and_in_doubt() {
    let point = Point::new();
    let mut evaluator = Evaluator::<f64>::new(&point, &no_whole, 53);
    // √2·√3 − √6 is zero, which no number of digits shows.
    let found = evaluator
        .interval(&tree("sqrt(sqrt(2)sqrt(3) - sqrt(6))"))
        .unwrap();
    assert!(evaluator.is_in_doubt());
    assert!(found.lo >= 0.0 && found.hi < 1e-6, "{} to {}", found.lo, found.hi);
    evaluator.interval(&tree("sqrt(2)")).unwrap();
    assert!(!evaluator.is_in_doubt(), "doubt is of one value, not of the next");
}

#[test]
fn a_negative_base_has_whole_powers_only() {
    let whole = |name: &str| name == "n";
    let point = Point::from([(Arc::from("n"), ratio(3, 1))]);
    let mut evaluator = Evaluator::<f64>::new(&point, &whole, 53);
    let found = evaluator.interval(&tree("(-2)^n")).unwrap();
    assert!(found.lo <= -8.0 && found.hi >= -8.0);
    let between = Point::from([(Arc::from("x"), ratio(5, 2))]);
    let mut evaluator = Evaluator::<f64>::new(&between, &no_whole, 53);
    assert!(matches!(
        evaluator.interval(&tree("(-2)^x")),
        Err(Undefined::NoValue)
    ));
}

#[test]
fn what_does_not_occur_at_the_point_has_no_value_that_could_be_told() {
    let point = Point::new();
    let mut evaluator = Evaluator::<f64>::new(&point, &no_whole, 53);
    assert!(evaluator.interval(&tree("x + 1")).is_err());
}

#[test]
fn factorials_are_exact_up_to_their_bound_and_refused_beyond() {
    let mut product = BigInt::one();
    for n in 1..=30u32 {
        product *= n;
        let difference = tree(&format!("{n}! - {product}"));
        assert_eq!(approximate(&difference), Ok(0.0), "{n}!");
    }
    assert!(approximate(&tree(&format!("{}!", MAX_FACTORIAL + 1))).is_err());
}

/// Both sides where both have values; each pair is the same wherever it has one.
const IDENTITIES: &[(&str, &str)] = &[
    ("sin(x)^2 + cos(x)^2", "1"),
    ("tan(x)", "sin(x)/cos(x)"),
    ("sec(x)cos(x)", "1"),
    ("csc(x)sin(x)", "1"),
    ("cot(x)tan(x)", "1"),
    ("sin(2x)", "2sin(x)cos(x)"),
    ("cosh(x)^2 - sinh(x)^2", "1"),
    ("tanh(x)", "sinh(x)/cosh(x)"),
    ("e^x e^(-x)", "1"),
    ("ln(x^2)", "2ln|x|"),
    ("sqrt(x^2)", "|x|"),
    ("cbrt(x)^3", "x"),
    ("arcsin(x) + arccos(x)", "pi/2"),
    ("tan(arctan(x))", "x"),
    ("max(x, -x)", "|x|"),
    ("min(x, -x)", "-|x|"),
    ("floor(x) + 1", "floor(x + 1)"),
    ("ceil(x)", "-floor(-x)"),
    ("x^3/x^5", "x^(-2)"),
    ("2^x*3^x", "6^x"),
    ("log(x)", "ln(x)/ln(10)"),
    ("|x|/x", "x/|x|"),
    ("1/(1/x)", "x"),
    ("(x^(1/3))^3", "x"),
];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(150))]

    #[test]
    fn identities_hold_wherever_both_sides_have_values(n in -4_000i64..4_000, d in 1i64..500) {
        let x = ratio(n, d * 3 + 1);
        let mut told = 0;
        for (left, right) in IDENTITIES {
            if let (Ok(a), Ok(b)) = (at(left, &x), at(right, &x)) {
                prop_assert!(a.0 <= b.1 && b.0 <= a.1, "{} in {:?} but {} in {:?} at {}", left, a, right, b, x);
                told += usize::from(a.1 - a.0 < 1e-3 && b.1 - b.0 < 1e-3);
            }
        }
        // Enclosures as wide as the world would agree to anything.
        prop_assert!(told >= 8, "only {} pairs have narrow values at {}", told, x);
    }

    #[test]
    fn a_fast_value_and_a_long_one_agree(n in -900i64..900, d in 1i64..90) {
        let x = ratio(n, d);
        for text in ["x^5 - 3x + 1/7", "e^(x/10) + arctan(x)", "sin(3x) - x/2", "sqrt(x^2 + 1)", "ln(x^2 + 2)"] {
            let (low, high) = at(text, &x).unwrap();
            let quick = f64::midpoint(low, high);
            let point = Point::from([(Arc::from("x"), x.clone())]);
            let mut long = Evaluator::<astro_float::BigFloat>::new(&point, &no_whole, 256);
            let found = long.interval(&tree(text)).unwrap();
            let exact = show::to_f64(&found.lo).unwrap();
            prop_assert!((quick - exact).abs() <= 1e-9 * exact.abs().max(1.0), "{} at {}: {} and {}", text, x, quick, exact);
        }
    }
}
