use std::io::{BufRead, Write};
fn main() {
    let mut ok = true;
    let mut out = std::io::stdout().lock();
    for line in std::io::stdin().lock().lines().map_while(Result::ok) {
        let (v, good) = marking::mark_line(&line);
        ok &= good;
        writeln!(out, "{v}").unwrap();
    }
    std::process::exit(i32::from(!ok));
}
