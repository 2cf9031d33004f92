//! An enclosure must hold the value, whichever way it was worked out: each of these is held against another way.

use std::cmp::Ordering;

use astro_float::BigFloat;
use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::Signed;
use proptest::prelude::*;
use rstest::rstest;

use super::*;

type Fast = Interval<f64>;
type Long = Interval<BigFloat>;

fn ratio(n: i64, d: i64) -> BigRational {
    BigRational::new(n.into(), d.into())
}

fn holds<S: End>(enclosure: &Interval<S>, value: &BigRational, cx: &Context) -> bool {
    let (low, high) = (
        S::from_rational(value, false, cx),
        S::from_rational(value, true, cx),
    );
    enclosure.lo.order(&high) != Ordering::Greater && enclosure.hi.order(&low) != Ordering::Less
}

/// The ends of a long enclosure between those of a fast one, both of the same value.
fn meet(fast: &Fast, long: &Long) -> bool {
    let (low, high) = (BigFloat::from_f64(fast.lo, 64), BigFloat::from_f64(fast.hi, 64));
    long.hi.order(&low) != Ordering::Less && long.lo.order(&high) != Ordering::Greater
}

fn fast() -> Context {
    Context::new(53)
}

fn long() -> Context {
    Context::new(256)
}

#[rstest]
#[case(1, 3)]
#[case(-1, 3)]
#[case(2, 7)]
#[case(1, 1)]
#[case(0, 1)]
#[case(-5, 1)]
#[case(1, 1_000_000_007)]
#[case(i64::MAX, 3)]
#[case(i64::MIN + 1, 7)]
#[case(9_007_199_254_740_993, 1)]
fn a_rational_is_enclosed_by_both_kinds(#[case] n: i64, #[case] d: i64) {
    let value = ratio(n, d);
    let (f, l) = (fast(), long());
    assert!(holds(&Fast::rational(&value, &f), &value, &f));
    assert!(holds(&Long::rational(&value, &l), &value, &l));
    assert!(meet(&Fast::rational(&value, &f), &Long::rational(&value, &l)));
}

#[test]
fn what_underflows_is_still_enclosed() {
    let tiny = BigRational::new(1.into(), num_traits::pow(BigInt::from(10), 400));
    let f = fast();
    let there = Fast::rational(&tiny, &f);
    assert!(there.lo <= 0.0 && there.hi > 0.0, "{} to {}", there.lo, there.hi);
    assert_eq!(there.sign(&f), None, "its sign can't be told from a double");
    let l = long();
    assert_eq!(Long::rational(&tiny, &l).sign(&l), Some(Ordering::Greater));
}

#[test]
fn what_overflows_is_not_usable() {
    let f = fast();
    let huge = Fast { lo: 1e200, hi: 1e200 };
    assert!(huge.mul(&huge, &f).usable().is_none());
    assert!(huge.usable().is_some());
    let mut l = long();
    let far = Long::whole(1 << 40, &l);
    assert!(
        far.exp(&mut l).usable().is_none(),
        "e to the power of 10^12 is out of range"
    );
}

#[rstest]
#[case(-2.0, -1.0, Some(Ordering::Less))]
#[case(1.0, 2.0, Some(Ordering::Greater))]
#[case(0.0, 0.0, Some(Ordering::Equal))]
#[case(-1.0, 1.0, None)]
#[case(0.0, 1.0, None)]
#[case(-1.0, 0.0, None)]
fn a_sign_is_only_said_when_it_is_sure(#[case] lo: f64, #[case] hi: f64, #[case] wanted: Option<Ordering>) {
    let f = fast();
    let there = Fast { lo, hi };
    assert_eq!(there.sign(&f), wanted);
    assert_eq!(there.neg().sign(&f), wanted.map(Ordering::reverse));
}

#[rstest]
#[case(-3.0, -2.0, 2.0, 3.0)]
#[case(-3.0, 2.0, 0.0, 3.0)]
#[case(-2.0, 3.0, 0.0, 3.0)]
#[case(2.0, 3.0, 2.0, 3.0)]
fn the_absolute_value_of_an_enclosure(#[case] lo: f64, #[case] hi: f64, #[case] low: f64, #[case] high: f64) {
    let found = Fast { lo, hi }.abs(&fast());
    assert_eq!((found.lo, found.hi), (low, high));
}

#[test]
fn floors_are_told_apart_only_where_both_ends_agree() {
    let within = |lo, hi| Fast { lo, hi };
    assert_eq!(within(2.1, 2.9).floor(), Some(2.into()));
    assert_eq!(within(-2.9, -2.1).floor(), Some((-3).into()));
    assert_eq!(within(1.9, 2.1).floor(), None);
    assert_eq!(
        within(1e16, 1e16).floor(),
        None,
        "past the whole numbers a double keeps"
    );
    let l = long();
    let third = Long::rational(&ratio(-7, 3), &l);
    assert_eq!(third.floor(), Some((-3).into()));
    let large = Long::rational(&ratio(10_000_000_001, 10), &l);
    assert_eq!(large.floor(), Some(1_000_000_000.into()));
}

#[test]
fn whole_numbers_in_an_enclosure() {
    let f = fast();
    let there = Fast { lo: 1.5, hi: 4.0 };
    assert!(there.holds(&2.into(), &f) && there.holds(&4.into(), &f));
    assert!(!there.holds(&1.into(), &f) && !there.holds(&5.into(), &f));
    assert!(Fast { lo: 2.0, hi: 3.0 }.starts_at(&2.into(), &f));
    assert!(there.starts_at(&2.into(), &f) && !there.starts_at(&1.into(), &f));
}

#[test]
fn a_wave_reaches_its_crests_inside() {
    let (mut f, mut l) = (fast(), long());
    // From 1 to 2 the sine passes its crest at π/2, the cosine does not.
    let sine = Fast { lo: 1.0, hi: 2.0 }.wave(false, &mut f);
    assert!(sine.hi >= 1.0 && sine.lo <= 0.841_470_984_9);
    let cosine = Fast { lo: 1.0, hi: 1.01 }.wave(true, &mut f);
    assert!(
        cosine.hi < 0.56 && cosine.lo > 0.5,
        "{} to {}",
        cosine.lo,
        cosine.hi
    );
    // Over a whole turn both take every value.
    let turn = Long {
        lo: BigFloat::from_i8(0, 256),
        hi: BigFloat::from_i8(7, 256),
    };
    for cosine in [false, true] {
        let found = turn.wave(cosine, &mut l);
        assert!(holds(&found, &ratio(1, 1), &l) && holds(&found, &ratio(-1, 1), &l));
        assert!(!holds(&found, &ratio(2, 1), &l));
    }
}

#[test]
fn pi_is_between_its_fractions() {
    let mut l = long();
    let pi = Long::pi(&mut l);
    assert!(!holds(&pi, &ratio(355, 113), &l) && !holds(&pi, &ratio(103_993, 33_102), &l));
    assert!(pi.width_log2(&l) < -230);
    assert!(meet(&Fast::pi(&mut fast()), &pi));
}

fn rational() -> impl Strategy<Value = BigRational> {
    let sizes = prop_oneof![Just(1i64), Just(1_000), Just(1_000_000_000)];
    (any::<i32>(), 1..=10_000i64, sizes).prop_map(|(n, d, by)| ratio(i64::from(n), d * by))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn arithmetic_holds_the_exact_value(a in rational(), b in rational()) {
        let (f, l) = (fast(), long());
        let (fa, fb) = (Fast::rational(&a, &f), Fast::rational(&b, &f));
        let (la, lb) = (Long::rational(&a, &l), Long::rational(&b, &l));
        prop_assert!(holds(&fa.add(&fb, &f), &(&a + &b), &f) && holds(&la.add(&lb, &l), &(&a + &b), &l));
        prop_assert!(holds(&fa.sub(&fb, &f), &(&a - &b), &f) && holds(&la.sub(&lb, &l), &(&a - &b), &l));
        prop_assert!(holds(&fa.mul(&fb, &f), &(&a * &b), &f) && holds(&la.mul(&lb, &l), &(&a * &b), &l));
        if b != ratio(0, 1) {
            prop_assert!(holds(&fa.div(&fb, &f), &(&a / &b), &f) && holds(&la.div(&lb, &l), &(&a / &b), &l));
        }
        prop_assert!(holds(&fa.min(&fb), &a.clone().min(b.clone()), &f));
        prop_assert!(holds(&fa.max(&fb), &a.max(b), &f));
    }

    #[test]
    fn a_root_squared_holds_what_it_is_the_root_of(a in rational()) {
        let (a, f, l) = (a.abs(), fast(), long());
        let root = Fast::rational(&a, &f).sqrt(&f);
        prop_assert!(holds(&root.mul(&root, &f), &a, &f));
        let root = Long::rational(&a, &l).sqrt(&l);
        prop_assert!(holds(&root.mul(&root, &l), &a, &l));
    }

    #[test]
    fn functions_meet_at_both_precisions(n in -40_000i64..40_000, d in 1i64..999) {
        let x = ratio(n, d);
        let (mut f, mut l) = (fast(), long());
        let (fx, lx) = (Fast::rational(&x, &f), Long::rational(&x, &l));
        prop_assert!(meet(&fx.atan(&mut f), &lx.atan(&mut l)));
        prop_assert!(meet(&fx.wave(false, &mut f), &lx.wave(false, &mut l)));
        prop_assert!(meet(&fx.wave(true, &mut f), &lx.wave(true, &mut l)));
        if n > 0 {
            prop_assert!(meet(&fx.ln(&mut f), &lx.ln(&mut l)));
        }
        if n.abs() < 600 * d {
            prop_assert!(meet(&fx.exp(&mut f), &lx.exp(&mut l)));
        }
    }

    #[test]
    fn the_logarithm_undoes_the_power(n in -300_000i64..300_000) {
        let (x, mut l) = (ratio(n, 1000), long());
        let back = Long::rational(&x, &l).exp(&mut l).ln(&mut l);
        prop_assert!(holds(&back, &x, &l));
        prop_assert!(back.width_log2(&l) < -200, "and stays narrow");
    }

    #[test]
    fn sine_and_cosine_lie_on_the_circle(n in any::<i32>(), d in 1i64..1000) {
        let (x, mut l) = (ratio(n.into(), d), long());
        let x = Long::rational(&x, &l);
        let (s, c) = (x.wave(false, &mut l), x.wave(true, &mut l));
        let one = s.mul(&s, &l).add(&c.mul(&c, &l), &l);
        prop_assert!(holds(&one, &ratio(1, 1), &l));
        prop_assert!(one.width_log2(&l) < -150);
    }
}
