//! Units: by dimension and exact factor, as people type them.

use maths::{Unit, UnitError, read_unit};
use num_rational::BigRational;
use num_traits::ToPrimitive;
use proptest::prelude::*;
use rstest::rstest;

fn unit(text: &str) -> Unit {
    read_unit(text).unwrap_or_else(|e| panic!("{text}: {e:?}"))
}

/// How many of the second unit one of the first is.
fn ratio(a: &str, b: &str) -> f64 {
    let (a, b) = (unit(a), unit(b));
    assert_eq!(a.dimension, b.dimension);
    let factor: BigRational = a.factor / b.factor;
    factor.to_f64().unwrap() * std::f64::consts::PI.powi(a.pi_power - b.pi_power)
}

#[rstest]
#[case("km", "m", 1000.0)]
#[case("mm", "m", 0.001)]
#[case("km/h", "m/s", 1.0 / 3.6)]
#[case("kW h", "J", 3.6e6)]
#[case("kN m", "N m", 1000.0)]
#[case("MPa", "N/mm^2", 1.0)]
#[case("L", "m^3", 0.001)]
#[case("t", "kg", 1000.0)]
#[case("h", "min", 60.0)]
#[case("cm^2", "m^2", 1e-4)]
#[case("g/cm^3", "kg/m^3", 1000.0)]
#[case("mA", "A", 0.001)]
#[case("kΩ", "Ω", 1000.0)]
#[case("V A", "W", 1.0)]
#[case("N", "kg m/s^2", 1.0)]
#[case("W", "J/s", 1.0)]
fn units_of_one_kind_convert_exactly(#[case] a: &str, #[case] b: &str, #[case] expected: f64) {
    let found = ratio(a, b);
    assert!((found / expected - 1.0).abs() < 1e-12, "{a} = {found} {b}");
}

#[rstest]
#[case("m/s", "m s^-1")]
#[case("m/s", "m s⁻¹")]
#[case("N m", "N·m")]
#[case("N m", "N*m")]
#[case("m^2", "m²")]
#[case("kg/(m s)", "kg/m/s")]
#[case("km/h", "km per hour")]
fn one_unit_is_typed_in_many_ways(#[case] a: &str, #[case] b: &str) {
    let (a, b) = (unit(a), unit(b));
    assert_eq!(
        (a.dimension, a.factor, a.pi_power),
        (b.dimension, b.factor, b.pi_power)
    );
}

#[rstest]
#[case("m", "s")]
#[case("m", "m^2")]
#[case("N", "N m")]
#[case("kg", "N")]
#[case("W", "W h")]
fn units_of_other_kinds_have_another_dimension(#[case] a: &str, #[case] b: &str) {
    assert_ne!(unit(a).dimension, unit(b).dimension);
    assert_eq!(unit(a).beside(&unit(b)), None);
}

#[rstest]
#[case("blorg", UnitError::Unknown)]
#[case("", UnitError::Broken)]
#[case("m//s", UnitError::Broken)]
#[case("m^", UnitError::Broken)]
#[case("(m", UnitError::Broken)]
#[case("m)", UnitError::Broken)]
fn what_is_no_unit_says_so(#[case] text: &str, #[case] error: UnitError) {
    assert_eq!(read_unit(text), Err(error));
}

#[test]
fn another_case_is_read_and_named_where_only_one_unit_is_meant() {
    let read = unit("KM");
    assert_eq!(read.dimension, unit("km").dimension);
    assert_eq!(read.other_case, Some(("KM".into(), "km".into())));
    assert_eq!(unit("km").other_case, None);
}

#[test]
fn degrees_celsius_alone_have_an_offset_and_in_a_product_have_none() {
    let alone = unit("°C").offset.and_then(|o| o.to_f64());
    assert_eq!(alone, Some(273.15));
    assert_eq!(unit("W/°C").offset, None);
}

#[test]
fn turns_a_minute_stand_beside_hertz_and_beside_radians_a_second() {
    let turns = unit("rpm");
    let hertz = turns.beside(&unit("Hz")).unwrap();
    assert_eq!(hertz.factor, BigRational::new(1.into(), 60.into()));
    let radians = turns.beside(&unit("rad/s")).unwrap();
    assert_eq!(radians.pi_power, 1);
    assert_eq!(radians.factor, BigRational::new(1.into(), 30.into()));
}

proptest! {
    #[test]
    fn no_text_makes_the_reader_of_units_panic(text in "\\PC{0,80}") {
        let _ = read_unit(&text);
    }

    #[test]
    fn a_product_has_the_product_of_the_factors(a in prop::sample::select(vec!["m", "km", "s", "h", "kg", "N", "W", "mm"]), b in prop::sample::select(vec!["m", "km", "s", "h", "kg", "N", "W", "mm"])) {
        let product = unit(&format!("{a} {b}"));
        prop_assert_eq!(product.factor, unit(a).factor * unit(b).factor);
        let quotient = unit(&format!("{a}/{b}"));
        prop_assert_eq!(quotient.factor, unit(a).factor / unit(b).factor);
    }
}
