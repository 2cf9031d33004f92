//! What is written down of a work or a run beside its events, and what comes out of it again.

use proptest::prelude::*;

use super::rules::walk::{any_settings, moves, walk};
use super::*;

/// Through the writing and back.
fn reread<T: serde::Serialize + serde::de::DeserializeOwned>(state: &T) -> T {
    let bytes = rmp_serde::to_vec(state).unwrap();
    rmp_serde::from_slice(&bytes).unwrap()
}

fn skill_questions() -> Vec<SkillQuestion> {
    let of = |skills: &[&str]| SkillQuestion {
        skills: skills.iter().map(|s| (*s).to_owned()).collect(),
        guess: 0.05,
    };
    vec![of(&["ratios"]), of(&["units", "ratios"]), of(&["powers"])]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(1_000))]

    #[test]
    fn a_digest_answers_as_the_fold_from_nothing(settings in any_settings(), moves in moves(), days in 0..4i64) {
        let bench = walk(&settings, &moves, |step| {
            prop_assert_eq!(reread(step.after), step.after.digest());
            Ok(())
        })?;
        let (assignment, whole) = (&bench.assignment, bench.work());
        let digest = reread(&whole);
        let ids: Vec<std::sync::Arc<str>> = ["x", "y", "z"].map(Into::into).into();
        prop_assert_eq!(attempts_in_work(&whole, &ids, 4), attempts_in_work(&digest, &ids, 4));
        let evidence = |w: &Work| evidence_of(&PARAMETERS, w, &skill_questions());
        prop_assert_eq!(evidence(&whole), evidence(&digest));
        prop_assert_eq!(whole.has_typed(), digest.has_typed());
        prop_assert_eq!(score_so_far(assignment, &whole), score_so_far(assignment, &digest));
        let later = bench.now + Duration::days(days);
        for now in [bench.now, later] {
            prop_assert_eq!(state(assignment, &whole, now), state(assignment, &digest, now));
            prop_assert_eq!(terms(assignment, &whole), terms(assignment, &digest));
            prop_assert_eq!(recorded_now(assignment, &whole, now), recorded_now(assignment, &digest, now));
            prop_assert_eq!(tries_shown(assignment, &whole, now), tries_shown(assignment, &digest, now));
            prop_assert_eq!(results_out(assignment, &whole, false, now), results_out(assignment, &digest, false, now));
        }
        for question in 0..3 {
            let fresh = |w: &Work| may_take_fresh_numbers(assignment, w, question);
            prop_assert_eq!(fresh(&whole), fresh(&digest));
            prop_assert_eq!(whole.seeds(question), digest.seeds(question));
        }
    }

    #[test]
    fn an_attempt_is_a_slip_where_something_judged_was_not_right(settings in any_settings(), moves in moves()) {
        let bench = walk(&settings, &moves, |_| Ok(()))?;
        let work = bench.work();
        let standing = standing_checks(&bench.events);
        for set in work.questions.iter().flat_map(|q| &q.sets) {
            for record in &set.tries {
                let parts = &standing[&record.event].parts;
                prop_assert_eq!(parts, &record.parts);
                prop_assert_eq!(record.judged, parts.iter().any(|p| p.outcome.costs_a_try()));
                prop_assert_eq!(record.wrong, parts.iter().any(CheckedPart::is_wrong));
                prop_assert!(record.judged || !record.wrong);
            }
        }
    }

    #[test]
    fn what_is_to_be_told_is_found_after_the_last_event_told_of(settings in any_settings(), moves in moves(), seen in 0..60u32) {
        let bench = walk(&settings, &moves, |_| Ok(()))?;
        let told = notices(&bench.assignment, &bench.events, seen);
        prop_assert_eq!(told.is_empty(), bench.work().last_told <= seen);
    }

    #[test]
    fn a_runs_digest_answers_as_the_run(rights in proptest::collection::vec(prop::option::of(any::<bool>()), 0..12)) {
        let mut run = Run::default();
        for (n, right) in rights.iter().enumerate() {
            let drawn = PracticeEvent::Drawn {
                question: format!("q{}", n % 3),
                version: "v1".into(),
                seed: u64::MAX - n as u64,
                skill: "ratios".into(),
                skills: vec!["ratios".into(), "units".into()],
                guess: 0.25,
            };
            run = run.after(&drawn, noon() + Duration::minutes(n as i64));
            if let Some(right) = right {
                let parts = vec![CheckedPart::new(&marked("a", if *right { "5" } else { "4" }))];
                let checked = PracticeEvent::Checked { parts, right: *right };
                run = run.after(&checked, noon() + Duration::minutes(n as i64));
            }
        }
        let digest = reread(&run);
        prop_assert_eq!(&digest, &run.digest());
        prop_assert_eq!(run.count(), digest.count());
        prop_assert_eq!(run.has_typed(), digest.has_typed());
        prop_assert_eq!(attempts_in_run(&run, 1), attempts_in_run(&digest, 1));
        prop_assert_eq!(practice_evidence(&PARAMETERS, &run), practice_evidence(&PARAMETERS, &digest));
        for attempt in attempts_in_run(&digest, 1) {
            let answered = run.answered_at(attempt.event).unwrap();
            prop_assert_eq!((answered.right, answered.at), (attempt.all_right, attempt.at));
            prop_assert_eq!(attempt.wrong, answered.parts.iter().any(CheckedPart::is_wrong));
        }
    }
}

#[test]
fn a_digest_with_everything_in_it_can_be_read() {
    let mut bench = Bench::opened();
    bench.assignment.settings.goal = Some(Goal::Right {
        skills: vec!["ratios".into()],
        right: 3,
    });
    let lines = vec![
        GoalLine::Skill {
            skill: "ratios".into(),
            score: 12,
            wanted: 95,
        },
        GoalLine::Right {
            right: 1,
            answered: 2,
            wanted: 3,
        },
        GoalLine::Page {
            skill: "units".into(),
            read: true,
        },
    ];
    bench.add(Event::Measured(GoalProgress {
        reached: 0.3333,
        lines,
    }));
    bench.add(Event::HandedIn {
        late: true,
        recorded: RecordedScore {
            points: 1.5,
            of: 6,
            taken_off: 10,
            waiting: 0.0,
        },
        by_time: false,
    });
    bench.add(Event::ScoredByTeacher {
        question: 1,
        points: 2.5,
        note: "Your method is sound – see me.".into(),
        by: None,
        parts: Vec::new(),
    });
    bench.add(Event::ExceptionGiven(Exception {
        due: Some(noon()),
        time_percent: Some(125),
        more_hand_ins: 2,
        more_sets: 1,
        ..Exception::default()
    }));
    bench.add(Event::TimeUp);
    let work = bench.work();
    assert_eq!(reread(&work), work.digest());
    assert_eq!(work.last_told, work.last_event);
}

/// What is written down is read by servers of the next version too: whoever changes it raises the store's `FORM`.
#[test]
fn the_form_of_a_digest_is_what_it_was() {
    let mut bench = Bench::opened();
    bench.check(1, &[("a", "4"), ("b", "5")]).unwrap();
    bench.hand_in().unwrap();
    let bytes = rmp_serde::to_vec(&bench.work()).unwrap();
    let hex: String = bytes.iter().map(|b| format!("{b:02x}")).collect();
    let then = concat!(
        "9ccf0006651728988000929291960b009197a161cb0000000000000000c2000000c29000c2c29291960c019297a161",
        "cb0000000000000000c2000001c297a162cb3ff0000000000000c3010001c2919a02cf0006651728988000c3c3c2c3",
        "c3c200c200c2c2919a0103cf0006651728988000c2c294cb40000000000000000600cb000000000000000094cb4000",
        "0000000000000600cb000000000000000093cb4000000000000000069298cb000000000000000002c0c000cb000000",
        "0000000000c2cb000000000000000098cb400000000000000004000100cb0000000000000000c2cb00000000000000",
        "00c0c298c0c0c00000a0c2c000c080c003020000",
    );
    assert_eq!(hex, then);
}
