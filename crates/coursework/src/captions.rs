//! Captions of a recording: WebVTT (W3C Candidate Recommendation, 2019), as far as a transcript needs it: cues with their times and
//! text. Styles, regions and settings of cues are read over.

use serde::Serialize;

/// Cues of one recording.
pub const MOST_CUES: usize = 5_000;

/// What is said or shown from one second to another.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Cue {
    pub start: f64,
    pub end: f64,
    /// Without markup.
    pub text: String,
}

#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum CaptionFault {
    #[error("captions begin with the line WEBVTT")]
    NoHead,
    #[error("line {0}: this is no time such as 00:12.500 --> 00:15.000")]
    Time(usize),
    #[error("line {0}: a caption ends before it begins, or begins before the one above it")]
    Order(usize),
    #[error("there are more than {MOST_CUES} captions")]
    TooMany,
}

/// Seconds of `12:34.567` or `1:12:34.567`.
fn seconds(text: &str) -> Option<f64> {
    let (clock, thousandths) = text.trim().split_once('.')?;
    if thousandths.len() != 3 || !thousandths.chars().all(|c| c.is_ascii_digit()) {
        return None;
    }
    let mut whole = 0_u32;
    let parts: Vec<&str> = clock.split(':').collect();
    if !(2..=3).contains(&parts.len()) {
        return None;
    }
    for (place, part) in parts.iter().enumerate() {
        let n: u32 = part.parse().ok()?;
        if part.len() < 2 || (place > 0 && n >= 60) {
            return None;
        }
        whole = whole.checked_mul(60)?.checked_add(n)?;
    }
    Some(f64::from(whole) + f64::from(thousandths.parse::<u32>().ok()?) / 1_000.0)
}

fn times(line: &str) -> Option<(f64, f64)> {
    let (start, rest) = line.split_once("-->")?;
    let end = rest.split_whitespace().next()?;
    Some((seconds(start)?, seconds(end)?))
}

/// Text without tags such as `<b>` and `<v Name>`; the five entities that WebVTT has as what they stand for.
fn plain(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut rest = text;
    while let Some((before, after)) = rest.split_once('<') {
        out.push_str(before);
        rest = after.split_once('>').map_or("", |(_, tail)| tail);
    }
    out.push_str(rest);
    for (entity, letter) in [
        ("&lt;", "<"),
        ("&gt;", ">"),
        ("&nbsp;", " "),
        ("&lrm;", ""),
        ("&rlm;", ""),
    ] {
        out = out.replace(entity, letter);
    }
    out.replace("&amp;", "&")
}

/// Reads captions. No text at all is none.
///
/// # Errors
/// The first thing that is wrong, with its line.
///
/// ```
/// let cues = coursework::parse_captions("WEBVTT\n\n00:01.000 --> 00:02.500\nYaw first.\n").unwrap();
/// assert_eq!((cues[0].start, cues[0].end, cues[0].text.as_str()), (1.0, 2.5, "Yaw first."));
/// ```
pub fn parse_captions(text: &str) -> Result<Vec<Cue>, CaptionFault> {
    let text = text.trim_start_matches('\u{feff}');
    if text.trim().is_empty() {
        return Ok(Vec::new());
    }
    let mut lines = text.lines().enumerate().peekable();
    let is_head =
        |line: &str| line == "WEBVTT" || line.starts_with("WEBVTT ") || line.starts_with("WEBVTT\t");
    if !lines.next().is_some_and(|(_, line)| is_head(line)) {
        return Err(CaptionFault::NoHead);
    }
    let mut cues: Vec<Cue> = Vec::new();
    while let Some((_, line)) = lines.next() {
        let line = line.trim();
        if line.is_empty() {
            continue;
        }
        let to_blank = |lines: &mut std::iter::Peekable<_>| -> Vec<String> {
            let lines: &mut std::iter::Peekable<std::iter::Enumerate<std::str::Lines>> = lines;
            let mut inside = Vec::new();
            while let Some((_, line)) = lines.next_if(|(_, l)| !l.trim().is_empty()) {
                inside.push(line.trim().to_owned());
            }
            inside
        };
        if line.starts_with("NOTE") || line.starts_with("STYLE") || line.starts_with("REGION") {
            to_blank(&mut lines);
            continue;
        }
        // A cue may have a name above its times.
        let (number, timed) = if line.contains("-->") {
            (0, line.to_owned())
        } else {
            match lines.next() {
                Some((number, timed)) => (number, timed.to_owned()),
                None => break,
            }
        };
        let number = if number == 0 {
            text.lines().position(|l| l.trim() == line).unwrap_or(0) + 1
        } else {
            number + 1
        };
        let (start, end) = times(&timed).ok_or(CaptionFault::Time(number))?;
        if end <= start || cues.last().is_some_and(|c| start < c.start) {
            return Err(CaptionFault::Order(number));
        }
        let said = plain(&to_blank(&mut lines).join(" "));
        if cues.len() == MOST_CUES {
            return Err(CaptionFault::TooMany);
        }
        cues.push(Cue {
            start,
            end,
            text: said.split_whitespace().collect::<Vec<_>>().join(" "),
        });
    }
    Ok(cues)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[test]
    fn cues_have_times_and_plain_text() {
        let read = parse_captions(
            "\u{feff}WEBVTT - yaw\n\nNOTE made by hand\nover two lines\n\nSTYLE\n::cue {}\n\nfirst\n00:00.000 --> 00:02.000 align:start\n<v Maren>Turn <b>slowly</b>\nand look.\n\n01:00:00.500 --> 01:00:01.000\n3 &lt; 4 &amp; 5\n",
        );
        let read = read.unwrap();
        let told: Vec<(f64, f64, &str)> = read.iter().map(|c| (c.start, c.end, c.text.as_str())).collect();
        assert_eq!(
            told,
            [(0.0, 2.0, "Turn slowly and look."), (3600.5, 3601.0, "3 < 4 & 5")]
        );
        assert_eq!(parse_captions(" \n"), Ok(Vec::new()));
    }

    #[rstest]
    #[case::no_head("00:01.000 --> 00:02.000\na", CaptionFault::NoHead)]
    #[case::another_head("WEBVTTX\n", CaptionFault::NoHead)]
    #[case::a_comma("WEBVTT\n\n00:01,000 --> 00:02,000\na", CaptionFault::Time(3))]
    #[case::no_thousandths("WEBVTT\n\n00:01 --> 00:02\na", CaptionFault::Time(3))]
    #[case::sixty("WEBVTT\n\n00:61.000 --> 00:62.000\na", CaptionFault::Time(3))]
    #[case::a_name_alone("WEBVTT\n\nfirst\nsaid\n", CaptionFault::Time(4))]
    #[case::backwards("WEBVTT\n\n00:03.000 --> 00:02.000\na", CaptionFault::Order(3))]
    #[case::out_of_order(
        "WEBVTT\n\n00:03.000 --> 00:04.000\na\n\n00:01.000 --> 00:02.000\nb",
        CaptionFault::Order(6)
    )]
    fn what_is_wrong_is_said_with_its_line(#[case] text: &str, #[case] fault: CaptionFault) {
        assert_eq!(parse_captions(text), Err(fault));
    }
}
