//! Class lists as teachers have them: typed, pasted from a spreadsheet, or a CSV file (RFC 4180). Each line that cannot be
//! taken is named with its reason; the rest goes in.

use std::collections::BTreeSet;

/// A student to be added.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RollLine {
    /// In the text, from 1.
    pub line: u64,
    pub name: String,
    /// Lower case. `None`: one is to be made from the name.
    pub user_name: Option<String>,
    pub group: Option<String>,
}

/// A line that cannot be taken.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RollFault {
    pub line: u64,
    pub text: String,
    pub why: String,
}

/// Lines of one list.
pub const MOST_LINES: usize = 1_000;
pub const LONGEST_NAME: usize = 80;
const LONGEST_USER_NAME: usize = 40;
const LONGEST_GROUP: usize = 30;

/// The character between the columns: the one that the first line has most of.
fn delimiter(text: &str) -> u8 {
    let first = text.lines().find(|l| !l.trim().is_empty()).unwrap_or_default();
    let count = |d: u8| first.bytes().filter(|b| *b == d).count();
    // Of as many, the one that stands in no name goes first.
    [b'\t', b';', b',']
        .into_iter()
        .rev()
        .max_by_key(|d| count(*d))
        .filter(|d| count(*d) > 0)
        .unwrap_or(b',')
}

/// Where the columns are. Without a first line that names them: name, user name, group.
#[derive(Clone, Copy)]
struct Columns {
    name: usize,
    user_name: Option<usize>,
    group: Option<usize>,
}

fn columns(first: &csv::StringRecord) -> Option<Columns> {
    let find = |words: &[&str]| {
        first.iter().position(|cell| {
            let cell = cell.trim().to_lowercase().replace(['_', '-'], " ");
            words.contains(&cell.as_str())
        })
    };
    let user_name = find(&["user name", "username", "user", "login"]);
    let name = find(&["name", "full name", "student", "display name"])?;
    Some(Columns {
        name,
        user_name,
        group: find(&["group", "set"]),
    })
}

/// Why this is no user name. It is what somebody types to sign in: letters and digits, and `.`, `-`, `_` between them.
pub fn user_name_fault(name: &str) -> Option<String> {
    if name.chars().count() < 2 || name.chars().count() > LONGEST_USER_NAME {
        return Some(format!("A user name has 2 to {LONGEST_USER_NAME} characters."));
    }
    let fine = |c: char| c.is_alphanumeric() || matches!(c, '.' | '-' | '_');
    if !name.chars().all(fine) || !name.chars().next().is_some_and(char::is_alphanumeric) {
        return Some("A user name has letters, digits, dots and hyphens only.".into());
    }
    None
}

/// Why this is no name for a person.
pub fn name_fault(name: &str) -> Option<String> {
    if name.is_empty() {
        return Some("There is no name on this line.".into());
    }
    if name.chars().count() > LONGEST_NAME || name.chars().any(char::is_control) {
        return Some(format!("A name has {LONGEST_NAME} characters at most."));
    }
    if !name.chars().any(char::is_alphabetic) {
        return Some("This is no name: it has no letter.".into());
    }
    None
}

/// A user name made from a name: `ebba.tornvik`.
pub fn user_name_from(name: &str) -> String {
    let words = name
        .split(|c: char| !c.is_alphanumeric())
        .filter(|w| !w.is_empty());
    let made: Vec<String> = words.map(str::to_lowercase).collect();
    let mut made: String = made.join(".").chars().take(LONGEST_USER_NAME - 4).collect();
    while made.ends_with('.') {
        made.pop();
    }
    if made.chars().count() < 2 {
        made.push_str("student");
    }
    made
}

/// The lines of a class list, and those that cannot be taken.
pub fn read_roll(text: &str) -> (Vec<RollLine>, Vec<RollFault>) {
    let text = text.trim_start_matches('\u{feff}');
    let mut reader = csv::ReaderBuilder::new()
        .has_headers(false)
        .flexible(true)
        .delimiter(delimiter(text))
        .from_reader(text.as_bytes());
    let (mut lines, mut faults) = (Vec::new(), Vec::new());
    let mut places: Option<Columns> = None;
    let mut seen = BTreeSet::new();
    for record in reader.records() {
        let record = match record {
            Ok(record) => record,
            Err(error) => {
                let line = error.position().map_or(0, csv::Position::line);
                faults.push(RollFault {
                    line,
                    text: String::new(),
                    why: "This line can't be read as a table.".into(),
                });
                continue;
            }
        };
        if record.iter().all(|cell| cell.trim().is_empty()) {
            continue;
        }
        let places = match places {
            Some(places) => places,
            None => {
                let named = columns(&record);
                let found = named.unwrap_or(Columns {
                    name: 0,
                    user_name: Some(1),
                    group: Some(2),
                });
                places = Some(found);
                if named.is_some() {
                    continue;
                }
                found
            }
        };
        let line = record.position().map_or(0, csv::Position::line);
        if lines.len() >= MOST_LINES {
            faults.push(RollFault {
                line,
                text: shown(&record),
                why: format!("More than {MOST_LINES} lines: add the rest as a second list."),
            });
            break;
        }
        match read_line(&record, places, line) {
            Ok(found) => {
                let twice = found.user_name.clone().is_some_and(|u| !seen.insert(u));
                if twice {
                    faults.push(RollFault {
                        line,
                        text: shown(&record),
                        why: "This user name stands on an earlier line, too.".into(),
                    });
                } else {
                    lines.push(found);
                }
            }
            Err(why) => faults.push(RollFault {
                line,
                text: shown(&record),
                why,
            }),
        }
    }
    (lines, faults)
}

fn shown(record: &csv::StringRecord) -> String {
    let cells: Vec<&str> = record.iter().map(str::trim).collect();
    cells.join(", ").chars().take(120).collect()
}

fn read_line(record: &csv::StringRecord, places: Columns, line: u64) -> Result<RollLine, String> {
    let cell = |at: Option<usize>| {
        at.and_then(|at| record.get(at))
            .map(str::trim)
            .unwrap_or_default()
    };
    let name: String = cell(Some(places.name))
        .split_whitespace()
        .collect::<Vec<_>>()
        .join(" ");
    if let Some(why) = name_fault(&name) {
        return Err(why);
    }
    let user_name = cell(places.user_name).to_lowercase();
    let user_name = Some(user_name).filter(|u| !u.is_empty());
    if let Some(why) = user_name.as_deref().and_then(user_name_fault) {
        return Err(why);
    }
    let group = cell(places.group);
    if group.chars().count() > LONGEST_GROUP {
        return Err(format!("A group's name has {LONGEST_GROUP} characters at most."));
    }
    Ok(RollLine {
        line,
        name,
        user_name,
        group: Some(group.to_owned()).filter(|g| !g.is_empty()),
    })
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    type Row = (String, Option<String>, Option<String>);

    fn names(text: &str) -> (Vec<Row>, Vec<(u64, String)>) {
        let (lines, faults) = read_roll(text);
        (
            lines
                .into_iter()
                .map(|l| (l.name, l.user_name, l.group))
                .collect(),
            faults.into_iter().map(|f| (f.line, f.why)).collect(),
        )
    }

    fn line(name: &str, user: &str, group: &str) -> Row {
        let some = |s: &str| Some(s.to_owned()).filter(|s| !s.is_empty());
        (name.into(), some(user), some(group))
    }

    #[rstest]
    #[case::commas("Ada Quill,ada,North\nBo Larch,bo,\n")]
    #[case::semicolons("Ada Quill;ada;North\nBo Larch;bo\n")]
    #[case::pasted("Ada Quill\tada\tNorth\r\nBo Larch\tbo\r\n")]
    #[case::a_mark_and_heads("\u{feff}Group,User name,Name\nNorth,ADA,Ada Quill\n,bo,Bo Larch")]
    #[case::quoted("\"Ada  Quill\",ada,\"North\"\n\n \"Bo Larch\",bo\n")]
    #[case::heads_of_others("user_name;name;group;remark\nada;Ada Quill;North;x\nbo;Bo Larch;;\n")]
    fn lists_are_taken_as_they_come(#[case] text: &str) {
        let expected = vec![line("Ada Quill", "ada", "North"), line("Bo Larch", "bo", "")];
        // A quote that does not open its cell stands for itself.
        let (found, faults) = names(&text.replace(" \"Bo Larch\"", "Bo Larch"));
        assert_eq!((found, faults), (expected, vec![]));
    }

    #[test]
    fn what_cannot_be_taken_is_named_and_the_rest_goes_in() {
        let text = "Ada Quill,ada\n,bo\nCy Fenn,c y\n12,dee\nEve Moss,ada\nFay Reed,f\nGil Roe,gil,a group with a name that is far too long\nHal Orr";
        let (found, faults) = names(text);
        assert_eq!(found, [line("Ada Quill", "ada", ""), line("Hal Orr", "", "")]);
        let lines: Vec<u64> = faults.iter().map(|(line, _)| *line).collect();
        assert_eq!(lines, [2, 3, 4, 5, 6, 7], "{faults:?}");
        assert!(faults[3].1.contains("earlier line"), "{faults:?}");
    }

    #[rstest]
    #[case("Ebba Tornvik", "ebba.tornvik")]
    #[case("  O'Neill, Åse ", "o.neill.åse")]
    #[case("X", "xstudent")]
    fn a_user_name_is_made_from_a_name(#[case] name: &str, #[case] made: &str) {
        assert_eq!(user_name_from(name), made);
        assert_eq!(user_name_fault(&user_name_from(name)), None);
    }

    #[test]
    fn long_and_odd_lists_are_no_trouble() {
        let long: String = (0..1_200).map(|n| format!("Student S{n},s{n}\n")).collect();
        let (lines, faults) = read_roll(&long);
        assert_eq!((lines.len(), faults.len()), (MOST_LINES, 1));
        for odd in [
            "",
            "\u{feff}",
            "\"",
            ",,,\n;;;",
            "\"open\nname",
            "name\n",
            "a\u{0}b,c\u{0}d",
        ] {
            let (lines, faults) = read_roll(odd);
            assert!(lines.len() + faults.len() <= 2, "{odd:?}: {lines:?} {faults:?}");
        }
        assert_eq!(user_name_fault(&user_name_from(&"long ".repeat(40))), None);
    }
}
