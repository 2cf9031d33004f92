use maths::{
    Caution, Domain, Equality, Evidence, Expr, Names, ReadError, ReadErrorKind, ReadOptions, compare,
};
use num_bigint::BigInt;
use num_rational::BigRational;

use super::entry::{is_blank, nothing_entered, shifted};
use super::slips::{fits_with_factor, sign_flips};
use super::split::without_full_stop;
use super::{Shown, domain_of, names_of, without_value, wrong_form};
use crate::answer::{AnswerBlock, FaultyBlock, SameRule};
use crate::verdict::{Marking, Outcome, Slip};

/// How an equation is marked.
pub(crate) struct EquationRule {
    names: Names,
    key: Sides,
    domain: Domain,
    solved_for: Option<String>,
    by_solutions: bool,
}

struct Sides {
    left: Expr,
    right: Expr,
}

impl Sides {
    /// Zero exactly where the equation holds.
    fn difference(&self) -> Expr {
        self.left.clone().minus(self.right.clone())
    }
}

impl EquationRule {
    pub fn new(block: &AnswerBlock) -> Result<Self, FaultyBlock> {
        let variables = block.variables.clone().unwrap_or_else(|| vec!["x".into()]);
        let names = names_of(&variables, block.complex)?;
        let domain = domain_of(block, &names)?;
        let text = block.key.text();
        let (key, _) = parse(&text, &names, false).map_err(|e| FaultyBlock::KeyUnreadable {
            key: text.clone(),
            why: maths::error_words(&e.kind),
        })?;
        let solved_for = match &block.solved_for {
            Some(name) => {
                let canonical = names_of(std::slice::from_ref(name), false)?;
                let name = canonical
                    .variables()
                    .first()
                    .map_or_else(|| name.clone(), ToString::to_string);
                if !names.variables().iter().any(|v| **v == *name) {
                    return Err(FaultyBlock::Other {
                        what: format!("`solved_for: {name}` is not among the variables"),
                    });
                }
                Some(name)
            }
            None => None,
        };
        Ok(Self {
            names,
            key,
            domain,
            solved_for,
            by_solutions: block.same == Some(SameRule::Solutions),
        })
    }

    pub fn read(&self, entry: &str) -> Result<Shown, ReadError> {
        let (sides, cautions) = parse(entry, &self.names, false)?;
        Ok(show(&sides, &cautions))
    }

    pub fn mark(&self, entry: &str) -> Marking {
        let (sides, cautions) = match parse(entry, &self.names, false) {
            Ok(read) => read,
            Err(error) => return Marking::unreadable(&error),
        };
        let shown = show(&sides, &cautions);
        let difference = sides.difference();
        if let Err(why) = maths::has_value(&difference) {
            return shown.onto(without_value(why, entry.chars().count()));
        }
        let judged = self.judge(&self.key.difference(), &difference);
        if judged.equal {
            if let Some(name) = self.solved_for.as_deref().filter(|name| !is_solved(&sides, name)) {
                return shown.onto(wrong_form(&format!(
                    "Solve it for {name}: {name} = … with no {name} on the other side."
                )));
            }
            return shown.onto(Marking::new(Outcome::Correct).known_by(judged.evidence));
        }
        let other = cautions
            .iter()
            .any(|c| c.kind.has_other_reading())
            .then(|| parse(entry, &self.names, true));
        let other = other.and_then(Result::ok).map(|(s, _)| s.difference());
        let slip = self.slip(&sides, other.as_ref());
        shown.onto(
            Marking::new(Outcome::Incorrect)
                .slipped(slip)
                .known_by(judged.evidence),
        )
    }

    fn slip(&self, sides: &Sides, other: Option<&Expr>) -> Option<Slip> {
        let key = self.key.difference();
        let fits = |d: &Expr| self.judge(&key, d).equal;
        let turned = Sides {
            left: sides.left.clone(),
            right: sides.right.clone().negate(),
        };
        let mut flipped = vec![turned.difference()];
        for left in sign_flips(&sides.left) {
            flipped.push(left.minus(sides.right.clone()));
        }
        for right in sign_flips(&sides.right) {
            flipped.push(sides.left.clone().minus(right));
        }
        if flipped.iter().any(fits) {
            return Some(Slip::Sign);
        }
        other.filter(|d| fits(d)).map(|_| Slip::MisreadOrder)
    }

    fn judge(&self, key: &Expr, entry: &Expr) -> Equality {
        let judged = compare(key, entry, &self.domain);
        if judged.equal {
            return judged;
        }
        let equal = fits_with_factor(key, entry, &self.domain)
            || (self.by_solutions && same_solutions(key, entry, &self.names, &self.domain));
        let evidence = if equal {
            Evidence::Agreed {
                points: 1,
                digits: 15,
            }
        } else {
            judged.evidence
        };
        Equality { equal, evidence }
    }
}

fn show(sides: &Sides, cautions: &[Caution]) -> Shown {
    Shown {
        latex: format!("{} = {}", maths::latex(&sides.left), maths::latex(&sides.right)),
        speech: format!(
            "{} equals {}",
            maths::speech(&sides.left),
            maths::speech(&sides.right)
        ),
        cautions: cautions.to_vec(),
    }
}

fn parse(entry: &str, names: &Names, other_reading: bool) -> Result<(Sides, Vec<Caution>), ReadError> {
    if is_blank(entry) {
        return Err(nothing_entered());
    }
    let text = without_full_stop(entry);
    let length = text.chars().count();
    let Some((left, right)) = text.split_once(['=', '＝']) else {
        // What is wrong inside comes first; else the sign is missing.
        maths::read_expression(text, &ReadOptions::new(names))?;
        return Err(ReadError::new(ReadErrorKind::EqualsMissing, 0, length));
    };
    if right.contains(['=', '＝', '<', '>', '≤', '≥'])
        || left.contains(['<', '>', '≤', '≥', '!', '≠'])
            && !left
                .trim_end()
                .ends_with(|c: char| c.is_alphanumeric() || c == ')')
    {
        return Err(ReadError::new(ReadErrorKind::NotAnEquation, 0, length));
    }
    let options = ReadOptions {
        other_reading,
        ..ReadOptions::new(names)
    };
    let at = left.chars().count();
    let missing = |before: bool| {
        let kind = if before {
            ReadErrorKind::MissingBefore("=".into())
        } else {
            ReadErrorKind::MissingAfter("=".into())
        };
        ReadError::new(kind, at, at + 1)
    };
    if is_blank(left) {
        return Err(missing(true));
    }
    if is_blank(right) {
        return Err(missing(false));
    }
    let l = maths::read_expression(left, &options)?;
    let r = maths::read_expression(right, &options).map_err(|e| shifted(e, at + 1))?;
    let mut cautions = l.cautions;
    cautions.extend(r.cautions);
    Ok((
        Sides {
            left: l.tree,
            right: r.tree,
        },
        cautions,
    ))
}

fn is_solved(sides: &Sides, name: &str) -> bool {
    let alone = |e: &Expr| matches!(e.bare(), Expr::Variable(v) if &**v == name);
    (alone(&sides.left) && !sides.right.mentions(name)) || (alone(&sides.right) && !sides.left.mentions(name))
}

/// Whether two equations have the same real solutions, by solving each for one variable at many values of the
/// others and looking at the other equation there. There must be solutions to look at.
fn same_solutions(key: &Expr, entry: &Expr, names: &Names, domain: &Domain) -> bool {
    let mut seen = 0;
    for variable in names.variables() {
        if !key.mentions(variable) && !entry.mentions(variable) {
            continue;
        }
        for round in 0..6i64 {
            let others: Vec<(std::sync::Arc<str>, BigRational)> = names
                .variables()
                .iter()
                .filter(|n| *n != variable)
                .enumerate()
                .map(|(i, n)| (n.clone(), place(round, i, n, domain)))
                .collect();
            let fixed = |e: &Expr| super::slips::at_point(e, &others);
            let (k, e) = (fixed(key), fixed(entry));
            let (mine, theirs) = (roots(&k, variable, domain), roots(&e, variable, domain));
            let near = |a: f64, b: f64| (a - b).abs() <= 1e-9 * a.abs().max(b.abs()).max(1e-6);
            let all_in = |a: &[f64], b: &[f64]| a.iter().all(|x| b.iter().any(|y| near(*x, *y)));
            if !all_in(&mine, &theirs) || !all_in(&theirs, &mine) {
                return false;
            }
            seen += mine.len();
        }
    }
    seen > 0
}

fn place(round: i64, i: usize, name: &str, domain: &Domain) -> BigRational {
    let i = i64::try_from(i).unwrap_or(0);
    let n = 3 + round * 5 + i * 7;
    let size = BigRational::new(BigInt::from(n), BigInt::from(4 + round));
    match domain.0.get(name) {
        None | Some(maths::Range::Real) if round % 2 == 1 => -size,
        Some(maths::Range::Between(low, high)) => {
            low + (high - low) * BigRational::new((1 + round).into(), 8.into())
        }
        Some(maths::Range::Integer | maths::Range::PositiveInteger | maths::Range::NonnegativeInteger) => {
            BigRational::from(BigInt::from(1 + round + i))
        }
        _ => size,
    }
}

/// Real zeros between −1000 and 1000 that lie in the domain: changes of sign, halved, and touching points.
fn roots(expr: &Expr, variable: &str, domain: &Domain) -> Vec<f64> {
    let value = |x: f64| {
        let at = BigRational::from_float(x)?;
        maths::approximate_fast(&expr.substitute(variable, &Expr::rational(&at)))
    };
    let mut grid: Vec<f64> = Vec::new();
    for k in -120..=120i32 {
        let t = f64::from(k) / 12.0;
        grid.push(t.signum() * (t.abs().powi(3) + 0.013 * t.abs()) + 0.001_7);
    }
    let mut found: Vec<f64> = Vec::new();
    for pair in grid.windows(2) {
        let [a, b] = pair else { continue };
        let (Some(fa), Some(fb)) = (value(*a), value(*b)) else {
            continue;
        };
        if fa == 0.0 || fa.signum() != fb.signum() {
            found.extend(halved(&value, *a, *b, fa));
        }
    }
    let allowed = |x: f64| match domain.0.get(variable) {
        Some(maths::Range::Positive | maths::Range::PositiveInteger) => x > 1e-9,
        Some(maths::Range::Nonnegative | maths::Range::NonnegativeInteger) => x > -1e-9,
        Some(maths::Range::Between(low, high)) => {
            use num_traits::ToPrimitive;
            low.to_f64().is_some_and(|l| x >= l - 1e-9) && high.to_f64().is_some_and(|h| x <= h + 1e-9)
        }
        _ => true,
    };
    found.retain(|x| allowed(*x));
    found
}

fn halved(value: &dyn Fn(f64) -> Option<f64>, a: f64, b: f64, fa: f64) -> Option<f64> {
    let (mut low, mut high) = (a, b);
    for _ in 0..80 {
        let middle = f64::midpoint(low, high);
        let f = value(middle)?;
        if f == 0.0 {
            return Some(middle);
        }
        if f.signum() == fa.signum() {
            low = middle;
        } else {
            high = middle;
        }
    }
    let size = value(low)?.abs().min(value(high)?.abs());
    // A pole changes its sign too, but grows.
    (size < fa.abs().max(1.0)).then_some(high)
}
