//! The rules of an assignment, by example and under random orders of events.

use marking::{AnswerBlock, Kind as AnswerKind, Marker, Outcome, Response, ResponseVerdict};
use proptest::prelude::*;
use rstest::rstest;
use time::{Duration, OffsetDateTime};

use crate::*;

fn noon() -> OffsetDateTime {
    OffsetDateTime::from_unix_timestamp(1_800_000_000).unwrap()
}

fn assignment() -> Assignment {
    let part = |id: &str| PartRef {
        id: id.into(),
        share: 1,
    };
    Assignment {
        settings: Settings::homework(noon() - Duration::days(2), noon() + Duration::days(2)),
        items: vec![
            ItemRef {
                points: 2,
                parts: vec![part("a")],
                max_attempts: None,
            },
            ItemRef {
                points: 4,
                parts: vec![part("a"), part("b")],
                max_attempts: None,
            },
        ],
    }
}

/// The key of every part is 5.
fn marked(part: &str, entry: &str) -> MarkedPart {
    let marking = Marker::new(&AnswerBlock::plain(AnswerKind::Number, "5"))
        .unwrap()
        .mark(entry);
    let costs = marking.outcome.costs_a_try();
    let verdict = ResponseVerdict { marking, costs };
    MarkedPart {
        part: part.into(),
        response: Response::Text(entry.into()),
        verdict,
    }
}

struct Bench {
    assignment: Assignment,
    events: Vec<Recorded>,
    now: OffsetDateTime,
}

impl Bench {
    fn opened() -> Self {
        let mut bench = Bench {
            assignment: assignment(),
            events: Vec::new(),
            now: noon(),
        };
        bench.run(&Command::Open { seeds: vec![11, 12] }).unwrap();
        bench
    }

    fn work(&self) -> Work {
        fold(&self.assignment, &self.events)
    }

    fn run(&mut self, command: &Command) -> Result<(), Refusal> {
        let events = decide(&self.assignment, &self.work(), command, self.now)?;
        for event in events {
            let number = u32::try_from(self.events.len()).unwrap() + 1;
            self.events.push(Recorded {
                number,
                at: self.now,
                event,
            });
        }
        Ok(())
    }

    fn check(&mut self, question: usize, entries: &[(&str, &str)]) -> Result<(), Refusal> {
        let parts = entries.iter().map(|(part, entry)| marked(part, entry)).collect();
        self.run(&Command::Check { question, parts })
    }

    fn tries_used(&self, question: usize) -> u32 {
        self.work().questions[question].current().unwrap().tries_used
    }

    fn points(&self) -> f64 {
        score_so_far(&self.assignment, &self.work()).points
    }
}

#[test]
fn a_wrong_answer_uses_a_try_and_a_right_one_earns_full_points() {
    let mut bench = Bench::opened();
    bench.check(0, &[("a", "4")]).unwrap();
    assert_eq!((bench.tries_used(0), bench.points()), (1, 0.0));
    bench.check(0, &[("a", "5")]).unwrap();
    assert_eq!(bench.points(), 2.0);
    let score = score_so_far(&bench.assignment, &bench.work());
    assert_eq!(
        (score.questions[0].set, score.questions[0].on_try),
        (Some(0), Some(2))
    );
}

#[rstest]
#[case::unreadable("3 + * 4")]
#[case::unknown_letter("5q")]
fn what_cannot_be_read_costs_nothing(#[case] entry: &str) {
    let mut bench = Bench::opened();
    bench.check(0, &[("a", entry)]).unwrap();
    assert_eq!(bench.tries_used(0), 0);
    assert_eq!(
        bench.work().questions[0].sets[0].parts[0]
            .last
            .as_ref()
            .unwrap()
            .outcome,
        Outcome::Unreadable
    );
}

#[test]
fn an_empty_field_is_refused_and_costs_nothing() {
    let mut bench = Bench::opened();
    assert_eq!(bench.check(0, &[("a", "  ")]), Err(Refusal::NothingEntered));
    assert_eq!(bench.tries_used(0), 0);
}

#[test]
fn the_same_entry_again_is_refused_and_costs_nothing() {
    let mut bench = Bench::opened();
    bench.check(0, &[("a", "4")]).unwrap();
    assert_eq!(bench.check(0, &[("a", " 4 ")]), Err(Refusal::AlreadyTried));
    assert_eq!(bench.tries_used(0), 1);
}

#[test]
fn no_try_left_means_no_more_checking() {
    let mut bench = Bench::opened();
    for entry in ["1", "2", "3"] {
        bench.check(0, &[("a", entry)]).unwrap();
    }
    assert_eq!(bench.check(0, &[("a", "5")]), Err(Refusal::NoTriesLeft));
    assert_eq!(bench.points(), 0.0);
}

#[test]
fn a_part_once_right_is_not_marked_again() {
    let mut bench = Bench::opened();
    bench.check(1, &[("a", "5"), ("b", "4")]).unwrap();
    assert_eq!(bench.points(), 2.0);
    bench.check(1, &[("a", "7"), ("b", "5")]).unwrap();
    assert_eq!(bench.points(), 4.0);
    assert_eq!(bench.check(1, &[("a", "7")]), Err(Refusal::AllRight));
}

#[test]
fn a_hand_in_records_the_score_and_work_may_go_on() {
    let mut bench = Bench::opened();
    bench.check(0, &[("a", "5")]).unwrap();
    bench.run(&Command::HandIn).unwrap();
    bench.check(1, &[("a", "5")]).unwrap();
    let work = bench.work();
    assert_eq!(
        work.counting_hand_in(&bench.assignment).unwrap().recorded.points,
        2.0
    );
    assert_eq!(state(&bench.assignment, &work, bench.now), State::HandedIn);
    bench.run(&Command::HandIn).unwrap();
    assert_eq!(
        bench
            .work()
            .counting_hand_in(&bench.assignment)
            .unwrap()
            .recorded
            .points,
        4.0
    );
}

#[test]
fn a_hand_in_can_be_taken_back_once() {
    let mut bench = Bench::opened();
    bench.run(&Command::HandIn).unwrap();
    bench.run(&Command::TakeBack).unwrap();
    assert_eq!(
        state(&bench.assignment, &bench.work(), bench.now),
        State::UnderWay
    );
    assert_eq!(bench.run(&Command::TakeBack), Err(Refusal::NothingToTakeBack));
}

#[test]
fn hand_ins_run_out() {
    let mut bench = Bench::opened();
    bench.assignment.settings.hand_ins = Some(1);
    bench.run(&Command::HandIn).unwrap();
    assert_eq!(bench.run(&Command::HandIn), Err(Refusal::NoHandInsLeft));
}

#[test]
fn a_hand_in_may_need_every_question() {
    let mut bench = Bench::opened();
    bench.assignment.settings.hand_in_needs = HandInNeeds::EveryQuestionAttempted;
    bench.check(0, &[("a", "5")]).unwrap();
    assert_eq!(bench.run(&Command::HandIn), Err(Refusal::QuestionsLeft));
    bench.check(1, &[("b", "1")]).unwrap();
    bench.run(&Command::HandIn).unwrap();
}

#[rstest]
#[case::flagged(LateRule::Flagged, Ok(2.0))]
#[case::a_fifth_off(LateRule::PercentOff(20), Ok(1.6))]
#[case::not_accepted(LateRule::NotAccepted, Err(Refusal::LateNotAccepted))]
fn late_work_follows_its_rule(#[case] late: LateRule, #[case] expected: Result<f64, Refusal>) {
    let mut bench = Bench::opened();
    bench.assignment.settings.late = late;
    bench.assignment.settings.closes = noon() + Duration::days(9);
    bench.check(0, &[("a", "5")]).unwrap();
    bench.now = noon() + Duration::days(3);
    let outcome = bench.run(&Command::HandIn);
    assert_eq!(
        outcome.map(|()| bench.work().hand_ins[0].recorded.points),
        expected
    );
}

#[rstest]
#[case::before_opening(-3, Refusal::NotOpenYet)]
#[case::after_closing(3, Refusal::Closed)]
fn nothing_can_be_done_outside_the_dates(#[case] days: i64, #[case] refusal: Refusal) {
    let mut bench = Bench::opened();
    bench.now = noon() + Duration::days(days);
    assert_eq!(bench.check(0, &[("a", "5")]), Err(refusal));
    assert_eq!(bench.run(&Command::HandIn), Err(refusal));
}

#[test]
fn a_closed_one_says_whether_anything_was_handed_in() {
    let mut bench = Bench::opened();
    let later = noon() + Duration::days(3);
    assert_eq!(
        state(&bench.assignment, &bench.work(), later),
        State::Closed { handed_in: false }
    );
    bench.run(&Command::HandIn).unwrap();
    assert_eq!(
        state(&bench.assignment, &bench.work(), later),
        State::Closed { handed_in: true }
    );
}

#[test]
fn answers_checked_at_hand_in_are_not_checked_before() {
    let mut bench = Bench::opened();
    bench.assignment.settings.checking = Checking::Simultaneous;
    assert_eq!(bench.check(0, &[("a", "5")]), Err(Refusal::CheckedAtHandIn));
}

#[test]
fn opening_again_changes_nothing() {
    let mut bench = Bench::opened();
    bench.run(&Command::Open { seeds: vec![98, 99] }).unwrap();
    assert_eq!(bench.work().questions[0].sets[0].seed, 11);
    assert_eq!(bench.events.len(), 1);
}

#[test]
fn the_forecast_counts_the_next_two_open_questions() {
    let mut bench = Bench::opened();
    bench.check(0, &[("a", "5")]).unwrap();
    let score = score_so_far(&bench.assignment, &bench.work());
    assert_eq!(
        forecast(&bench.assignment, &score),
        Some(Forecast {
            questions: 1,
            percent: 100.0
        })
    );
}

#[test]
fn events_survive_being_stored() {
    let mut bench = Bench::opened();
    bench.check(1, &[("a", "5"), ("b", "sqrt(")]).unwrap();
    bench.run(&Command::HandIn).unwrap();
    for recorded in &bench.events {
        let stored = serde_json::to_value(&recorded.event).unwrap();
        assert_eq!(serde_json::from_value::<Event>(stored).unwrap(), recorded.event);
    }
}

#[derive(Clone, Debug)]
enum Move {
    Check(usize, Vec<(&'static str, &'static str)>),
    HandIn,
    TakeBack,
    Wait(i64),
}

fn any_move() -> impl Strategy<Value = Move> {
    let entry = prop::sample::select(vec!["5", "4", "", "3 +", "2.5*2", "5.0", "-5", "1/0"]);
    let part = prop::sample::select(vec!["a", "b", "c"]);
    prop_oneof![
        4 => (0..3usize, prop::collection::vec((part, entry), 0..3)).prop_map(|(q, e)| Move::Check(q, e)),
        1 => Just(Move::HandIn),
        1 => Just(Move::TakeBack),
        1 => (0..20i64).prop_map(Move::Wait),
    ]
}

proptest! {
    #[test]
    fn the_rules_hold_in_any_order(moves in prop::collection::vec(any_move(), 0..40)) {
        let mut bench = Bench::opened();
        for step in moves {
            let before = bench.work();
            let points = bench.points();
            let outcome = match &step {
                Move::Check(q, entries) => bench.check(*q, entries),
                Move::HandIn => bench.run(&Command::HandIn),
                Move::TakeBack => bench.run(&Command::TakeBack),
                Move::Wait(hours) => {
                    bench.now += Duration::hours(*hours);
                    Ok(())
                }
            };
            let after = bench.work();
            if outcome.is_err() {
                prop_assert_eq!(&before, &after, "a refusal changes nothing");
            }
            prop_assert!(bench.points() >= points, "a score so far never falls");
            for (question, state) in after.questions.iter().enumerate() {
                let set = state.current().unwrap();
                prop_assert!(set.tries_used <= 3);
                let was = before.questions[question].current().unwrap();
                for (part, earlier) in set.parts.iter().zip(&was.parts) {
                    prop_assert!(part.right || !earlier.right, "a part once right stays right");
                }
                let costing = set.tries.iter().filter(|t| t.used_a_try).count();
                prop_assert_eq!(u32::try_from(costing).unwrap(), set.tries_used);
            }
        }
    }
}
