//! Practice towards a goal.

use proptest::prelude::*;

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
    goal(target)
        .goal()
        .measure(run.count(), score_of, |_| false, false, |_| (0.0, false))
        .reached
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

fn any_candidates() -> impl Strategy<Value = Vec<PracticeCandidate>> {
    let skills = prop::sample::subsequence(vec!["ratios", "units", "other"], 0..=3).prop_shuffle();
    proptest::collection::vec(skills, 0..8).prop_map(|all| {
        let named = |(n, skills): (usize, Vec<&str>)| candidate(&format!("q{n}"), &skills);
        all.into_iter().enumerate().map(named).collect()
    })
}

proptest! {
    /// A question is drawn whenever one fits the goal; it is on the weakest skill that can be practised; and a wrong
    /// answer is followed by the same question.
    #[test]
    fn what_is_drawn_fits_the_goal(
        candidates in any_candidates(),
        answers in proptest::collection::vec((0usize..8, any::<bool>()), 0..12),
        ratios in 0u8..=100,
        units in 0u8..=100,
    ) {
        let names: Vec<String> = answers.iter().map(|(n, _)| format!("q{n}")).collect();
        let steps: Vec<(&str, Option<bool>)> =
            names.iter().zip(&answers).map(|(name, (_, right))| (name.as_str(), Some(*right))).collect();
        let run = run_of(&steps);
        let score = |skill: &str| if skill == "ratios" { ratios } else { units };
        let goal = goal(Target::Score(95));
        let has = |skill: &str| candidates.iter().any(|c| c.skills.iter().any(|s| s == skill));
        let found = choose(&goal, &candidates, &run, score);
        let last = run.drawn.last().filter(|d| d.answered.as_ref().is_some_and(|a| !a.right));
        let again = last.and_then(|d| candidates.iter().position(|c| c.question == d.question));
        match (again, found) {
            (Some(place), found) => prop_assert_eq!(found.map(|f| f.0), Some(place)),
            (None, None) => prop_assert!(!has("ratios") && !has("units")),
            (None, Some((place, skill))) => {
                prop_assert!(candidates[place].skills.contains(&skill));
                let other = if skill == "ratios" { "units" } else { "ratios" };
                prop_assert!(!has(other) || score(&skill) <= score(other));
            }
        }
    }
}

#[test]
fn a_corrected_key_changes_what_a_check_was_worth_and_nothing_else() {
    let mut events = Vec::new();
    let mut add = |event| {
        let number = u32::try_from(events.len()).unwrap() + 1;
        events.push(RecordedPractice {
            number,
            at: noon() + Duration::minutes(i64::from(number)),
            event,
        });
    };
    let drawn = || PracticeEvent::Drawn {
        question: "a".into(),
        version: "old".into(),
        seed: 1,
        skill: "ratios".into(),
        skills: vec!["ratios".into()],
        guess: 0.05,
    };
    let checked = |right| PracticeEvent::Checked {
        parts: Vec::new(),
        right,
    };
    let corrected = |nth, right| PracticeEvent::Corrected {
        nth,
        version: "new".into(),
        parts: Vec::new(),
        right,
    };
    for event in [
        drawn(),
        checked(false),
        drawn(),
        checked(true),
        drawn(),
        corrected(1, true),
        corrected(3, true),
        corrected(9, true),
        corrected(0, true),
    ] {
        add(event);
    }
    let run = fold_run(&events);
    assert_eq!((run.right(), run.answered(), run.last_event), (2, 2, 9));
    let versions: Vec<&str> = run.drawn.iter().map(|d| d.version.as_str()).collect();
    assert_eq!(versions, ["new", "old", "old"]);
    assert!(run.open().is_some(), "what was not answered still waits");
    let when = practice_evidence(&PARAMETERS, &run)[0].1.at;
    assert_eq!(
        when,
        noon() + Duration::minutes(2),
        "evidence stays at its instant"
    );
}
