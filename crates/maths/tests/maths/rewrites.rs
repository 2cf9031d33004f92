//! Random pairs of expressions: rewritten by identities, which must never be called different, and changed, which must
//! never be called equal. What is changed is known to differ by values of 150 digits at points of every part of the domain,
//! not by the code under test's own choice of points.
//!
//! `REWRITE_PAIRS=2000000 cargo test -p maths --test maths rewrites -- --nocapture` tries more than the usual number;
//! `REWRITE_SEED` starts elsewhere. Whatever is found is kept in [`KEPT`] for good.

use maths::{Domain, Evidence, Expr, Names, ReadOptions, compare, evaluate_precisely, read_expression};
use num_bigint::BigInt;
use num_rational::BigRational;

/// Pairs in one run, of each sort.
const PAIRS: u64 = 10_000;

/// Seeds of pairs that were once judged wrongly.
const KEPT: &[u64] = &[3659, 4555];

/// 150 decimal digits.
const BITS: usize = 512;

/// SplitMix64: the same pairs everywhere.
struct Dice(u64);

impl Dice {
    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^ (z >> 31)
    }

    fn below(&mut self, n: u64) -> u64 {
        self.next() % n
    }

    /// A factor as it stands in questions: whole or a short fraction, from 2 to 400.
    fn constant(&mut self) -> String {
        match self.below(5) {
            0 => format!("{}/{}", 1 + self.below(40), 2 + self.below(30)),
            1 => format!("{}.{}", self.below(20), 1 + self.below(9)),
            2 => (2 + self.below(8)).to_string(),
            _ => (2 + self.below(399)).to_string(),
        }
    }

    /// A number inside an expression, where it may come to stand in an exponent: up to 12.
    fn small(&mut self) -> String {
        match self.below(4) {
            0 => format!("{}/{}", 1 + self.below(9), 2 + self.below(7)),
            1 => format!("{}.{}", self.below(4), 1 + self.below(9)),
            _ => (1 + self.below(12)).to_string(),
        }
    }

    fn whole(&mut self) -> u64 {
        2 + self.below(11)
    }
}

/// Something that has a value for every real x.
fn total(dice: &mut Dice, depth: u32) -> String {
    if depth == 0 {
        let k = dice.small();
        return match dice.below(4) {
            0 => format!("({k})"),
            1 => format!("({k}) x"),
            _ => "x".to_owned(),
        };
    }
    let a = total(dice, depth - 1);
    match dice.below(12) {
        0 | 1 => format!("({a} + {})", total(dice, depth - 1)),
        2 => format!("({a} - {})", total(dice, depth - 1)),
        3 | 4 => format!("({a})*({})", total(dice, depth - 1)),
        5 => format!("({a})/({})", dice.small()),
        6 => format!("sin({a})"),
        7 => format!("cos({a})"),
        8 => format!("arctan({a})"),
        9 => format!("|{a}|"),
        10 => format!("cbrt({a})"),
        _ => format!("exp(-|{a}|)"),
    }
}

/// Two ways to write the same, the second by an identity that holds wherever the first has a value.
fn identity(dice: &mut Dice) -> (String, String) {
    let depth = 1 + u32::try_from(dice.below(2)).unwrap_or(0);
    let a = total(dice, depth);
    let b = total(dice, 1);
    let k = dice.constant();
    let n = dice.whole();
    match dice.below(30) {
        0 => (format!("{a} + {b}"), format!("{b} + {a}")),
        1 => (format!("({k})*({a} + {b})"), format!("({k})*({a}) + ({k})*({b})")),
        2 => (format!("{a} - ({b})"), format!("-({b} - ({a}))")),
        3 => (format!("({a})^2 - ({b})^2"), format!("({a} - ({b}))*({a} + {b})")),
        4 => (format!("sin(2*({a}))"), format!("2 sin({a}) cos({a})")),
        5 => (format!("cos(2*({a}))"), format!("1 - 2 sin({a})^2")),
        6 => (format!("exp({a})*exp({b})"), format!("exp({a} + {b})")),
        7 => (format!("exp(({a})/2)"), format!("sqrt(exp({a}))")),
        8 => (format!("({k})*exp(x/2)"), format!("({k})*sqrt(exp(x))")),
        9 => (format!("({k})*exp(x/{n})"), format!("({k})*(exp(x))^(1/{n})")),
        10 => (format!("sqrt(({a})^2)"), format!("|{a}|")),
        11 => (format!("cbrt(({a})^3)"), a),
        12 => (format!("ln(({k})*exp({a}))"), format!("ln({k}) + {a}")),
        13 => (format!("|({a})*({b})|"), format!("|{a}|*|{b}|")),
        14 => (
            format!("({a} + {b})^2"),
            format!("({a})^2 + 2*({a})*({b}) + ({b})^2"),
        ),
        15 => (format!("{n}^({a})"), format!("exp(ln({n})*({a}))")),
        16 => (format!("{}^({a})", n * n), format!("{n}^(2*({a}))")),
        17 => (format!("cosh({a})"), format!("(exp({a}) + exp(-({a})))/2")),
        18 => (format!("arctan(-({a}))"), format!("-arctan({a})")),
        19 => (format!("cbrt(-({a}))"), format!("-cbrt({a})")),
        20 => (format!("sqrt({}*exp({a}))", n * n), format!("{n}*sqrt(exp({a}))")),
        21 => (
            format!("max({a}, {b})"),
            format!("(({a}) + ({b}) + |({a}) - ({b})|)/2"),
        ),
        22 => (format!("({a})*(sin({b})^2 + cos({b})^2)"), a),
        23 => (format!("exp(-({a}))"), format!("1/exp({a})")),
        24 => (format!("sqrt({n})*sqrt(exp({a}))"), format!("sqrt({n}*exp({a}))")),
        25 => (format!("({k})*sin(x + pi/2)"), format!("({k})*cos(x)")),
        26 => (
            format!("({k})*cbrt(x sinh(x))"),
            format!("({k})*cbrt(x)*cbrt(sinh(x))"),
        ),
        27 => (
            format!("sqrt(x^2 + {n})*({k})"),
            format!("({k})*(x^2 + {n})^(1/2)"),
        ),
        28 => (format!("({k})*sqrt(cosh(x)^2)"), format!("({k})*cosh(x)")),
        _ => (format!("({a})/({k})"), format!("(1/({k}))*({a})")),
    }
}

/// The same around both.
fn within(dice: &mut Dice, pair: (String, String)) -> (String, String) {
    let c = total(dice, 1);
    let k = dice.constant();
    let put = |inside: &str, how: u64| match how {
        0 => format!("({inside}) + {c}"),
        1 => format!("({k})*({inside})"),
        2 => format!("{c} - ({inside})"),
        3 => format!("sin({inside})"),
        _ => inside.to_owned(),
    };
    let how = dice.below(8);
    (put(&pair.0, how), put(&pair.1, how))
}

/// An expression, and one that differs from it, if only on a part of the domain or by a little.
fn changed(dice: &mut Dice) -> (String, String) {
    let (a, b) = identity(dice);
    let k = dice.constant();
    let n = dice.whole();
    let other = match dice.below(12) {
        0 => format!("({b}) + 10^(-{n})"),
        1 => format!("({b})*(1 + 10^(-{n}))"),
        2 => format!("-({b})"),
        3 => format!("|{b}|"),
        4 => format!("({b}) + (|x| + x)/{n}"),
        5 => format!("({b}) + (|x| - x)/{n}"),
        6 => format!("({b}) + max(0, x - {k})"),
        7 => format!("(({b}) + |{b}|)/2"),
        8 => format!("({b})*({k})"),
        9 => format!("({b}) + sin(pi x)/{n}"),
        10 => b
            .replace("exp", "EXP")
            .replacen('x', "(x + 1)", 1)
            .replace("EXP", "exp"),
        _ => format!("cbrt(({b})^2 * (|{b}| + ({b}))/2)"),
    };
    (a, other)
}

fn read(text: &str) -> Expr {
    let names = Names::new(["x"]).unwrap();
    read_expression(text, &ReadOptions::new(&names))
        .unwrap_or_else(|e| panic!("{text}: {e:?}"))
        .tree
}

/// Points of every part: near nought, among small numbers, further out, whole and not, of both signs.
fn points() -> impl Iterator<Item = BigRational> {
    let near = (1..=6i64)
        .map(|n| (n, 37))
        .chain((1..=12).map(|n| (n, 2)))
        .chain((1..=8).map(|n| (n * n * 3 + 1, 5)));
    let far = [(101, 3), (211, 2), (399, 1), (1_003, 2)];
    near.chain(far).flat_map(|(n, d)| {
        let point = BigRational::new(BigInt::from(n), BigInt::from(d));
        [point.clone(), -point]
    })
}

/// Whether the two surely have different values somewhere; `None` if that could be told nowhere.
fn surely_differ(key: &Expr, entry: &Expr) -> Option<bool> {
    let gap = key.clone().plus(entry.clone().negate());
    let mut told = None;
    // A third of the points, near and far: values of 150 digits are what this test takes its time for.
    for point in points().step_by(3) {
        let Ok(ball) = evaluate_precisely(&gap.substitute("x", &Expr::rational(&point)), BITS) else {
            continue;
        };
        let far = ball.middle.abs() > 0.0 && ball.middle.abs().log2() > ball.width_log2 as f64 + 1.0;
        if far {
            return Some(true);
        }
        told = Some(false);
    }
    told
}

fn pairs() -> (u64, u64) {
    let of = |name: &str, usual: u64| {
        std::env::var(name)
            .ok()
            .and_then(|v| v.parse().ok())
            .unwrap_or(usual)
    };
    (of("REWRITE_SEED", 1), of("REWRITE_PAIRS", PAIRS))
}

fn judged(key: &str, entry: &str) -> maths::Equality {
    let steps = std::env::var("REWRITE_STEPS")
        .ok()
        .and_then(|v| v.parse().ok())
        .unwrap_or(maths::MAX_ENTRY_STEPS);
    let _budget = maths::Budget::of(steps);
    compare(&read(key), &read(entry), &Domain::default())
}

#[test]
fn what_an_identity_gives_is_never_called_different() {
    let (seed, count) = pairs();
    let (mut wrong, mut undecided) = (Vec::new(), Vec::new());
    for n in KEPT.iter().copied().chain(seed..seed + count) {
        let dice = &mut Dice(n);
        let pair = identity(dice);
        let (key, entry) = within(dice, pair);
        let judged = judged(&key, &entry);
        match judged.evidence {
            _ if judged.equal => {}
            Evidence::Undecided | Evidence::KeyHasNoValue | Evidence::EntryHasNoValue => {
                undecided.push(format!("{n}: {key}   |   {entry}"));
            }
            _ => wrong.push(format!("{n}: {key}   |   {entry}   {:?}", judged.evidence)),
        }
    }
    println!(
        "{count} pairs that are equal: {} called different, {} undecided",
        wrong.len(),
        undecided.len()
    );
    undecided.iter().for_each(|pair| println!("undecided {pair}"));
    assert!(wrong.is_empty(), "called different:\n{}", wrong.join("\n"));
    let most = usize::try_from(count / 1000).unwrap_or(0).max(2);
    assert!(
        undecided.len() <= most,
        "more than {most} undecided:\n{}",
        undecided.join("\n")
    );
}

#[test]
fn what_was_changed_is_never_called_equal() {
    let (seed, count) = pairs();
    let (mut wrong, mut undecided, mut same) = (Vec::new(), Vec::new(), 0);
    for n in KEPT.iter().copied().chain(seed..seed + count) {
        let dice = &mut Dice(n ^ 0x5bd1_e995_0000_0000);
        let (key, entry) = changed(dice);
        let judged = judged(&key, &entry);
        if matches!(
            judged.evidence,
            Evidence::ProvedDifferent { .. } | Evidence::Undefined { .. }
        ) && !judged.equal
        {
            continue;
        }
        // Only what is not refused has to be looked at more closely: some changes change nothing.
        match surely_differ(&read(&key), &read(&entry)) {
            Some(true) if judged.equal => {
                wrong.push(format!("{n}: {key}   |   {entry}   {:?}", judged.evidence))
            }
            Some(true) => undecided.push(format!("{n}: {key}   |   {entry}   {:?}", judged.evidence)),
            _ => same += 1,
        }
    }
    println!(
        "{count} pairs that were changed: {} called equal, {} undecided, {same} changed nothing",
        wrong.len(),
        undecided.len()
    );
    undecided.iter().for_each(|pair| println!("undecided {pair}"));
    assert!(wrong.is_empty(), "called equal:\n{}", wrong.join("\n"));
    assert!(
        same * 4 < count,
        "most changes have to change something: {same} did not"
    );
    let most = usize::try_from(count / 1000).unwrap_or(0).max(2);
    assert!(
        undecided.len() <= most,
        "more than {most} undecided:\n{}",
        undecided.join("\n")
    );
}

/// `k f(x)` with every k of a family: no verdict may depend on the k by luck.
#[test]
fn no_constant_of_a_family_is_unlucky() {
    let families: &[(&str, &str)] = &[
        ("{k} e^(x/2)", "{k} sqrt(exp(x))"),
        ("{k}(e^x)^(1/2)", "{k} e^(x/2)"),
        ("{k} e^(-x/2)", "{k}(exp(x))^(-1/2)"),
        ("{k} 2^(x/3)", "{k} cbrt(2^x)"),
        ("sqrt(exp(x))/{k}", "e^(x/2)/{k}"),
        ("e^({k}x)", "(e^x)^{k}"),
        ("{k} cbrt(x sinh(x))", "{k} cbrt(x) cbrt(sinh(x))"),
        ("{k} sqrt(x^2)", "{k} |x|"),
        ("{k} sin(2x)", "2*{k} sin(x) cos(x)"),
        ("ln({k} e^x)", "x + ln({k})"),
        ("|x - {k}|", "sqrt((x - {k})^2)"),
        ("({k} + x)^3", "x^3 + 3*{k} x^2 + 3*{k}^2 x + {k}^3"),
        ("arctan({k}x)", "-arctan(-{k}x)"),
        ("{k} tanh(x)", "{k} (e^(2x) - 1)/(e^(2x) + 1)"),
        ("sinh(x + ln({k}))", "({k} e^x - e^(-x)/{k})/2"),
        ("exp({k} x^2)", "sqrt(exp(2*{k} x^2))"),
        ("exp({k} x^3/2)", "(e^({k} x^3))^(1/2)"),
        ("exp(x^2 - {k})", "sqrt(exp(2x^2)/exp(2*{k}))"),
        ("ln({k} exp(x^2))", "x^2 + ln({k})"),
        ("|{k} e^x sin(x)|", "{k} e^x |sin(x)|"),
        ("cbrt(({k} sin(x))^3)", "{k} sin(x)"),
        ("sin(|e^(-|x|) sin({k}x)|)", "sin(e^(-|x|) |sin({k}x)|)"),
        ("sqrt(x^2 cosh(x)/{k})", "|x| sqrt(cosh(x)/{k})"),
    ];
    let differing: &[(&str, &str)] = &[
        ("{k} cbrt(x sinh(x))", "{k} cbrt((|x|+x)/2*sinh(x))"),
        ("{k} sqrt(x sinh(x))", "{k} sqrt((|x|+x)/2*sinh(x))"),
        ("{k} arctan(x sinh(x))", "{k} arctan((|x|+x)/2*sinh(x))"),
        ("{k} e^(x/2)", "{k} sqrt(exp(x)) + 10^(-9)"),
        ("{k} x", "{k} |x|"),
        ("|x - {k}|", "|x - {k}| + max(0, x - 200)"),
        ("exp({k} x^3/2)", "exp({k} |x|^3/2)"),
        ("cbrt(({k} sin(x))^3)", "|{k} sin(x)|"),
        ("sqrt({k} e^x x^2)", "sqrt({k} e^x) x"),
        ("ln({k} x^2)", "ln({k}) + 2 ln(x)"),
        ("sqrt({k} + x)", "sqrt({k} + |x|)"),
    ];
    let mut wrong = Vec::new();
    for k in 2..=400u32 {
        let with = |text: &str| text.replace("{k}", &format!("({k})"));
        for (families, equal) in [(families, true), (differing, false)] {
            for (key, entry) in families {
                let (key, entry) = (with(key), with(entry));
                let found = judged(&key, &entry);
                if found.equal != equal {
                    wrong.push(format!("{key}   |   {entry}   {:?}", found.evidence));
                }
            }
        }
    }
    assert!(wrong.is_empty(), "{} of them:\n{}", wrong.len(), wrong.join("\n"));
}
