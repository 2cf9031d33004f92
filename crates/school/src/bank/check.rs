//! What is wrong with one question, as far as it shows in the sets drawn of it.

use std::collections::BTreeSet;

use marking::{ItemPart, Question, render};

/// Sets drawn of each question in a check.
const SETS: u64 = 200;
/// The same where each runs programs.
const SETS_OF_PROGRAMS: u64 = 25;
const FEWEST_ANSWERS: usize = 20;

/// Something wrong with a question, and what part of its file it is about.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Fault {
    pub about: About,
    pub words: String,
}

#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum About {
    Whole,
    Part(String),
    Help,
    Numbers,
}

impl About {
    /// The line, from 1, at which it begins in the file.
    pub fn line(&self, text: &str) -> usize {
        let begins = |l: &str| {
            let l = l
                .trim_start()
                .trim_start_matches("- ")
                .trim_start_matches('{')
                .trim_start();
            match self {
                About::Whole => l.starts_with("id:"),
                About::Part(id) => l
                    .split(',')
                    .next()
                    .is_some_and(|head| head.trim_end() == format!("id: {id}")),
                About::Help => l.starts_with("help:"),
                About::Numbers => l.starts_with("numbers:"),
            }
        };
        text.lines().position(begins).map_or(1, |n| n + 1)
    }
}

/// Sets that are drawn of a question: each takes some processes where programs are run.
fn sets_of(question: &Question) -> u64 {
    let runs = |item: marking::Item| {
        item.parts
            .iter()
            .any(|p| !p.posed.job_of(&p.posed.key()).is_empty())
    };
    if render(question, 0).is_ok_and(runs) {
        SETS_OF_PROGRAMS
    } else {
        SETS
    }
}

/// What is wrong with one question: each fault once.
pub(super) fn check_question(question: &Question) -> BTreeSet<Fault> {
    let mut faults = BTreeSet::new();
    let mut answers = BTreeSet::new();
    for seed in 0..sets_of(question) {
        match render(question, seed) {
            Ok(item) => {
                answers.insert(format!("{:?}", item.answers()));
                for part in &item.parts {
                    check_part(part, &mut faults);
                }
                for words in marking::figure_faults(question, seed).unwrap_or_default() {
                    let about = About::Whole;
                    faults.insert(Fault { about, words });
                }
            }
            Err(fault) => {
                let about = match &fault {
                    marking::RenderError::Block { part, .. } => About::Part(part.clone()),
                    marking::RenderError::Draw(_) => About::Numbers,
                    _ => About::Whole,
                };
                let words = fault.to_string();
                faults.insert(Fault { about, words });
            }
        }
    }
    match marking::worked_example(question) {
        Ok(_) => {}
        Err(fault) => {
            let words = format!("the worked example: {fault}");
            faults.insert(Fault {
                about: About::Help,
                words,
            });
        }
    }
    let drawn = question.parts.iter().any(|p| p.interaction.is_typed());
    if faults.is_empty() && drawn && !question.few_answers && answers.len() < FEWEST_ANSWERS {
        let (found, sets) = (answers.len(), sets_of(question));
        let words = format!(
            "only {found} different answers in {sets} sets; draw from more numbers, or say `few_answers: true`"
        );
        faults.insert(Fault {
            about: About::Numbers,
            words,
        });
    }
    faults
}

fn check_part(part: &ItemPart, faults: &mut BTreeSet<Fault>) {
    let mut fault = |words: String| {
        faults.insert(Fault {
            about: About::Part(part.id.clone()),
            words: format!("part `{}`: {words}", part.id),
        });
    };
    let marking = part.mark(&part.posed.key()).marking;
    // Whether a person would give it full marks is not for us to say.
    if marking.score < 1.0 && !part.posed.is_by_hand() {
        let notes = marking.notes.join(" ");
        fault(format!(
            "its own key is marked {}: {notes}",
            marking.outcome.name()
        ));
    }
    part.posed.faults().into_iter().for_each(&mut fault);
    for reply in part.replies_to_the_key() {
        fault(format!("its key would set off reply {}", reply + 1));
    }
}
