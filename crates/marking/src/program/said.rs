//! What the language says of an error, and what it means for somebody who writes their first programs.

use super::ProgramFault;

/// The word that stands between single quotation marks in what the language says.
fn quoted(said: &str) -> Option<&str> {
    said.split('\'').nth(1).filter(|word| !word.is_empty())
}

/// What an error means, as a sentence or two that follow "Line 3: "; `None` where what the language says has to do.
pub(super) fn meaning(kind: ProgramFault, said: &str) -> Option<String> {
    let words = match (kind, said) {
        (ProgramFault::Syntax, "invalid redefinition of lexical identifier") => {
            "a name is declared here for the second time. Leave out “let” or “const” to give it a new value, or choose another name."
        }
        (ProgramFault::Syntax, "missing initializer for variable") => {
            "a “const” needs its value at once: const a = 3. Use “let” for what gets its value later."
        }
        // Nothing stands between the quotation marks where it ends inside a block or an expression.
        (ProgramFault::Syntax, said) if said == "Unexpected end of input" || said.ends_with("''") => {
            "the program ends before everything that was opened is closed. Look for a missing bracket."
        }
        (ProgramFault::Syntax, "unexpected end of string") => {
            "a text is not closed. Look for a missing quotation mark."
        }
        (ProgramFault::Syntax, "unexpected character" | "a character that no program has") => {
            "there is a character here that a program can't have. Quotation marks must be straight."
        }
        (ProgramFault::Syntax, "invalid number literal") => {
            "a number runs straight into letters here. A name must begin with a letter."
        }
        (ProgramFault::Syntax, "expected 'of' or 'in' in for control expression") => {
            "the three parts of a “for” have semicolons between them: for (let i = 0; i < 3; i++)."
        }
        (ProgramFault::Syntax, "return not in a function") => "“return” stands outside every function.",
        (ProgramFault::Syntax, "break must be inside loop or switch") => "“break” stands outside every loop.",
        (ProgramFault::Syntax, "continue must be inside loop") => "“continue” stands outside every loop.",
        (ProgramFault::Syntax, "expecting ';'") => {
            "a statement should end here, but more follows. Look for a misspelt word, a missing operator, or a bracket or quotation mark that is missing or one too many."
        }
        (ProgramFault::Syntax, _) => {
            let word = quoted(said)?;
            return Some(if said.starts_with("expecting") {
                format!("“{word}” is expected here. Look here and on the line before.")
            } else {
                format!(
                    "“{word}” can't stand here. Either something is missing before it (a bracket, a value, a comma) or it is one too many."
                )
            });
        }
        (ProgramFault::Type, "not a function") => {
            "what is called here is not a function. Check its spelling, and that no value has the same name."
        }
        (ProgramFault::Type, _) => {
            let word = quoted(said)?;
            if said.ends_with("is read-only") {
                return Some(format!(
                    "“{word}” is a constant and keeps its value. Declare it with “let” if it is to change."
                ));
            }
            let of = ["undefined", "null"]
                .into_iter()
                .find(|of| said.ends_with(&format!("of {of}")))?;
            return Some(format!(
                "“{word}” is asked of something that has no value: it is {of}. Print it on the line before to see where that comes from."
            ));
        }
        _ => return None,
    };
    Some(words.to_owned())
}
