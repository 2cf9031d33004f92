//! Maths that was built up in a field with a keyboard on the screen, from its LaTeX to what one would type. The typed
//! notation stays the only one that is read and marked; this is a translation into it, and says what it cannot take.

use std::iter::Peekable;
use std::vec::IntoIter;

/// Signs beyond these are not built up by hand.
const LONGEST: usize = 4_000;
/// Groups inside each other.
const DEEPEST: usize = 64;

#[derive(Clone, Debug, PartialEq, Eq)]
enum Token {
    /// `\frac`, without its stroke.
    Command(String),
    Char(char),
    Open,
    Close,
}

/// Why something that was built up cannot be put as one would type it. The words are for the student.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum BuiltError {
    EmptyBox,
    /// What cannot be typed.
    Unknown(String),
    TooLong,
    Unfinished,
}

impl std::fmt::Display for BuiltError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            BuiltError::EmptyBox => write!(f, "A box is still empty."),
            BuiltError::Unknown(what) => write!(f, "{what} can't be used in an answer here."),
            BuiltError::TooLong => write!(f, "This is too long to be an answer."),
            BuiltError::Unfinished => write!(f, "Something is still missing."),
        }
    }
}

impl std::error::Error for BuiltError {}

/// What one would type for maths in LaTeX, as a field on the screen gives it.
///
/// ```
/// use maths::entry_from_latex;
/// assert_eq!(entry_from_latex(r"\frac{x+1}{2\sqrt{3}}").unwrap(), "(x+1)/(2sqrt(3))");
/// ```
///
/// # Errors
/// What cannot be typed, or is still empty.
pub fn entry_from_latex(latex: &str) -> Result<String, BuiltError> {
    if latex.len() > LONGEST {
        return Err(BuiltError::TooLong);
    }
    let mut built = Built {
        tokens: tokens(latex).into_iter().peekable(),
        depth: 0,
    };
    let entry = built.until(&[])?;
    Ok(entry.split_whitespace().collect::<Vec<_>>().join(" "))
}

fn tokens(latex: &str) -> Vec<Token> {
    let mut out = Vec::new();
    let mut chars = latex.chars().peekable();
    while let Some(c) = chars.next() {
        match c {
            '{' => out.push(Token::Open),
            '}' => out.push(Token::Close),
            '\\' => {
                let mut name = String::new();
                while let Some(letter) = chars.next_if(char::is_ascii_alphabetic) {
                    name.push(letter);
                }
                if name.is_empty() {
                    name.extend(chars.next());
                }
                out.push(Token::Command(name));
            }
            other => out.push(Token::Char(other)),
        }
    }
    out
}

struct Built {
    tokens: Peekable<IntoIter<Token>>,
    depth: usize,
}

impl Built {
    /// Everything up to one of these commands, or to a closing brace or the end.
    fn until(&mut self, ends: &[&str]) -> Result<String, BuiltError> {
        self.depth += 1;
        if self.depth > DEEPEST {
            return Err(BuiltError::TooLong);
        }
        let mut out = String::new();
        while let Some(token) = self.tokens.peek() {
            match token {
                Token::Close => break,
                Token::Command(name) if ends.contains(&name.as_str()) => break,
                Token::Char('&') if ends.contains(&"&") => break,
                Token::Char(']') if ends.contains(&"]") => break,
                _ => {}
            }
            let Some(token) = self.tokens.next() else { break };
            self.put(token, &mut out)?;
        }
        self.depth -= 1;
        Ok(out)
    }

    fn put(&mut self, token: Token, out: &mut String) -> Result<(), BuiltError> {
        match token {
            Token::Open => {
                let inside = self.group()?;
                out.push_str(&inside);
            }
            Token::Close => {}
            Token::Char('^') => {
                let exponent = self.argument()?;
                if exponent == "°" {
                    out.push('°');
                } else {
                    out.push('^');
                    out.push_str(&held(&exponent));
                }
            }
            Token::Char('_') => {
                let index = self.argument()?;
                out.push('_');
                out.push_str(&index);
            }
            Token::Char(c) => out.push(if c == '~' { ' ' } else { c }),
            Token::Command(name) => self.command(&name, out)?,
        }
        Ok(())
    }

    /// Up to the brace that closes this one.
    fn group(&mut self) -> Result<String, BuiltError> {
        let inside = self.until(&[])?;
        match self.tokens.next() {
            Some(Token::Close) => Ok(inside),
            _ => Err(BuiltError::Unfinished),
        }
    }

    /// What a command takes: a group, or the next sign alone.
    fn argument(&mut self) -> Result<String, BuiltError> {
        while self.tokens.next_if_eq(&Token::Char(' ')).is_some() {}
        let inside = match self.tokens.next() {
            Some(Token::Open) => self.group()?,
            Some(token) => {
                let mut out = String::new();
                self.put(token, &mut out)?;
                out
            }
            None => return Err(BuiltError::Unfinished),
        };
        if inside.trim().is_empty() {
            Err(BuiltError::EmptyBox)
        } else {
            Ok(inside)
        }
    }

    fn command(&mut self, name: &str, out: &mut String) -> Result<(), BuiltError> {
        let sign = match name {
            "frac" | "dfrac" | "tfrac" | "cfrac" => {
                let (top, bottom) = (self.argument()?, self.argument()?);
                // A number right before a fraction of numbers is a mixed number.
                if out.ends_with(|c: char| c.is_ascii_digit()) {
                    out.push(' ');
                }
                out.push_str(&format!("{}/{}", held(&top), held(&bottom)));
                return Ok(());
            }
            "sqrt" => {
                let index = match self.tokens.next_if_eq(&Token::Char('[')) {
                    Some(_) => {
                        let index = self.until(&["]"])?;
                        self.tokens.next();
                        Some(index)
                    }
                    None => None,
                };
                let inside = self.argument()?;
                match index.as_deref().map(str::trim) {
                    None | Some("" | "2") => out.push_str(&format!("sqrt({inside})")),
                    Some(n) => out.push_str(&format!("root({n}, {inside})")),
                }
                return Ok(());
            }
            "left" => return self.fenced(out),
            "right" => return Err(BuiltError::Unfinished),
            "placeholder" => return Err(BuiltError::EmptyBox),
            "begin" => return self.matrix(out),
            "mathrm" | "text" | "operatorname" | "mathit" | "mathbf" | "textrm" | "mathbin" | "mathrel" => {
                let inside = self.argument()?;
                out.push_str(&inside);
                return Ok(());
            }
            "cdot" | "times" | "ast" => "*",
            "div" => "÷",
            "pi" => "pi",
            "infty" => "∞",
            "le" | "leq" | "leqslant" => "≤",
            "ge" | "geq" | "geqslant" => "≥",
            "lt" => "<",
            "gt" => ">",
            "cup" => " ∪ ",
            "pm" => "±",
            "circ" | "degree" => "°",
            "exponentialE" => "e",
            "imaginaryI" => "i",
            "lbrack" => "[",
            "rbrack" => "]",
            "lbrace" | "{" => "{",
            "rbrace" | "}" => "}",
            "lparen" => "(",
            "rparen" => ")",
            "langle" => "<",
            "rangle" => ">",
            "vert" | "lvert" | "rvert" => "|",
            "%" => "%",
            "," | ";" | ":" | "!" | " " | "quad" | "differentialD" => " ",
            _ => "",
        };
        if !sign.is_empty() {
            out.push_str(sign);
            return Ok(());
        }
        let known = name.chars().all(|c| c.is_ascii_alphabetic())
            && (FUNCTIONS.contains(&name) || super::greek_sign(name).is_some());
        if !known {
            return Err(BuiltError::Unknown(format!("\\{name}")));
        }
        if out.ends_with(|c: char| c.is_ascii_alphabetic()) {
            out.push(' ');
        }
        out.push_str(name);
        // A name and what follows it must not grow together.
        if matches!(self.tokens.peek(), Some(Token::Char(c)) if c.is_ascii_alphanumeric()) {
            out.push(' ');
        }
        Ok(())
    }

    /// `\left( … \right)`, with any pair of brackets.
    fn fenced(&mut self, out: &mut String) -> Result<(), BuiltError> {
        let open = self.bracket()?;
        let inside = self.until(&["right"])?;
        if self.tokens.next().is_none() {
            return Err(BuiltError::Unfinished);
        }
        let close = self.bracket()?;
        if inside.trim().is_empty() {
            return Err(BuiltError::EmptyBox);
        }
        match (open.as_str(), close.as_str()) {
            ("|", "|") => out.push_str(&format!("abs({inside})")),
            ("lfloor", "rfloor") => out.push_str(&format!("floor({inside})")),
            ("lceil", "rceil") => out.push_str(&format!("ceil({inside})")),
            (open, close) => out.push_str(&format!("{open}{inside}{close}")),
        }
        Ok(())
    }

    fn bracket(&mut self) -> Result<String, BuiltError> {
        match self.tokens.next() {
            Some(Token::Char(c)) => Ok(c.to_string()),
            Some(Token::Command(name)) if ["lfloor", "rfloor", "lceil", "rceil"].contains(&name.as_str()) => {
                Ok(name)
            }
            Some(Token::Command(name)) => {
                let mut out = String::new();
                self.command(&name, &mut out)?;
                Ok(out)
            }
            _ => Err(BuiltError::Unfinished),
        }
    }

    /// `\begin{bmatrix} a & b \\ c & d \end{bmatrix}`.
    fn matrix(&mut self, out: &mut String) -> Result<(), BuiltError> {
        let name = self.argument()?;
        if !name.ends_with("matrix") {
            return Err(BuiltError::Unknown(name));
        }
        let mut rows: Vec<Vec<String>> = vec![Vec::new()];
        loop {
            let cell = self.until(&["&", "\\", "end"])?;
            if cell.trim().is_empty() {
                return Err(BuiltError::EmptyBox);
            }
            if let Some(row) = rows.last_mut() {
                row.push(cell.trim().to_owned());
            }
            match self.tokens.next() {
                Some(Token::Char('&')) => {}
                Some(Token::Command(c)) if c == "\\" => rows.push(Vec::new()),
                Some(Token::Command(c)) if c == "end" => break,
                _ => return Err(BuiltError::Unfinished),
            }
        }
        self.argument()?;
        let row = |cells: &Vec<String>| format!("[{}]", cells.join(", "));
        let rows: Vec<String> = rows.iter().map(row).collect();
        out.push_str(&format!("[{}]", rows.join(", ")));
        Ok(())
    }
}

const FUNCTIONS: &[&str] = &[
    "sin", "cos", "tan", "sec", "csc", "cot", "arcsin", "arccos", "arctan", "sinh", "cosh", "tanh", "ln",
    "log", "exp", "min", "max",
];

/// In brackets where it would fall apart without them.
fn held(inside: &str) -> String {
    let inside = inside.trim();
    let single = inside.chars().all(|c| c.is_ascii_digit() || c == '.') || inside.chars().count() == 1;
    if single {
        inside.to_owned()
    } else {
        format!("({inside})")
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case::fraction(r"\frac{x+1}{2}", "(x+1)/2")]
    #[case::short(r"\frac12", "1/2")]
    #[case::mixed(r"2\frac{3}{4}", "2 3/4")]
    #[case::power(r"x^{10}", "x^10")]
    #[case::short_power("x^2y", "x^2y")]
    #[case::root(r"\sqrt{2x}", "sqrt(2x)")]
    #[case::cube_root(r"\sqrt[3]{x}", "root(3, x)")]
    #[case::brackets(r"2\left(x-1\right)", "2(x-1)")]
    #[case::amount(r"\left|x-1\right|", "abs(x-1)")]
    #[case::times(r"3\cdot4\times5", "3*4*5")]
    #[case::function(r"\sin\left(2x\right)", "sin(2x)")]
    #[case::function_and_letter(r"\sin x", "sin x")]
    #[case::pi(r"2\pi r", "2pi r")]
    #[case::degrees(r"30^{\circ}", "30°")]
    #[case::interval(r"\left[2,\infty\right)", "[2,∞)")]
    #[case::union(r"(1,2)\cup[3,4]", "(1,2) ∪ [3,4]")]
    #[case::at_least(r"x\ge3", "x≥3")]
    #[case::set(r"\left\lbrace1,2\right\rbrace", "{1,2}")]
    #[case::matrix(r"\begin{bmatrix}1&2\\3&4\end{bmatrix}", "[[1, 2], [3, 4]]")]
    #[case::unit(r"5\,\mathrm{kN}", "5 kN")]
    #[case::inside_each_other(r"\frac{1}{\sqrt{\frac{x}{2}}}", "1/(sqrt(x/2))")]
    #[case::nothing("", "")]
    fn what_is_built_up_is_put_as_one_would_type_it(#[case] latex: &str, #[case] typed: &str) {
        assert_eq!(entry_from_latex(latex).as_deref(), Ok(typed));
    }

    #[rstest]
    #[case::a_box(r"\frac{x}{\placeholder{}}", BuiltError::EmptyBox)]
    #[case::nothing_below(r"\frac{x}{}", BuiltError::EmptyBox)]
    #[case::an_integral(r"\int x", BuiltError::Unknown("\\int".into()))]
    #[case::cut_off(r"\frac{x}", BuiltError::Unfinished)]
    #[case::open(r"\left(x", BuiltError::Unfinished)]
    #[case::empty_cell(r"\begin{bmatrix}1&\\3&4\end{bmatrix}", BuiltError::EmptyBox)]
    fn what_cannot_be_typed_is_said(#[case] latex: &str, #[case] error: BuiltError) {
        assert_eq!(entry_from_latex(latex), Err(error));
    }

    #[test]
    fn megabytes_are_refused() {
        assert_eq!(entry_from_latex(&"{".repeat(1_000_000)), Err(BuiltError::TooLong));
        assert!(entry_from_latex(&"{".repeat(LONGEST)).is_err());
    }
}
