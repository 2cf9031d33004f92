//! Regions of the number line: their ends, unions and intersections, and how they are shown.

use std::cmp::Ordering;

use maths::{Expr, compare_constants};

/// One end of an interval: a value, or none for infinity.
#[derive(Clone, Debug)]
pub(super) struct End {
    pub value: Option<Expr>,
    pub closed: bool,
}

#[derive(Clone, Debug)]
pub(super) struct Stretch {
    pub low: End,
    pub high: End,
}

/// Stretches in order, none touching another.
pub(super) type Region = Vec<Stretch>;

pub(super) fn contains(region: &Region, at: &Expr) -> bool {
    let order = |e: &Expr| {
        compare_constants(at, e)
            .map(|(o, _)| o)
            .unwrap_or(Ordering::Equal)
    };
    region.iter().any(|s| {
        let above = s.low.value.as_ref().is_none_or(|v| match order(v) {
            Ordering::Greater => true,
            Ordering::Equal => s.low.closed,
            Ordering::Less => false,
        });
        let below = s.high.value.as_ref().is_none_or(|v| match order(v) {
            Ordering::Less => true,
            Ordering::Equal => s.high.closed,
            Ordering::Greater => false,
        });
        above && below
    })
}

pub(super) fn open_end() -> End {
    End {
        value: None,
        closed: false,
    }
}

/// Orders two lower ends (or two upper ones); infinity is outermost.
pub(super) fn end_order(a: &End, b: &End, low: bool) -> Ordering {
    let outward = if low { Ordering::Less } else { Ordering::Greater };
    match (&a.value, &b.value) {
        (None, None) => Ordering::Equal,
        (None, _) => outward,
        (_, None) => outward.reverse(),
        (Some(x), Some(y)) => match compare_constants(x, y).map(|(o, _)| o).unwrap_or(Ordering::Equal) {
            Ordering::Equal if a.closed != b.closed => {
                if a.closed {
                    outward
                } else {
                    outward.reverse()
                }
            }
            order => order,
        },
    }
}

/// Whether nothing lies between: the second begins where the first has not ended, or right at its end.
fn touches(first: &Stretch, second: &Stretch) -> bool {
    match (&first.high.value, &second.low.value) {
        (None, _) | (_, None) => true,
        (Some(end), Some(start)) => match compare_constants(start, end)
            .map(|(o, _)| o)
            .unwrap_or(Ordering::Equal)
        {
            Ordering::Less => true,
            Ordering::Equal => first.high.closed || second.low.closed,
            Ordering::Greater => false,
        },
    }
}

fn is_void(s: &Stretch) -> bool {
    match (&s.low.value, &s.high.value) {
        (Some(a), Some(b)) => match compare_constants(a, b).map(|(o, _)| o).unwrap_or(Ordering::Less) {
            Ordering::Less => false,
            Ordering::Equal => !(s.low.closed && s.high.closed),
            Ordering::Greater => true,
        },
        _ => false,
    }
}

pub(super) fn merged(mut region: Region) -> Region {
    region.retain(|s| !is_void(s));
    region.sort_by(|a, b| end_order(&a.low, &b.low, true));
    let mut out: Region = Vec::new();
    for next in region {
        match out.last_mut() {
            Some(last) if touches(last, &next) => {
                if end_order(&next.high, &last.high, false) == Ordering::Greater {
                    last.high = next.high;
                }
            }
            _ => out.push(next),
        }
    }
    out
}

pub(super) fn intersection(a: &Region, b: &Region) -> Region {
    let mut out = Vec::new();
    for x in a {
        for y in b {
            let low = if end_order(&x.low, &y.low, true) == Ordering::Greater {
                &x.low
            } else {
                &y.low
            };
            let high = if end_order(&x.high, &y.high, false) == Ordering::Less {
                &x.high
            } else {
                &y.high
            };
            out.push(Stretch {
                low: low.clone(),
                high: high.clone(),
            });
        }
    }
    merged(out)
}

pub(super) fn stretch_latex(s: &Stretch) -> String {
    let value = |e: &End, infinity: &str| e.value.as_ref().map_or_else(|| infinity.to_owned(), maths::latex);
    let same = match (&s.low.value, &s.high.value) {
        (Some(a), Some(b)) => compare_constants(a, b).is_ok_and(|(o, _)| o == Ordering::Equal),
        _ => false,
    };
    if same {
        return format!("\\left\\{{{}\\right\\}}", value(&s.low, ""));
    }
    let open = if s.low.closed { "[" } else { "(" };
    let close = if s.high.closed { "]" } else { ")" };
    format!(
        "\\left{open}{},\\; {}\\right{close}",
        value(&s.low, "-\\infty"),
        value(&s.high, "\\infty")
    )
}

pub(super) fn stretch_speech(s: &Stretch) -> String {
    let value = |e: &End, infinity: &str| {
        e.value
            .as_ref()
            .map_or_else(|| infinity.to_owned(), maths::speech)
    };
    let belongs = |e: &End| if e.closed { "included" } else { "not included" };
    format!(
        "from {}, {}, to {}, {}",
        value(&s.low, "minus infinity"),
        belongs(&s.low),
        value(&s.high, "infinity"),
        belongs(&s.high)
    )
}
