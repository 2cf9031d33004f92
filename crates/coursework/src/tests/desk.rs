//! The teacher's side: the class sheet, exceptions, and what may still be changed.

use proptest::prelude::*;

use super::rules::walk::{any_settings, moves, walk};
use super::*;

proptest! {
    #![proptest_config(ProptestConfig::with_cases(600))]

    #[test]
    fn a_cell_of_the_sheet_says_what_the_work_does_at_any_later_time(
        settings in any_settings(), moves in moves(), ahead in prop::collection::vec(0i64..20_000, 1..12)
    ) {
        walk(&settings, &moves, |step| {
            let cell = sheet_cell(step.assignment, step.after);
            let again: SheetCell = serde_json::from_str(&serde_json::to_string(&cell).unwrap()).unwrap();
            prop_assert_eq!(&again, &cell);
            for minutes in &ahead {
                let at = noon() + Duration::minutes(*minutes - 10_000);
                prop_assert_eq!(cell.state(at), state(step.assignment, step.after, at), "{}", minutes);
            }
            for question in 0..step.assignment.items.len() {
                let went = question_went(std::iter::once(step.after), question);
                prop_assert!(went.right_first <= went.right_in_the_end && went.right_in_the_end <= went.tried);
                prop_assert!(went.tried <= went.sets && went.sets <= went.checks);
            }
            prop_assert_eq!(cell.recorded, recorded_now_percent(step.assignment, step.after));
            prop_assert!(cell.tries >= step.after.tries_used() || cell.tries > 0 || step.after.tries_used() == 0);
            Ok(())
        })?;
    }

    #[test]
    fn a_change_that_is_not_refused_takes_nothing_from_anybody(
        settings in any_settings(), other in any_settings(), moves in moves(), same in any::<[bool; 8]>()
    ) {
        walk(&settings, &moves, |step| {
            // Some of the settings of another assignment, so that not all of them are refused.
            let old = &step.assignment.settings;
            let mut new = old.clone();
            if same[0] { new.max_attempts = other.max_attempts; }
            if same[1] { new.max_sets = other.max_sets; }
            if same[2] { new.hand_ins = other.hand_ins; }
            if same[3] { new.due = other.due; new.closes = other.closes; }
            if same[4] { new.which_counts = other.which_counts; }
            if same[5] { new.late = other.late; }
            if same[6] { new.hint_cost = other.hint_cost; }
            if same[7] { new.time_limit = other.time_limit; }
            let questions: Vec<(String, u32)> =
                step.assignment.items.iter().enumerate().map(|(i, q)| (format!("q{i}"), q.points)).collect();
            let handed_in = usize::from(step.after.standing_hand_ins().next().is_some());
            let found = effects((old, &questions), (&new, &questions), (1, handed_in), noon());
            if found.iter().any(Effect::is_refused) {
                return Ok(());
            }
            let after = Assignment { settings: new, items: step.assignment.items.clone() };
            let (before_so_far, so_far) = (score_so_far(step.assignment, step.after), score_so_far(&after, step.after));
            prop_assert!(so_far.points >= before_so_far.points - 1e-9);
            let (was, is) = (recorded_now_percent(step.assignment, step.after), recorded_now_percent(&after, step.after));
            prop_assert!(is.unwrap_or(0.0) >= was.unwrap_or(0.0) - 1e-9, "{:?} {:?}", was, is);
            let (mine, theirs) = (terms(step.assignment, step.after), terms(&after, step.after));
            prop_assert!(theirs.hand_ins.is_none_or(|n| mine.hand_ins.is_some_and(|m| n >= m)));
            prop_assert!(theirs.max_sets.is_none_or(|n| mine.max_sets.is_some_and(|m| n >= m)));
            Ok(())
        })?;
    }
}

fn recorded_now_percent(assignment: &Assignment, work: &Work) -> Option<f64> {
    work.counting_hand_in(assignment).map(|h| h.recorded.percent())
}

#[rstest]
#[case::due_first(|s: &mut Settings| s.due = s.opens, "due")]
#[case::closes_first(|s: &mut Settings| s.closes = s.due - Duration::hours(1), "closes")]
#[case::late_shut(|s: &mut Settings| { s.late = LateRule::NotAccepted; s.closes = s.due + Duration::days(1) }, "closes")]
#[case::off_nothing(|s: &mut Settings| s.late = LateRule::PercentOff(0), "late")]
#[case::no_try(|s: &mut Settings| s.max_attempts = Some(0), "max_attempts")]
#[case::no_set(|s: &mut Settings| s.max_sets = Some(0), "max_sets")]
#[case::no_hand_in(|s: &mut Settings| s.hand_ins = Some(0), "hand_ins")]
#[case::elsewhere(|s: &mut Settings| s.question_attempts.extend([(9, 2)]), "question_attempts")]
#[case::dear_hint(|s: &mut Settings| s.hint_cost = 101, "hint_cost")]
#[case::hint_off(|s: &mut Settings| { s.hints = false; s.hint_cost = 5 }, "hint_cost")]
#[case::high_bar(|s: &mut Settings| s.pass_mark = Some(101), "pass_mark")]
#[case::no_time(|s: &mut Settings| s.time_limit = Some(0), "time_limit")]
#[case::no_weight(|s: &mut Settings| s.weight = 0, "weight")]
#[case::no_pages(|s: &mut Settings| s.kind = Kind::Reading, "goal")]
#[case::both(|s: &mut Settings| { s.kind = Kind::Practice; s.goal = Some(Goal::Right { skills: vec!["torque".into()], right: 3 }) }, "goal")]
#[case::quiz_with_sets(|s: &mut Settings| { s.checking = Checking::Simultaneous; s.release = Release::AtHandIn }, "max_sets")]
fn what_does_not_fit_together_is_said_at_its_setting(#[case] change: fn(&mut Settings), #[case] field: &str) {
    let fine = assignment().settings;
    assert_eq!(setting_faults(&fine, 2), Vec::new());
    let mut settings = fine;
    change(&mut settings);
    let faults = setting_faults(&settings, 2);
    assert!(faults.iter().any(|f| f.field == field), "{faults:?}");
}

#[test]
fn presets_fit_together() {
    let (opens, due) = (noon(), noon() + Duration::days(5));
    let goal = Goal::Read {
        skills: vec!["torque".into()],
    };
    for (settings, questions) in [
        (Settings::homework(opens, due), 3),
        (Settings::quiz(opens, due), 3),
        (Settings::towards(goal, opens, due), 0),
    ] {
        assert_eq!(setting_faults(&settings, questions), Vec::new());
    }
    assert_eq!(
        setting_faults(&Settings::homework(opens, due), 0)[0].field,
        "questions"
    );
}

#[rstest]
#[case::fewer_tries(|s: &mut Settings| s.max_attempts = Some(1), "max_attempts")]
#[case::one_question_fewer(|s: &mut Settings| s.question_attempts.extend([(0, 1)]), "question_attempts")]
#[case::fewer_sets(|s: &mut Settings| s.max_sets = Some(2), "max_sets")]
#[case::one_hand_in(|s: &mut Settings| s.hand_ins = Some(1), "hand_ins")]
#[case::a_clock(|s: &mut Settings| s.time_limit = Some(30), "time_limit")]
#[case::dear_hints(|s: &mut Settings| s.hint_cost = 10, "hint_cost")]
#[case::last_counts(|s: &mut Settings| s.which_counts = WhichCounts::Last, "which_counts")]
#[case::in_order(|s: &mut Settings| s.navigation = Navigation::Linear { going_back: true }, "navigation")]
#[case::opens_later(|s: &mut Settings| s.opens = noon() + Duration::hours(1), "opens")]
#[case::a_quiz_now(|s: &mut Settings| s.kind = Kind::Quiz, "kind")]
#[case::late_costs(|s: &mut Settings| s.late = LateRule::PercentOff(10), "late")]
fn what_would_take_something_away_is_refused_once_work_has_begun(
    #[case] change: fn(&mut Settings),
    #[case] field: &str,
) {
    let questions = [("a".to_owned(), 2)];
    let old = assignment().settings;
    let mut new = old.clone();
    change(&mut new);
    let with = |begun| effects((&old, &questions), (&new, &questions), (begun, begun), noon());
    assert_eq!(with(0), Vec::new(), "nobody has begun");
    let refused = with(2);
    assert!(
        refused
            .iter()
            .any(|e| matches!(e, Effect::Refused { field: f, .. } if *f == field)),
        "{refused:?}"
    );
}

#[test]
fn moved_dates_say_what_they_do() {
    let questions = [("a".to_owned(), 2)];
    let old = assignment().settings;
    let said = |due: OffsetDateTime| {
        let new = Settings {
            due,
            closes: due,
            ..old.clone()
        };
        let all = effects((&old, &questions), (&new, &questions), (3, 1), noon());
        assert!(!all.iter().any(Effect::is_refused), "{all:?}");
        format!("{all:?}")
    };
    assert!(said(old.due + Duration::days(1)).contains("3 students who have begun get the later due date."));
    assert!(said(noon() + Duration::hours(1)).contains("It is due earlier than 3 students were told."));
    let past = said(noon() - Duration::hours(1));
    assert!(
        past.contains("It is past already") && past.contains("It closes at once."),
        "{past}"
    );
}

#[rstest]
#[case::nothing(Exception::default(), Refusal::EmptyException)]
#[case::only_words(Exception { why: "ill".into(), ..Exception::default() }, Refusal::EmptyException)]
#[case::less_time(Exception { time_percent: Some(50), ..Exception::default() }, Refusal::ExceptionOutOfRange)]
#[case::many(Exception { more_sets: 51, ..Exception::default() }, Refusal::ExceptionOutOfRange)]
#[case::before(Exception { due: Some(noon() - Duration::days(3)), ..Exception::default() }, Refusal::DueBeforeOpening)]
fn an_exception_that_gives_nothing_is_refused(#[case] given: Exception, #[case] why: Refusal) {
    let mut bench = Bench::opened();
    assert_eq!(bench.run(&Command::GiveException(given)).unwrap_err(), why);
}

#[test]
fn more_sets_and_a_later_date_open_work_again() {
    let mut bench = Bench::opened();
    bench.now = noon() + Duration::days(3);
    assert_eq!(state(&bench.assignment, &bench.work(), bench.now), State::Closed);
    bench
        .run(&Command::GiveException(Exception {
            due: Some(bench.now + Duration::days(2)),
            more_sets: 2,
            why: "Was ill".into(),
            ..Exception::default()
        }))
        .unwrap();
    assert_eq!(
        state(&bench.assignment, &bench.work(), bench.now),
        State::UnderWay
    );
    assert_eq!(terms(&bench.assignment, &bench.work()).max_sets, Some(6));
    let told: Vec<NoticeKind> = notices(&bench.assignment, &bench.events, 0)
        .into_iter()
        .map(|n| n.kind)
        .collect();
    assert!(told.contains(&NoticeKind::MoreSets(2)), "{told:?}");
    assert!(
        !format!("{told:?}").contains("ill"),
        "the reason is not told: {told:?}"
    );
}

#[test]
fn how_a_question_went_counts_students_sets_and_checks() {
    let mut first = Bench::opened();
    first.check(0, &[("a", "5")]).unwrap();
    let mut second = Bench::opened();
    for wrong in ["1", "2", "3"] {
        second.check(0, &[("a", wrong)]).unwrap();
    }
    second
        .run(&Command::FreshNumbers {
            question: 0,
            seed: 99,
        })
        .unwrap();
    second.check(0, &[("a", "(")]).unwrap();
    second.check(0, &[("a", "5")]).unwrap();
    let untouched = Bench::opened();
    let works = [first.work(), second.work(), untouched.work()];
    let went = question_went(works.iter(), 0);
    assert_eq!(
        went,
        QuestionWent {
            tried: 2,
            right_first: 1,
            right_in_the_end: 2,
            sets: 3,
            // What could not be read was not judged.
            checks: 5,
            hints: 0,
        }
    );
    assert_eq!(question_went(works.iter(), 1), QuestionWent::default());
    assert_eq!(question_went(works.iter(), 7), QuestionWent::default());
}
