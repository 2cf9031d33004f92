//! Assignments with a goal: progress, handing in what there is, again until due.

use proptest::prelude::*;

use super::practice::run_of;
use super::*;

fn skills() -> Vec<String> {
    vec!["ratios".into(), "units".into()]
}

fn level(score: u8) -> Goal {
    Goal::Level {
        skills: skills(),
        score,
    }
}

fn right(right: u32) -> Goal {
    Goal::Right {
        skills: skills(),
        right,
    }
}

fn none(_: &str) -> bool {
    false
}

fn bench(goal: Goal) -> Bench {
    let (opens, due) = (noon() - Duration::days(2), noon() + Duration::days(2));
    let mut bench = Bench {
        assignment: Assignment {
            settings: Settings::towards(goal, opens, due),
            items: Vec::new(),
        },
        events: Vec::new(),
        now: noon(),
    };
    bench.run(&Command::Open { seeds: Vec::new() }).unwrap();
    bench
}

impl Bench {
    fn hand_in_at(&mut self, rights: u32) -> Result<(), Refusal> {
        let steps = vec![("a", Some(true)); usize::try_from(rights).unwrap()];
        let goal = self.assignment.settings.goal.clone().unwrap();
        let progress = goal.measure(run_of(&steps).count(), |_| 0, none, false, unseen);
        self.run(&Command::HandInProgress { progress })
    }

    fn recorded(&self) -> f64 {
        let work = self.work();
        let counting = work.counting_hand_in(&self.assignment).expect("a hand-in");
        counting.recorded.percent()
    }
}

#[rstest]
#[case::nothing(0, 0, 0.0)]
#[case::one_there(95, 0, 0.5)]
#[case::half_way(38, 57, 0.5)]
#[case::more_than_asked_does_not_make_up(100, 19, 0.6)]
#[case::both(95, 99, 1.0)]
fn progress_to_a_level_is_the_mean_over_its_skills(
    #[case] ratios: u8,
    #[case] units: u8,
    #[case] reached: f64,
) {
    let score = |skill: &str| if skill == "ratios" { ratios } else { units };
    let progress = level(95).measure(RunCount::default(), score, none, false, unseen);
    assert!((progress.reached - reached).abs() < 1e-4, "{progress:?}");
    assert_eq!(progress.is_reached(), ratios >= 95 && units >= 95);
}

#[test]
fn progress_to_a_number_counts_first_answers_that_were_right() {
    let run = run_of(&[
        ("a", Some(true)),
        ("b", Some(false)),
        ("b", Some(true)),
        ("a", None),
    ]);
    let progress = right(8).measure(run.count(), |_| 0, none, false, unseen);
    assert_eq!(
        progress.lines,
        [GoalLine::Right {
            right: 2,
            answered: 3,
            wanted: 8
        }]
    );
    assert_eq!((progress.reached, progress.left()), (0.25, 6));
}

#[test]
fn progress_in_reading_counts_pages() {
    let goal = Goal::Read { skills: skills() };
    let progress = goal.measure(
        RunCount::default(),
        |_| 0,
        |skill| skill == "units",
        false,
        unseen,
    );
    assert_eq!((progress.reached, progress.left()), (0.5, 1));
    assert_eq!(goal.practice(), None);
}

#[test]
fn a_goal_that_is_nearly_there_is_not_rounded_up_to_reached() {
    let progress = level(100).measure(RunCount::default(), |_| 99, none, false, unseen);
    assert!(progress.reached < 1.0 && !progress.is_reached());
    let thirds = right(3).measure(
        run_of(&[("a", Some(true)), ("a", Some(true))]).count(),
        |_| 0,
        none,
        false,
        unseen,
    );
    assert!((thirds.reached - 0.6666).abs() < 1e-9);
}

#[test]
fn what_there_is_can_be_handed_in_and_the_best_counts() {
    let mut bench = bench(right(10));
    bench.hand_in_at(3).unwrap();
    assert_eq!((bench.recorded(), bench.state()), (30.0, State::HandedIn));
    bench.now += Duration::hours(1);
    bench.hand_in_at(8).unwrap();
    bench.hand_in_at(5).unwrap();
    assert_eq!(bench.recorded(), 80.0);
    bench.hand_in_at(14).unwrap();
    assert_eq!(bench.recorded(), 100.0);
}

#[test]
fn a_recorded_score_keeps_what_it_was_made_of() {
    let mut bench = bench(right(4));
    bench.hand_in_at(1).unwrap();
    bench.hand_in_at(3).unwrap();
    let lines = |n: usize| bench.work().hand_ins[n].progress.clone().unwrap().lines;
    assert_eq!(
        lines(0),
        [GoalLine::Right {
            right: 1,
            answered: 1,
            wanted: 4
        }]
    );
    assert_eq!(
        lines(1),
        [GoalLine::Right {
            right: 3,
            answered: 3,
            wanted: 4
        }]
    );
}

#[test]
fn late_progress_loses_what_the_rule_says_and_nothing_goes_in_after_closing() {
    let mut bench = bench(right(10));
    bench.assignment.settings.late = LateRule::PercentOff(50);
    bench.assignment.settings.closes = noon() + Duration::days(4);
    bench.now = noon() + Duration::days(3);
    bench.hand_in_at(8).unwrap();
    assert_eq!(bench.recorded(), 40.0);
    bench.now = noon() + Duration::days(5);
    assert_eq!(bench.hand_in_at(10), Err(Refusal::Closed));
    assert_eq!(bench.recorded(), 40.0);
}

#[test]
fn a_hand_in_towards_a_goal_can_be_taken_back() {
    let mut bench = bench(right(10));
    bench.hand_in_at(3).unwrap();
    bench.run(&Command::TakeBack).unwrap();
    assert!(bench.work().counting_hand_in(&bench.assignment).is_none());
}

#[test]
fn only_an_assignment_with_a_goal_takes_progress() {
    let mut bench = Bench::opened();
    let progress = right(1).measure(RunCount::default(), |_| 0, none, false, unseen);
    let refused = bench.run(&Command::HandInProgress { progress });
    assert_eq!(refused, Err(Refusal::NoGoal));
}

#[test]
fn no_clock_runs_towards_a_goal() {
    let mut bench = bench(level(95));
    bench.assignment.settings.time_limit = Some(10);
    bench.now += Duration::hours(5);
    assert_eq!(time_up_due(&bench.assignment, &bench.work()), None);
    bench.hand_in_at(0).unwrap();
}

#[test]
fn a_teachers_points_for_a_question_that_is_not_there_leave_the_score_alone() {
    let mut bench = bench(right(10));
    bench.hand_in_at(3).unwrap();
    bench.add(Event::ScoredByTeacher {
        question: 0,
        points: 9.0,
        note: String::new(),
        by: None,
        parts: Vec::new(),
    });
    assert_eq!(bench.recorded(), 30.0);
}

#[test]
fn goals_and_progress_survive_being_stored() {
    let progress = level(95).measure(RunCount::default(), |_| 37, none, false, unseen);
    let event = Event::Measured(progress);
    let stored = serde_json::to_value(&event).unwrap();
    assert_eq!(serde_json::from_value::<Event>(stored).unwrap(), event);
    for goal in [level(60), right(5), Goal::Read { skills: skills() }] {
        let settings = Settings::towards(goal, noon(), noon());
        let stored = serde_json::to_value(&settings).unwrap();
        assert_eq!(serde_json::from_value::<Settings>(stored).unwrap(), settings);
    }
}

#[test]
fn settings_from_before_there_were_goals_still_read() {
    let mut stored = serde_json::to_value(Settings::homework(noon(), noon())).unwrap();
    stored.as_object_mut().unwrap().remove("goal");
    stored["tools"].as_object_mut().unwrap().remove("reading");
    let read: Settings = serde_json::from_value(stored).unwrap();
    assert_eq!((read.goal, read.tools.reading), (None, true));
}

#[rstest]
#[case::fits(right(5), Ok(()))]
#[case::none(Goal::Read { skills: Vec::new() }, Err(GoalFault::NoSkill))]
#[case::unknown(Goal::Read { skills: vec!["ratois".into()] }, Err(GoalFault::UnknownSkill("ratois".into())))]
#[case::twice(Goal::Read { skills: vec!["units".into(), "units".into()] }, Err(GoalFault::Twice("units".into())))]
#[case::no_score(level(0), Err(GoalFault::Score(0)))]
#[case::beyond(level(101), Err(GoalFault::Score(101)))]
#[case::no_right(right(0), Err(GoalFault::Right(0)))]
fn a_goal_that_cannot_be_set_says_why(#[case] goal: Goal, #[case] expected: Result<(), GoalFault>) {
    assert_eq!(goal.check(|skill| skills().iter().any(|s| s == skill)), expected);
}

/// What happens in the practice of an assignment.
#[derive(Clone, Debug)]
enum Act {
    Answer(bool),
    HandIn,
    TakeBack,
    Wait(i64),
}

fn any_act() -> impl Strategy<Value = Act> {
    prop_oneof![
        5 => any::<bool>().prop_map(Act::Answer),
        2 => Just(Act::HandIn),
        1 => Just(Act::TakeBack),
        2 => (0..40i64).prop_map(Act::Wait),
    ]
}

proptest! {
    /// Whatever is done in whatever order: what is recorded is the best of what was handed in, each hand-in is worth the
    /// progress of its moment less what lateness costs, and nothing that is refused changes anything.
    #[test]
    fn a_recorded_score_is_the_best_progress_that_was_handed_in(
        wanted in 1u32..12,
        off in prop_oneof![Just(0u8), 1..=100u8],
        acts in proptest::collection::vec(any_act(), 0..40),
    ) {
        let mut bench = bench(right(wanted));
        bench.assignment.settings.late = LateRule::PercentOff(off);
        bench.assignment.settings.closes = noon() + Duration::days(4);
        let goal = bench.assignment.settings.goal.clone().unwrap();
        let (mut answers, mut standing): (Vec<(&str, Option<bool>)>, Vec<f64>) = (Vec::new(), Vec::new());
        for act in acts {
            let before = bench.work();
            match act {
                Act::Answer(right) => answers.push(("a", Some(right))),
                Act::Wait(hours) => bench.now += Duration::hours(hours),
                Act::HandIn => {
                    let progress = goal.measure(run_of(&answers).count(), |_| 0, none, false, unseen);
                    let kept = if bench.now > noon() + Duration::days(2) { 100 - off } else { 100 };
                    let expected = (progress.reached * 10_000.0).round() / 100.0 * f64::from(kept) / 100.0;
                    match bench.run(&Command::HandInProgress { progress }) {
                        // The same progress again is the same hand-in.
                        Ok(()) if bench.work() == before => {}
                        Ok(()) => standing.push(expected),
                        Err(refusal) => {
                            prop_assert_eq!(refusal, Refusal::Closed);
                            prop_assert_eq!(&bench.work(), &before);
                        }
                    }
                }
                Act::TakeBack => {
                    if bench.run(&Command::TakeBack).is_ok() {
                        standing.pop();
                    } else {
                        prop_assert_eq!(&bench.work(), &before);
                    }
                }
            }
        }
        let work = bench.work();
        let recorded = work.counting_hand_in(&bench.assignment).map(|h| h.recorded.percent());
        let best = standing.iter().copied().reduce(f64::max);
        match (recorded, best) {
            (Some(recorded), Some(best)) => prop_assert!((recorded - best).abs() < 1e-9, "{recorded} {best}"),
            (recorded, best) => prop_assert_eq!(recorded, best),
        }
        for hand_in in &work.hand_ins {
            prop_assert!((0.0..=100.0).contains(&hand_in.recorded.percent()));
            prop_assert!(hand_in.progress.is_some(), "every score can explain itself");
        }
    }

    /// More right answers and higher scores never lower progress, and it is whole only when everything is reached.
    #[test]
    fn progress_grows_with_what_was_reached(scores in proptest::collection::vec(0u8..=100, 2), more in 0u8..30, wanted in 1u8..=100) {
        let at = |add: u8| {
            let score = |skill: &str| scores[usize::from(skill == "units")].saturating_add(add).min(100);
            level(wanted).measure(RunCount::default(), score, none, false, unseen)
        };
        prop_assert!(at(more).reached >= at(0).reached);
        prop_assert_eq!(at(0).reached >= 1.0, at(0).is_reached());
        prop_assert_eq!(at(0).left() == 0, at(0).is_reached());
    }
}

#[test]
fn handing_in_opens_what_was_reached_before_it_was_opened() {
    let mut bench = bench(right(4));
    bench.events.clear();
    bench.hand_in_at(4).unwrap();
    let work = bench.work();
    assert_eq!((work.opened_at, bench.recorded()), (Some(noon()), 100.0));
    // Questions are still opened first.
    let mut questions = Bench::opened();
    questions.events.clear();
    assert_eq!(questions.hand_in(), Err(Refusal::NotOpened));
}

#[test]
fn nothing_is_handed_in_before_it_opens() {
    let mut bench = bench(right(4));
    bench.events.clear();
    bench.now = noon() - Duration::days(3);
    assert_eq!(bench.hand_in_at(4), Err(Refusal::NotOpenYet));
}

#[test]
fn a_starting_point_as_a_goal_is_done_or_not() {
    let goal = Goal::Start {};
    assert_eq!(goal.check(|_| false), Ok(()));
    assert_eq!(goal.practice(), None);
    for done in [false, true] {
        let progress = goal.measure(RunCount::default(), |_| 0, none, done, unseen);
        assert_eq!(
            (progress.is_reached(), progress.left()),
            (done, usize::from(!done))
        );
    }
    let settings = Settings::towards(goal, noon(), noon() + Duration::days(1));
    assert_eq!(settings.kind, Kind::Practice);
}

fn unseen(_: uuid::Uuid) -> (f64, bool) {
    (0.0, false)
}

#[test]
fn a_recording_as_a_goal_is_whole_once_its_stops_are_answered() {
    let goal = Goal::Watch {
        recording: uuid::Uuid::max(),
        title: "Yaw".into(),
    };
    let none_chosen = Goal::Watch {
        recording: uuid::Uuid::nil(),
        title: "Yaw".into(),
    };
    assert_eq!(none_chosen.check(|_| false), Err(GoalFault::NoRecording));
    let percent = |seen: f64, done: bool| {
        goal.measure(RunCount::default(), |_| 0, none, false, move |_| (seen, done))
            .reached
    };
    assert_eq!(
        (percent(0.5, false), percent(1.0, false), percent(1.0, true)),
        (0.5, 0.99, 1.0)
    );
    assert_eq!(goal.check(|_| false), Ok(()));
}
