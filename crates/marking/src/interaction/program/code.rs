//! Programs as text: numbers put in place, and the words that stand in them, without comments and texts.

use crate::bank::{RenderError, Set};

/// Puts `{{name}}` in place, plainly. Other braces are the program's own.
pub(super) fn fill(text: &str, set: &Set) -> Result<String, RenderError> {
    let mut out = String::with_capacity(text.len());
    let mut rest = text;
    while let Some((before, after)) = rest.split_once("{{") {
        out.push_str(before);
        let slot = after.split_once("}}").filter(|(inside, _)| {
            let name = inside.split('|').next().unwrap_or_default();
            is_name(name) && inside.len() < 40
        });
        let Some((inside, tail)) = slot else {
            out.push_str("{{");
            rest = after;
            continue;
        };
        let value = set.key(&format!("{{{{{inside}}}}}"))?;
        out.push_str(value.trim_start_matches('(').trim_end_matches(')'));
        rest = tail;
    }
    out.push_str(rest);
    Ok(out)
}

pub(super) fn is_name(text: &str) -> bool {
    let mut letters = text.chars();
    letters
        .next()
        .is_some_and(|c| c.is_ascii_alphabetic() || c == '_')
        && letters.all(|c| c.is_ascii_alphanumeric() || c == '_')
}

/// A list of arguments in JSON, each as JSON.
pub(super) fn arguments(text: &str) -> Option<Vec<String>> {
    let all: Vec<serde_json::Value> = serde_json::from_str(text).ok()?;
    Some(all.iter().map(ToString::to_string).collect())
}

/// Whether a word stands in a program, or a construct: `loop`, `function`, `recursion`.
pub(super) fn uses(source: &str, word: &str) -> bool {
    let words = words(source);
    let has = |word: &str| words.iter().any(|w| w == word);
    match word {
        "loop" => ["for", "while", "do", "forEach"].iter().any(|word| has(word)),
        "function" => has("function") || has("=>"),
        "recursion" => calls_itself(&words),
        word => has(word),
    }
}

/// A function whose name is called in its own body.
fn calls_itself(words: &[String]) -> bool {
    let at = |place: usize| words.get(place).map_or("", String::as_str);
    let is_name = |word: &str| word.starts_with(|c: char| c.is_alphabetic() || c == '_' || c == '$');
    let begins = |word: &str| matches!(word, ";" | "const" | "let" | "var" | "function" | "print");
    let next = |from: usize, is: &dyn Fn(&str) -> bool| (from..words.len()).find(|p| is(at(*p)));
    // Where what was opened before this place is closed again.
    let closed = |from: usize, (opens, closes): (&str, &str)| {
        let mut depth = 0_usize;
        (from..words.len()).find(|p| {
            if at(*p) == opens {
                depth += 1;
            } else if at(*p) == closes {
                depth = depth.saturating_sub(1);
                return depth == 0;
            }
            false
        })
    };
    for place in 0..words.len() {
        let (name, signature) = match at(place) {
            "function" => (at(place + 1), place + 2),
            "const" | "let" | "var" if at(place + 2) == "=" => (at(place + 1), place + 3),
            _ => continue,
        };
        if !is_name(name) {
            continue;
        }
        let arrow = next(signature, &|w| w == "=>" || begins(w)).filter(|p| at(*p) == "=>");
        let (body, end) = match arrow.filter(|_| at(place) != "function") {
            // Of an arrow without braces the body goes to the end of the statement.
            Some(arrow) if at(arrow + 1) != "{" => (arrow + 1, next(arrow + 1, &begins)),
            Some(arrow) => (arrow + 1, closed(arrow + 1, ("{", "}"))),
            None => {
                let parameters = next(signature, &|w| w == "(").and_then(|p| closed(p, ("(", ")")));
                let open = parameters.map(|p| p + 1).filter(|p| at(*p) == "{");
                let Some(open) = open else { continue };
                (open, closed(open, ("{", "}")))
            }
        };
        let end = end.unwrap_or(words.len());
        if (body..end).any(|p| at(p) == name && at(p + 1) == "(") {
            return true;
        }
    }
    false
}

/// The words and signs of a program in order; comments, texts and patterns left out, but for what a template works out.
fn words(source: &str) -> Vec<String> {
    let letters: Vec<char> = source.chars().collect();
    let at = |place: usize| letters.get(place).copied().unwrap_or('\0');
    let mut found: Vec<String> = Vec::new();
    // Braces that are open in each template that is being read.
    let mut templates: Vec<usize> = Vec::new();
    let mut place = 0;
    while place < letters.len() {
        let c = at(place);
        match c {
            '/' if at(place + 1) == '/' => {
                while place < letters.len() && at(place) != '\n' {
                    place += 1;
                }
            }
            '/' if at(place + 1) == '*' => {
                place += 2;
                while place < letters.len() && !(at(place) == '*' && at(place + 1) == '/') {
                    place += 1;
                }
                place += 2;
            }
            '"' | '\'' => place = after_text(&letters, place, c),
            '`' => place = after_template(&letters, place + 1, &mut templates),
            '}' if templates.last() == Some(&0) => {
                templates.pop();
                place = after_template(&letters, place + 1, &mut templates);
            }
            '/' if begins_pattern(found.last()) => place = after_text(&letters, place, '/'),
            c if c.is_alphabetic() || c == '_' || c == '$' => {
                let begun = place;
                while at(place).is_alphanumeric() || at(place) == '_' || at(place) == '$' {
                    place += 1;
                }
                found.push(letters.get(begun..place).unwrap_or_default().iter().collect());
            }
            c if c.is_whitespace() => place += 1,
            '=' if at(place + 1) == '>' => {
                found.push("=>".into());
                place += 2;
            }
            c => {
                if let Some(open) = templates.last_mut() {
                    match c {
                        '{' => *open += 1,
                        '}' => *open = open.saturating_sub(1),
                        _ => {}
                    }
                }
                // A number's digits are no words.
                if !c.is_ascii_digit() {
                    found.push(c.to_string());
                }
                place += 1;
            }
        }
    }
    found
}

/// A pattern can only stand where a value may begin.
fn begins_pattern(before: Option<&String>) -> bool {
    let Some(before) = before else { return true };
    matches!(before.as_str(), "return" | "typeof" | "case" | "in" | "of")
        || before.chars().all(|c| "(,=:[!&|?{};+-*%<>~^".contains(c))
}

fn after_text(letters: &[char], begun: usize, quote: char) -> usize {
    let mut place = begun + 1;
    let mut in_class = false;
    while let Some(c) = letters.get(place) {
        match c {
            '\\' => place += 1,
            '\n' => return place,
            '[' if quote == '/' => in_class = true,
            ']' if quote == '/' => in_class = false,
            c if *c == quote && !in_class => return place + 1,
            _ => {}
        }
        place += 1;
    }
    place
}

/// To the end of a template, or into what it works out.
fn after_template(letters: &[char], begun: usize, templates: &mut Vec<usize>) -> usize {
    let mut place = begun;
    while let Some(c) = letters.get(place) {
        match c {
            '\\' => place += 1,
            '`' => return place + 1,
            '$' if letters.get(place + 1) == Some(&'{') => {
                templates.push(0);
                return place + 2;
            }
            _ => {}
        }
        place += 1;
    }
    place
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::uses;

    #[rstest]
    #[case::a_loop("for (const x of list) print(x);", "loop", true)]
    #[case::a_while("while (n > 0) n--;", "loop", true)]
    #[case::for_each("[1, 2].forEach(x => print(x));", "loop", true)]
    #[case::none("print(1 + 2);", "loop", false)]
    #[case::in_a_comment("// for each\nprint(1); /* while */", "loop", false)]
    #[case::in_a_text("print('for', \"while\", `do`);", "loop", false)]
    #[case::in_a_template("print(`${list.map(x => { for (;;) {} })} for`);", "for", true)]
    #[case::after_a_template("print(`a ${b} for`); x();", "for", false)]
    #[case::in_a_pattern("const p = /for|while/; print(p);", "loop", false)]
    #[case::a_division("const half = n / 2; for (;;) {} const third = n / 3;", "for", true)]
    #[case::part_of_a_name("const format = before;", "for", false)]
    #[case::a_method("list.sort();", "sort", true)]
    #[case::an_arrow("const twice = x => 2 * x;", "function", true)]
    #[case::recursion("function f(n) { return n < 2 ? 1 : n * f(n - 1); }", "recursion", true)]
    #[case::an_arrow_that_recurs("const f = n => n < 2 ? 1 : n * f(n - 1);", "recursion", true)]
    #[case::an_arrow_before_braces(
        "const f = n => n < 2 ? 1 : n * f(n - 1); if (f(3) > 2) { print(1); }",
        "recursion",
        true
    )]
    #[case::an_arrow_with_braces(
        "const f = n => { if (n < 2) { return 1; } return n * f(n - 1); };",
        "recursion",
        true
    )]
    #[case::taken_apart(
        "function f({n}) { return n < 2 ? 1 : n * f({n: n - 1}); }",
        "recursion",
        true
    )]
    #[case::a_function_with_a_name(
        "const f = function (n) { return n < 2 ? 1 : n * f(n - 1); };",
        "recursion",
        true
    )]
    #[case::brackets_in_a_function("const f = function (n) { return ((n + 1) * 2); };", "recursion", false)]
    #[case::a_number_before("const a = 1; const g = x => a(x);", "recursion", false)]
    #[case::an_arrow_called_in_braces(
        "const f = n => n * 2; for (const x of [1]) { f(x); }",
        "recursion",
        false
    )]
    #[case::an_arrow_without_an_end("const f = n => n * 2\nprint(f(3))", "recursion", false)]
    #[case::called_from_outside("function f(n) { return n; } f(3);", "recursion", false)]
    #[case::an_open_text("print('for", "for", false)]
    #[case::an_open_comment("/* for", "for", false)]
    #[case::quotes_in_quotes("print('it\\'s for you');", "for", false)]
    fn a_word_counts_where_it_is_one(#[case] source: &str, #[case] word: &str, #[case] there: bool) {
        assert_eq!(uses(source, word), there);
    }
}
