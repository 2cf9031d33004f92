//! Units of measurement, by dimension and exact factor (BIPM, *The International System of Units*, 9th edition; the
//! foot, pound and nautical mile by their exact international definitions).

use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::One;

/// Powers of length, mass, time, current, temperature and angle. Angle is kept apart, so that rad/s is not Hz.
pub type Dimension = [i32; 6];

/// A unit: `factor · π^pi_power` of the SI unit of its dimension; °C alone also has an offset.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Unit {
    pub dimension: Dimension,
    pub factor: BigRational,
    pub pi_power: i32,
    /// Kelvin at nought, for a temperature that stands alone.
    pub offset: Option<BigRational>,
    /// How often revolutions per minute are in it: they are turns beside Hz and 2π rad beside rad/s.
    revolutions: i32,
    /// The unit as it is shown.
    pub shown: String,
    /// Set if it was typed in another case: typed, read.
    pub other_case: Option<(String, String)>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum UnitError {
    Unknown,
    Broken,
}

struct Known {
    name: String,
    dimension: Dimension,
    factor: BigRational,
    pi_power: i32,
    special: Special,
}

#[derive(Clone, Copy, PartialEq, Eq)]
enum Special {
    None,
    Celsius,
    Revolution,
}

const LENGTH: Dimension = [1, 0, 0, 0, 0, 0];
const MASS: Dimension = [0, 1, 0, 0, 0, 0];
const TIME: Dimension = [0, 0, 1, 0, 0, 0];
const FORCE: Dimension = [1, 1, -2, 0, 0, 0];
const ENERGY: Dimension = [2, 1, -2, 0, 0, 0];
const POWER: Dimension = [2, 1, -3, 0, 0, 0];
const PRESSURE: Dimension = [-1, 1, -2, 0, 0, 0];
const VOLTAGE: Dimension = [2, 1, -3, -1, 0, 0];
const CURRENT: Dimension = [0, 0, 0, 1, 0, 0];
const RESISTANCE: Dimension = [2, 1, -3, -2, 0, 0];
const CHARGE: Dimension = [0, 0, 1, 1, 0, 0];
const FREQUENCY: Dimension = [0, 0, -1, 0, 0, 0];
const TEMPERATURE: Dimension = [0, 0, 0, 0, 1, 0];
const ANGLE: Dimension = [0, 0, 0, 0, 0, 1];
const VOLUME: Dimension = [3, 0, 0, 0, 0, 0];
const SPEED: Dimension = [1, 0, -1, 0, 0, 0];

/// Short names, long names, the prefixes they take, dimension, and the factor as a fraction.
type Prefixed = (
    &'static [&'static str],
    &'static [&'static str],
    &'static str,
    Dimension,
    (i64, i64),
);

const PREFIXED: &[Prefixed] = &[
    (&["m"], &["metre", "meter"], "nµmcdk", LENGTH, (1, 1)),
    (&["g"], &["gram", "gramme"], "µmkM", MASS, (1, 1000)),
    (&["s"], &["second"], "nµm", TIME, (1, 1)),
    (&["N"], &["newton"], "mkM", FORCE, (1, 1)),
    (&["J"], &["joule"], "mkMG", ENERGY, (1, 1)),
    (&["W"], &["watt"], "mkMG", POWER, (1, 1)),
    (&["Wh"], &["watthour"], "kMG", ENERGY, (3600, 1)),
    (&["Pa"], &["pascal"], "hkMG", PRESSURE, (1, 1)),
    (&["bar"], &[], "m", PRESSURE, (100_000, 1)),
    (&["V"], &["volt"], "µmk", VOLTAGE, (1, 1)),
    (&["A"], &["ampere", "amp"], "µmk", CURRENT, (1, 1)),
    (&["ohm", "Ω", "\u{2126}"], &[], "mkM", RESISTANCE, (1, 1)),
    (&["C"], &["coulomb"], "µm", CHARGE, (1, 1)),
    (&["Hz"], &["hertz"], "mkMG", FREQUENCY, (1, 1)),
    (&["L", "l"], &["litre", "liter"], "mcdk", VOLUME, (1, 1000)),
    (&["K"], &["kelvin"], "m", TEMPERATURE, (1, 1)),
    (&["rad"], &["radian"], "m", ANGLE, (1, 1)),
];

/// Names without prefixes, and their plurals.
const PLAIN: &[(&[&str], Dimension, (i64, i64))] = &[
    (&["mi", "mile", "miles"], LENGTH, (1_609_344, 1000)),
    (&["nmi"], LENGTH, (1852, 1)),
    (&["ft", "foot", "feet"], LENGTH, (3048, 10_000)),
    (&["in", "inch", "inches"], LENGTH, (254, 10_000)),
    (&["yd", "yard", "yards"], LENGTH, (9144, 10_000)),
    (&["t", "tonne", "tonnes"], MASS, (1000, 1)),
    (&["lb", "lbs", "pound", "pounds"], MASS, (45_359_237, 100_000_000)),
    (&["sec", "secs"], TIME, (1, 1)),
    (&["min", "mins", "minute", "minutes"], TIME, (60, 1)),
    (&["h", "hr", "hrs", "hour", "hours"], TIME, (3600, 1)),
    (&["d", "day", "days"], TIME, (86_400, 1)),
    (&["knot", "knots", "kn", "kt"], SPEED, (1852, 3600)),
    (&["kph", "kmh"], SPEED, (1000, 3600)),
    (&["mph"], SPEED, (1_609_344, 3_600_000)),
    (&["ha", "hectare", "hectares"], [2, 0, 0, 0, 0, 0], (10_000, 1)),
    (&["ohms"], RESISTANCE, (1, 1)),
    (&["rads"], ANGLE, (1, 1)),
    (&["atm"], PRESSURE, (101_325, 1)),
    (&["bars"], PRESSURE, (100_000, 1)),
];

const PREFIXES: &[(char, &str, i32)] = &[
    ('n', "nano", -9),
    ('µ', "micro", -6),
    ('m', "milli", -3),
    ('c', "centi", -2),
    ('d', "deci", -1),
    ('h', "hecto", 2),
    ('k', "kilo", 3),
    ('M', "mega", 6),
    ('G', "giga", 9),
];

fn fraction(n: i64, d: i64) -> BigRational {
    BigRational::new(n.into(), d.into())
}

fn ten(power: i32) -> BigRational {
    BigRational::from(BigInt::from(10)).pow(power)
}

fn table() -> &'static [Known] {
    static TABLE: std::sync::OnceLock<Vec<Known>> = std::sync::OnceLock::new();
    TABLE.get_or_init(build)
}

fn build() -> Vec<Known> {
    let mut all = Vec::new();
    let mut add =
        |name: String, dimension: Dimension, factor: BigRational, pi_power: i32, special: Special| {
            all.push(Known {
                name,
                dimension,
                factor,
                pi_power,
                special,
            });
        };
    for (short, long, prefixes, dimension, (n, d)) in PREFIXED {
        let base = fraction(*n, *d);
        for name in *short {
            add((*name).into(), *dimension, base.clone(), 0, Special::None);
        }
        for name in *long {
            add((*name).into(), *dimension, base.clone(), 0, Special::None);
            add(format!("{name}s"), *dimension, base.clone(), 0, Special::None);
        }
        for (sign, word, power) in PREFIXES.iter().filter(|(sign, _, _)| prefixes.contains(*sign)) {
            let factor = &base * ten(*power);
            for name in *short {
                add(
                    format!("{sign}{name}"),
                    *dimension,
                    factor.clone(),
                    0,
                    Special::None,
                );
                if *sign == 'µ' {
                    add(format!("μ{name}"), *dimension, factor.clone(), 0, Special::None);
                    add(format!("u{name}"), *dimension, factor.clone(), 0, Special::None);
                }
            }
            for name in *long {
                add(
                    format!("{word}{name}"),
                    *dimension,
                    factor.clone(),
                    0,
                    Special::None,
                );
                add(
                    format!("{word}{name}s"),
                    *dimension,
                    factor.clone(),
                    0,
                    Special::None,
                );
            }
        }
    }
    for (names, dimension, (n, d)) in PLAIN {
        for name in *names {
            add((*name).into(), *dimension, fraction(*n, *d), 0, Special::None);
        }
    }
    // º and ˚ are what some keyboards have in its place.
    for name in ["°", "º", "˚", "deg", "degs", "degree", "degrees"] {
        add(name.into(), ANGLE, fraction(1, 180), 1, Special::None);
    }
    for name in ["%", "％", "percent"] {
        add(name.into(), [0; 6], fraction(1, 100), 0, Special::None);
    }
    for name in ["rev", "revs", "turn", "turns"] {
        add(name.into(), ANGLE, fraction(2, 1), 1, Special::None);
    }
    for name in ["°C", "ºC", "˚C", "℃", "degC", "celsius", "Celsius"] {
        add(name.into(), TEMPERATURE, BigRational::one(), 0, Special::Celsius);
    }
    add("rpm".into(), FREQUENCY, fraction(1, 60), 0, Special::Revolution);
    all
}

impl Unit {
    fn one() -> Self {
        Unit {
            dimension: [0; 6],
            factor: BigRational::one(),
            pi_power: 0,
            offset: None,
            revolutions: 0,
            shown: String::new(),
            other_case: None,
        }
    }

    fn times(&mut self, known: &Known, power: i32) {
        for (mine, theirs) in self.dimension.iter_mut().zip(known.dimension) {
            *mine += theirs * power;
        }
        self.factor *= known.factor.clone().pow(power);
        self.pi_power += known.pi_power * power;
        if known.special == Special::Revolution {
            self.revolutions += power;
        }
    }

    /// This unit seen beside another one: of the same dimension, or `None`.
    pub fn beside(&self, other: &Unit) -> Option<Unit> {
        if self.dimension == other.dimension {
            return Some(self.clone());
        }
        let mut turned = self.clone();
        for _ in 0..self.revolutions.unsigned_abs() {
            let sign = self.revolutions.signum();
            if let Some(angle) = turned.dimension.last_mut() {
                *angle += sign;
            }
            turned.factor *= fraction(2, 1).pow(sign);
            turned.pi_power += sign;
        }
        (turned.dimension == other.dimension).then_some(turned)
    }
}

/// Reads a unit: `m/s`, `kg m^2`, `kg/(m s)`, `N·m`, `m s⁻¹`, `km per hour`.
///
/// # Errors
/// [`UnitError::Unknown`] for a name that is no unit, [`UnitError::Broken`] for signs out of place.
pub fn read_unit(text: &str) -> Result<Unit, UnitError> {
    let chars: Vec<char> = text.trim().chars().collect();
    if chars.is_empty() || chars.len() > 60 {
        return Err(UnitError::Broken);
    }
    if text.trim().eq_ignore_ascii_case("per cent") {
        return read_unit("%");
    }
    let mut reader = UnitReader {
        chars: &chars,
        pos: 0,
        unit: Unit::one(),
        names: 0,
    };
    reader.product(1)?;
    if reader.pos < chars.len() {
        return Err(UnitError::Broken);
    }
    let mut unit = reader.unit;
    if reader.names == 1
        && text
            .trim()
            .chars()
            .all(|c| c.is_alphabetic() || matches!(c, '°' | 'º' | '˚'))
    {
        let celsius = find(text.trim()).is_some_and(|(k, _)| k.special == Special::Celsius);
        unit.offset = celsius.then(|| fraction(27_315, 100));
    }
    unit.shown = text.trim().to_owned();
    Ok(unit)
}

/// A name, exactly or in another case if only one unit is meant.
fn find(name: &str) -> Option<(&'static Known, bool)> {
    if let Some(exact) = table().iter().find(|k| k.name == name) {
        return Some((exact, false));
    }
    let lower = name.to_lowercase();
    let mut near = table().iter().filter(|k| k.name.to_lowercase() == lower);
    let first = near.next()?;
    near.all(|k| k.dimension == first.dimension && k.factor == first.factor)
        .then_some((first, true))
}

struct UnitReader<'a> {
    chars: &'a [char],
    pos: usize,
    unit: Unit,
    names: usize,
}

impl UnitReader<'_> {
    fn peek(&self) -> Option<char> {
        self.chars.get(self.pos).copied()
    }

    fn skip_blanks(&mut self) {
        while self.peek().is_some_and(char::is_whitespace) {
            self.pos += 1;
        }
    }

    fn product(&mut self, sign: i32) -> Result<(), UnitError> {
        self.factor(sign)?;
        loop {
            self.skip_blanks();
            match self.peek() {
                None | Some(')') => return Ok(()),
                Some('*' | '·' | '⋅' | '×' | '.') => {
                    self.pos += 1;
                    self.factor(sign)?;
                }
                Some('/' | '∕' | '÷') => {
                    self.pos += 1;
                    self.factor(-sign)?;
                }
                _ if self.takes_per() => self.factor(-sign)?,
                _ => self.factor(sign)?,
            }
        }
    }

    fn takes_per(&mut self) -> bool {
        let rest: String = self.chars.iter().skip(self.pos).take(4).collect();
        let found = rest == "per ";
        if found {
            self.pos += 4;
        }
        found
    }

    fn factor(&mut self, sign: i32) -> Result<(), UnitError> {
        self.skip_blanks();
        if self.peek() == Some('(') {
            self.pos += 1;
            self.product(sign)?;
            if self.peek() != Some(')') {
                return Err(UnitError::Broken);
            }
            self.pos += 1;
            return if self.power()? == 1 {
                Ok(())
            } else {
                Err(UnitError::Broken)
            };
        }
        let start = self.pos;
        while self
            .peek()
            .is_some_and(|c| c.is_alphabetic() || matches!(c, '°' | 'º' | '˚' | '℃' | '%'))
        {
            self.pos += 1;
        }
        let name: String = self
            .chars
            .get(start..self.pos)
            .unwrap_or_default()
            .iter()
            .collect();
        if name.is_empty() {
            return Err(UnitError::Broken);
        }
        let parts = split(&name).ok_or(UnitError::Unknown)?;
        let power = self.power()?;
        let last = parts.len() - 1;
        for (i, (known, typed)) in parts.iter().enumerate() {
            self.unit
                .times(known, if i == last { sign * power } else { sign });
            if let Some(typed) = typed {
                self.unit.other_case = Some((typed.clone(), known.name.clone()));
            }
        }
        self.names += parts.len();
        Ok(())
    }

    fn power(&mut self) -> Result<i32, UnitError> {
        let raised = |c: char| {
            "⁰¹²³⁴⁵⁶⁷⁸⁹"
                .chars()
                .position(|d| d == c)
                .and_then(|d| i32::try_from(d).ok())
        };
        let mut negative = false;
        let value;
        if self.peek() == Some('⁻') || self.peek().is_some_and(|c| raised(c).is_some()) {
            if self.peek() == Some('⁻') {
                negative = true;
                self.pos += 1;
            }
            value = self.peek().and_then(raised);
            self.pos += 1;
        } else if self.peek() == Some('^') {
            self.pos += 1;
            let bracket = self.peek() == Some('(');
            self.pos += usize::from(bracket);
            if matches!(self.peek(), Some('-' | '−' | '–')) {
                negative = true;
                self.pos += 1;
            }
            value = self
                .peek()
                .and_then(|c| c.to_digit(10))
                .and_then(|d| i32::try_from(d).ok());
            self.pos += 1;
            if bracket {
                if self.peek() != Some(')') {
                    return Err(UnitError::Broken);
                }
                self.pos += 1;
            }
        } else if self.peek().is_some_and(|c| c.is_ascii_digit()) {
            // `m2`, as people type it.
            value = self
                .peek()
                .and_then(|c| c.to_digit(10))
                .and_then(|d| i32::try_from(d).ok());
            self.pos += 1;
        } else {
            return Ok(1);
        }
        match value {
            Some(0) | None => Err(UnitError::Broken),
            Some(n) => Ok(if negative { -n } else { n }),
        }
    }
}

type Part = (&'static Known, Option<String>);

/// One unit, or units written together (`Nm`).
fn split(name: &str) -> Option<Vec<Part>> {
    let found = find(name);
    if let Some((known, false)) = found {
        return Some(vec![(known, None)]);
    }
    // `Kg` is meant as kilograms and `KN` as kilonewtons, not as kelvin times something, nor as knots.
    let kilo = name.strip_prefix('K').map(|rest| format!("k{rest}"));
    if let Some(known) = table().iter().find(|k| kilo.as_ref() == Some(&k.name)) {
        return Some(vec![(known, Some(name.to_owned()))]);
    }
    let other_case = found.map(|(known, _)| vec![(known, Some(name.to_owned()))]);
    let chars: Vec<char> = name.chars().collect();
    if chars.len() > 6 {
        return other_case;
    }
    for cut in (1..chars.len()).rev() {
        let head: String = chars.iter().take(cut).collect();
        let tail: String = chars.iter().skip(cut).collect();
        let known = table().iter().find(|k| k.name == head);
        if let (Some(known), Some(mut rest)) = (known, split_exact(&tail)) {
            rest.insert(0, (known, None));
            return Some(rest);
        }
    }
    other_case
}

fn split_exact(name: &str) -> Option<Vec<Part>> {
    table().iter().find(|k| k.name == name).map(|k| vec![(k, None)])
}
