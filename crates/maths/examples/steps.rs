//! Steps and milliseconds of comparisons: `cargo run -p maths --example steps`.

use std::time::Instant;

use maths::{Budget, Domain, Names, ReadOptions, compare, read_expression};

fn main() {
    let Ok(names) = Names::new(["x"]) else {
        return;
    };
    let pairs = [
        ("cbrt(51x*sinh(x))", "cbrt(51*|x|*sinh(|x|))"),
        ("sin((246)*sqrt(cosh(x)^2))", "sin((246)*cosh(x))"),
        ("sin(24*exp(x/12))", "sin(24*(exp(x))^(1/12))"),
        ("38 e^(x/2)", "38 sqrt(exp(x))"),
        ("|x - 3|", "sqrt((x-3)^2)"),
        ("x^2 sin(x)/ln(x)", "sin(x) x^3/(x ln(x))"),
        ("ln(x^2+1)", "2 ln(sqrt(x^2+1))"),
    ];
    for (key, entry) in pairs {
        let options = ReadOptions::new(&names);
        let (Ok(a), Ok(b)) = (read_expression(key, &options), read_expression(entry, &options)) else {
            continue;
        };
        let budget = Budget::of(50_000_000);
        let start = Instant::now();
        let found = compare(&a.tree, &b.tree, &Domain::default());
        let (used, millis) = (budget.used(), start.elapsed().as_secs_f64() * 1000.0);
        println!(
            "{used:>9} steps {millis:>8.2} ms  {key} | {entry}  {} {:?}",
            found.equal, found.evidence
        );
    }
}
