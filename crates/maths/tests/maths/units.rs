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

/// Every unit that a question may ask for, in SI (BIPM, 9th edition; the foot, pound and nautical mile by definition).
#[rstest]
#[case("nm", "m", 1e-9)]
#[case("µm", "m", 1e-6)]
#[case("um", "m", 1e-6)]
#[case("cm", "m", 1e-2)]
#[case("dm", "m", 1e-1)]
#[case("mi", "m", 1609.344)]
#[case("nmi", "m", 1852.0)]
#[case("ft", "m", 0.3048)]
#[case("in", "m", 0.0254)]
#[case("yd", "m", 0.9144)]
#[case("mg", "kg", 1e-6)]
#[case("µg", "kg", 1e-9)]
#[case("g", "kg", 1e-3)]
#[case("Mg", "t", 1.0)]
#[case("lb", "kg", 0.453_592_37)]
#[case("ms", "s", 1e-3)]
#[case("min", "s", 60.0)]
#[case("h", "s", 3600.0)]
#[case("d", "h", 24.0)]
#[case("kN", "N", 1e3)]
#[case("MN", "N", 1e6)]
#[case("kJ", "J", 1e3)]
#[case("GJ", "J", 1e9)]
#[case("kWh", "J", 3.6e6)]
#[case("Wh", "J", 3600.0)]
#[case("MW", "W", 1e6)]
#[case("hPa", "Pa", 100.0)]
#[case("kPa", "Pa", 1e3)]
#[case("bar", "Pa", 1e5)]
#[case("mbar", "hPa", 1.0)]
#[case("mV", "V", 1e-3)]
#[case("kV", "V", 1e3)]
#[case("µA", "A", 1e-6)]
#[case("MΩ", "Ω", 1e6)]
#[case("kohm", "Ω", 1e3)]
#[case("mC", "C", 1e-3)]
#[case("kHz", "Hz", 1e3)]
#[case("MHz", "1/s", 1e6)]
#[case("mL", "cm^3", 1.0)]
#[case("cl", "L", 0.01)]
#[case("ha", "m^2", 1e4)]
#[case("knot", "km/h", 1.852)]
#[case("mph", "m/s", 0.447_04)]
#[case("kph", "km/h", 1.0)]
#[case("deg", "rad", std::f64::consts::PI / 180.0)]
#[case("rev", "rad", std::f64::consts::TAU)]
#[case("mrad", "rad", 1e-3)]
#[case("%", "%", 1.0)]
fn every_unit_in_si(#[case] a: &str, #[case] b: &str, #[case] expected: f64) {
    if b == "1/s" {
        assert_eq!(unit(a).dimension, unit("Hz").dimension);
        assert!((ratio(a, "Hz") / expected - 1.0).abs() < 1e-12);
        return;
    }
    let found = ratio(a, b);
    assert!((found / expected - 1.0).abs() < 1e-12, "{a} = {found} {b}");
}

#[rstest]
#[case("metres", "m")]
#[case("kilometres", "km")]
#[case("millimeters", "mm")]
#[case("seconds", "s")]
#[case("hours", "h")]
#[case("hrs", "h")]
#[case("days", "d")]
#[case("kilograms", "kg")]
#[case("tonnes", "t")]
#[case("newtons", "N")]
#[case("kilojoules", "kJ")]
#[case("megawatts", "MW")]
#[case("volts", "V")]
#[case("amps", "A")]
#[case("ohms", "Ω")]
#[case("litres", "L")]
#[case("degrees", "°")]
#[case("percent", "%")]
#[case("per cent", "%")]
#[case("feet", "ft")]
#[case("inches", "in")]
#[case("miles", "mi")]
#[case("knots", "kn")]
fn long_names_and_plurals(#[case] long: &str, #[case] short: &str) {
    let (a, b) = (unit(long), unit(short));
    assert_eq!(
        (a.dimension, a.factor, a.pi_power),
        (b.dimension, b.factor, b.pi_power)
    );
    assert_eq!(a.other_case, None);
}

#[rstest]
#[case("KM", "km")]
#[case("Kg", "kg")]
#[case("KG", "kg")]
#[case("CM", "cm")]
#[case("KN", "kN")]
#[case("KPA", "kPa")]
#[case("HZ", "Hz")]
#[case("KWH", "kWh")]
#[case("KJ", "kJ")]
#[case("KW", "kW")]
#[case("KV", "kV")]
#[case("KPa", "kPa")]
fn another_case_is_read_with_a_caution(#[case] typed: &str, #[case] read: &str) {
    let found = unit(typed);
    assert_eq!(found.factor, unit(read).factor);
    assert_eq!(found.other_case, Some((typed.to_owned(), read.to_owned())));
}

#[rstest]
#[case::milli_or_mega("MPA")]
#[case::nothing("xyz")]
#[case::two_words("metre stick")]
fn what_two_units_could_be_meant_by_is_not_guessed(#[case] typed: &str) {
    if let Ok(found) = read_unit(typed) {
        // Where it is read, it is one unit only, and says how.
        assert!(found.other_case.is_some(), "{typed}: {found:?}");
    }
}

#[test]
fn a_temperature_alone_has_an_offset_and_a_difference_has_none() {
    assert_eq!(unit("°C").offset.and_then(|o| o.to_f64()), Some(273.15));
    assert_eq!(unit("celsius").offset.and_then(|o| o.to_f64()), Some(273.15));
    assert_eq!(unit("K").offset, None);
    assert_eq!(unit("J/(kg °C)").offset, None, "per degree is a difference");
    assert_eq!(unit("J/(kg °C)").dimension, unit("J/(kg K)").dimension);
}

#[test]
fn revolutions_are_turns_beside_hertz_and_angles_beside_radians() {
    let rpm = unit("rpm");
    let beside_hertz = rpm.beside(&unit("Hz")).unwrap();
    assert_eq!(beside_hertz.factor, BigRational::new(1.into(), 60.into()));
    let beside_radians = rpm.beside(&unit("rad/s")).unwrap();
    assert_eq!(
        (beside_radians.factor, beside_radians.pi_power),
        (BigRational::new(1.into(), 30.into()), 1)
    );
    assert_eq!(
        unit("Hz").beside(&unit("rad/s")),
        None,
        "Hz and rad/s are not the same"
    );
    assert_eq!(rpm.beside(&unit("m")), None);
}

#[rstest]
#[case("m^0", UnitError::Broken)]
#[case("m^12", UnitError::Broken)]
#[case("m^(2", UnitError::Broken)]
#[case("/s", UnitError::Broken)]
#[case("m/", UnitError::Broken)]
#[case("m *", UnitError::Broken)]
#[case("(m/s)^2", UnitError::Broken)]
#[case("5 m", UnitError::Broken)]
#[case("kkg", UnitError::Unknown)]
#[case("megametre", UnitError::Unknown)]
fn what_is_out_of_place_in_a_unit_says_so(#[case] text: &str, #[case] error: UnitError) {
    assert_eq!(read_unit(text), Err(error));
}

#[test]
fn a_unit_longer_than_anybody_writes_is_broken_not_slow() {
    assert_eq!(read_unit(&"m ".repeat(40)), Err(UnitError::Broken));
    assert_eq!(read_unit(&"(".repeat(59)), Err(UnitError::Broken));
}
