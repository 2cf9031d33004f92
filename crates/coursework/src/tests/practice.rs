//! Practice towards a goal.

use super::*;

fn candidate(question: &str, skills: &[&str]) -> PracticeCandidate {
    PracticeCandidate {
        question: question.into(),
        skills: skills.iter().map(ToString::to_string).collect(),
    }
}

fn goal(target: Target) -> PracticeGoal {
    PracticeGoal {
        skills: vec!["ratios".into(), "units".into()],
        target,
        question: None,
    }
}

pub(super) fn run_of(steps: &[(&str, Option<bool>)]) -> Run {
    let mut events = Vec::new();
    let mut add = |event| {
        let number = u32::try_from(events.len()).unwrap() + 1;
        events.push(RecordedPractice {
            number,
            at: noon() + Duration::minutes(i64::from(number)),
            event,
        });
    };
    for (question, right) in steps {
        add(PracticeEvent::Drawn {
            question: (*question).into(),
            version: "v".into(),
            seed: 1,
            skill: "ratios".into(),
            skills: vec!["ratios".into(), "units".into()],
            guess: 0.05,
        });
        if let Some(right) = right {
            add(PracticeEvent::Checked {
                parts: Vec::new(),
                right: *right,
            });
        }
    }
    fold_run(&events)
}

#[test]
fn the_weakest_skill_comes_first_and_its_questions_in_turn() {
    let all = [
        candidate("a", &["units", "ratios"]),
        candidate("b", &["ratios"]),
        candidate("c", &["ratios"]),
    ];
    let score = |skill: &str| if skill == "units" { 80 } else { 40 };
    let next = |run: &Run| choose(&goal(Target::Right(5)), &all, run, score).unwrap();
    assert_eq!(
        next(&Run::default()),
        (1, "ratios".into()),
        "those whose main skill it is come first"
    );
    assert_eq!(next(&run_of(&[("b", Some(true))])).0, 2);
    assert_eq!(next(&run_of(&[("b", Some(true)), ("c", Some(true))])).0, 0);
    let other = choose(&goal(Target::Right(5)), &all, &Run::default(), |s| {
        if s == "units" { 3 } else { 40 }
    });
    assert_eq!(other.unwrap(), (0, "units".into()));
}

#[test]
fn after_a_wrong_answer_comes_a_like_question() {
    let all = [candidate("a", &["ratios"]), candidate("b", &["ratios"])];
    let run = run_of(&[("a", Some(true)), ("b", Some(false))]);
    assert_eq!(choose(&goal(Target::Score(95)), &all, &run, |_| 50).unwrap().0, 1);
    assert_eq!(choose(&goal(Target::Score(95)), &[], &run, |_| 50), None);
}

fn reached(target: Target, run: &Run, score_of: impl Fn(&str) -> u8) -> f64 {
    goal(target).goal().measure(run, score_of, |_| false).reached
}

#[test]
fn progress_counts_right_answers_or_scores() {
    let run = run_of(&[
        ("a", Some(true)),
        ("b", Some(false)),
        ("b", Some(true)),
        ("a", None),
    ]);
    assert_eq!(reached(Target::Right(4), &run, |_| 0), 0.5);
    assert_eq!(reached(Target::Right(1), &run, |_| 0), 1.0);
    let score = |skill: &str| if skill == "units" { 99 } else { 30 };
    assert_eq!(reached(Target::Score(60), &run, score), 0.75);
    assert_eq!((run.right(), run.answered(), run.open().is_some()), (2, 3, true));
}

#[test]
fn each_answered_question_is_evidence_for_its_skills() {
    let found = practice_evidence(&PARAMETERS, &run_of(&[("a", Some(true)), ("b", None)]));
    let told: Vec<(&str, bool, f64)> = found
        .iter()
        .map(|(s, e)| (s.as_str(), e.right, e.weight))
        .collect();
    assert_eq!(told, [("ratios", true, 1.0), ("units", true, 0.5)]);
}

#[test]
fn a_second_check_of_the_same_question_changes_nothing() {
    let event = |number, right| RecordedPractice {
        number,
        at: noon(),
        event: PracticeEvent::Checked {
            parts: Vec::new(),
            right,
        },
    };
    let drawn = RecordedPractice {
        number: 1,
        at: noon(),
        event: PracticeEvent::Drawn {
            question: "a".into(),
            version: "v".into(),
            seed: 1,
            skill: "ratios".into(),
            skills: vec!["ratios".into()],
            guess: 0.05,
        },
    };
    let run = fold_run(&[drawn, event(2, false), event(3, true)]);
    assert_eq!((run.answered(), run.right()), (1, 0));
}
