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
            "a name is declared here that there is already. Leave out “let” or “const” to give it another value, or choose another name."
        }
        (ProgramFault::Syntax, "missing initializer for variable") => {
            "a “const” gets its value at once: const a = 3. What gets one later is declared with “let”."
        }
        (ProgramFault::Syntax, "Unexpected end of input") => {
            "the program ends before everything that was opened is closed. Look for a missing bracket."
        }
        (ProgramFault::Syntax, "unexpected end of string") => {
            "a text is not closed. Look for a missing quotation mark."
        }
        (ProgramFault::Syntax, "unexpected character" | "a character that no program has") => {
            "there is a character here that no program has. Quotation marks are straight ones."
        }
        (ProgramFault::Syntax, "invalid number literal") => {
            "a number runs into letters here. A name begins with a letter."
        }
        (ProgramFault::Syntax, "expected 'of' or 'in' in for control expression") => {
            "the three parts of a “for” have semicolons between them: for (let i = 0; i < 3; i++)."
        }
        (ProgramFault::Syntax, "return not in a function") => "“return” stands outside every function.",
        (ProgramFault::Syntax, "break must be inside loop or switch") => "“break” stands outside every loop.",
        (ProgramFault::Syntax, "continue must be inside loop") => "“continue” stands outside every loop.",
        (ProgramFault::Syntax, "expecting ';'") => {
            "a statement ends here, and more follows. Look for a word that is misspelt, for a missing operator, or for a bracket or quotation mark that is missing or too many."
        }
        (ProgramFault::Syntax, _) => {
            let word = quoted(said)?;
            return Some(if said.starts_with("expecting") {
                format!("“{word}” is expected here. Look here and on the line before.")
            } else {
                format!(
                    "“{word}” can't stand here. Something is missing before it, a bracket, a value or a comma, or it is too many."
                )
            });
        }
        (ProgramFault::Type, "not a function") => {
            "what is called here is no function. Check its spelling, and that no value has the same name."
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
