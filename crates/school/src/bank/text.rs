//! A question edited as text.

use marking::{Question, parse_question};

use super::check::{About, Fault, check_question};

/// Something wrong with a text, at a line from 1.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct TextFault {
    pub line: usize,
    pub words: String,
}

/// Bytes of a question's text.
pub const LONGEST_TEXT: usize = 60_000;

/// The line that a reader's message names.
pub(crate) fn line_in(words: &str) -> usize {
    let after = words.split("line ").nth(1).unwrap_or_default();
    let digits: String = after.chars().take_while(char::is_ascii_digit).collect();
    digits.parse().unwrap_or(1)
}

/// Reads a question's text.
///
/// # Errors
/// What cannot be read, and where.
pub fn read_text(text: &str) -> Result<Question, TextFault> {
    if text.len() > LONGEST_TEXT {
        return Err(TextFault {
            line: 1,
            words: "This is too long for a question: 60,000 characters at most.".into(),
        });
    }
    parse_question(text).map_err(|e| {
        let words = e.to_string();
        TextFault {
            line: line_in(&words),
            words: without_place(&words),
        }
    })
}

/// What a reader of YAML says, without the place, which stands beside it, and without a picture of it.
pub(crate) fn without_place(words: &str) -> String {
    let first = words.lines().next().unwrap_or_default();
    let said = first.strip_prefix("error: ").unwrap_or(first);
    let after = said
        .strip_prefix("line ")
        .and_then(|rest| rest.split_once(": "))
        .filter(|(place, _)| place.chars().all(|c| c.is_ascii_digit() || "column ".contains(c)));
    after.map_or(said, |(_, what)| what).to_owned()
}

/// Everything that is wrong with a question's text, as `bank check` finds it. This computes for a second or so.
pub fn check_text(text: &str) -> Vec<TextFault> {
    let question = match read_text(text) {
        Ok(question) => question,
        Err(fault) => return vec![fault],
    };
    let find = |word: &str| text.lines().position(|l| l.contains(word)).map(|n| n + 1);
    let line_of = |word: &str| find(word).unwrap_or(1);
    // A number that is not there is named in quotes, and asked for where it stands in braces; what is about the whole of it
    // names in quotes what it is about.
    let named = |f: &Fault| {
        let mut quoted = f.words.split('`').skip(1).step_by(2);
        quoted.find_map(|word| {
            let used = find(&format!("{{{{{word}}}}}"));
            used.or_else(|| find(word).filter(|_| f.about == About::Whole))
        })
    };
    let at = |f: Fault| TextFault {
        line: named(&f).unwrap_or_else(|| f.about.line(text)),
        words: f.words,
    };
    let mut faults: Vec<TextFault> = check_question(&question).into_iter().map(at).collect();
    for skill in question.skills.iter().filter(|s| crate::find_skill(s).is_none()) {
        faults.push(TextFault {
            line: line_of("skills:"),
            words: format!("there is no skill `{skill}`"),
        });
    }
    for sound in question
        .sounds
        .values()
        .filter(|s| crate::find_sound(&s.file).is_none())
    {
        faults.push(TextFault {
            line: line_of(&sound.file),
            words: format!("there is no recording `{}`", sound.file),
        });
    }
    let beside = question.exhibits.iter().filter_map(|e| e.recording.as_deref());
    for name in beside.filter(|n| !crate::content::ships(n) && uuid::Uuid::parse_str(n).is_err()) {
        faults.push(no_recording(text, name));
    }
    faults
}

fn no_recording(text: &str, name: &str) -> TextFault {
    TextFault {
        line: text.lines().position(|l| l.contains(name)).map_or(1, |n| n + 1),
        words: format!("there is no recording `{name}`"),
    }
}

/// Uploaded recordings that a question names and that are not there; which are, only the database knows.
///
/// # Errors
/// What the database said.
pub async fn missing_uploads(
    school: &crate::School,
    question: &Question,
    text: &str,
) -> Result<Vec<TextFault>, crate::SchoolError> {
    let beside = question.exhibits.iter().filter_map(|e| e.recording.as_deref());
    let missing = crate::recordings::missing_recordings(school, beside).await?;
    Ok(missing.iter().map(|name| no_recording(text, name)).collect())
}

/// The text of a version that came without one.
pub fn text_of(question: &Question) -> String {
    serde_saphyr::to_string(question).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;

    const GOOD: &str = "id: doubled\ntitle: Doubled\nskills: [fractions]\npoints: 1\nnumbers: {n: {from: 100, to: 900}}\ntext: 'Twice {{n}}?'\nparts:\n  - {id: a, interaction: text_entry, answer: {kind: number, key: '2*{{n}}'}}\n";

    #[test]
    fn what_the_reader_says_stands_without_its_place() {
        let faults = check_text("id: a\ntitle: b");
        assert_eq!(faults.len(), 1);
        assert_eq!(faults[0].words, "missing field `points`");
        assert_eq!(
            without_place("error: line 12 column 3: what: and why\n --> picture"),
            "what: and why"
        );
        assert_eq!(without_place("line of thought: none"), "line of thought: none");
        assert_eq!(without_place(""), "");
    }

    #[test]
    fn faults_stand_at_their_lines() {
        assert_eq!(check_text(GOOD), []);
        let lines = |text: &str| {
            let mut lines: Vec<usize> = check_text(text).iter().map(|f| f.line).collect();
            lines.dedup();
            lines
        };
        assert_eq!(lines(&GOOD.replace("fractions", "juggling")), [3]);
        assert_eq!(lines(&GOOD.replace("from: 100", "from: 898")), [5]);
        let nameless = GOOD.replace("2*{{n}}", "2*{{m}}");
        assert_eq!(lines(&nameless), [8], "{:?}", check_text(&nameless));
        assert_eq!(lines(&GOOD.replace("points: 1", "points: one")), [4]);
        let beside = |name: &str| {
            GOOD.to_owned() + &format!("exhibits:\n  - {{id: seen, title: Seen, recording: {name}}}\n")
        };
        assert_eq!(lines(&beside("early-shift")), Vec::<usize>::new());
        assert_eq!(lines(&beside("late-shift")), [10]);
        assert_eq!(lines(&beside("../early-shift")).len(), 1);
        assert_eq!(lines("- nothing"), [1]);
        assert_eq!(check_text(&"x".repeat(LONGEST_TEXT + 1)).len(), 1);
    }

    #[test]
    fn a_question_without_its_text_is_written_so_that_it_reads_back() {
        let question = read_text(GOOD).unwrap();
        assert_eq!(read_text(&text_of(&question)).unwrap(), question);
    }
}
