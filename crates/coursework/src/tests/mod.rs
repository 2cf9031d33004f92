//! The rules of an assignment, by example; under random settings and orders in `rules`.

mod by_hand;
mod calendar;
mod cards;
mod desk;
mod digest;
mod goal;
mod help;
mod mastery;
mod next;
mod notices;
mod order;
mod parts;
mod placing;
mod practice;
mod rules;
mod slips;
mod time;
mod watching;

use ::time::{Duration, OffsetDateTime};
use marking::{AnswerBlock, Kind as AnswerKind, Marker, Outcome, Response, ResponseVerdict};
use rstest::rstest;

use crate::*;

fn noon() -> OffsetDateTime {
    OffsetDateTime::from_unix_timestamp(1_800_000_000).unwrap()
}

fn assignment() -> Assignment {
    let part = |id: &str| PartRef {
        id: id.into(),
        share: 1,
        max_attempts: None,
        opens_after: None,
        by_hand: false,
    };
    Assignment {
        settings: Settings::homework(noon() - Duration::days(2), noon() + Duration::days(2)),
        items: vec![
            ItemRef {
                points: 2,
                parts: vec![part("a")],
                all_parts_needed: false,
            },
            ItemRef {
                points: 4,
                parts: vec![part("a"), part("b")],
                all_parts_needed: false,
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
    let verdict = ResponseVerdict {
        marking,
        costs,
        reply: None,
    };
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
        let set = self
            .work()
            .questions
            .get(question)
            .map_or(0, |q| q.sets.len().saturating_sub(1));
        self.run(&Command::Check { question, set, parts })
    }

    fn hand_in(&mut self) -> Result<(), Refusal> {
        self.run(&Command::HandIn { marked: Vec::new() })
    }

    /// Hands in where everything is checked then.
    fn hand_in_with(&mut self, entries: &[(usize, &str, &str)]) -> Result<(), Refusal> {
        let marked = entries.iter().map(|(question, part, entry)| MarkedQuestion {
            question: *question,
            parts: vec![marked(part, entry)],
        });
        let marked = marked.collect();
        self.run(&Command::HandIn { marked })
    }

    fn state(&self) -> State {
        state(&self.assignment, &self.work(), self.now)
    }

    /// Adds what a teacher or the store adds, without asking.
    fn add(&mut self, event: Event) {
        let number = u32::try_from(self.events.len()).unwrap() + 1;
        self.events.push(Recorded {
            number,
            at: self.now,
            event,
        });
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
    bench.hand_in().unwrap();
    bench.check(1, &[("a", "5")]).unwrap();
    let work = bench.work();
    assert_eq!(
        work.counting_hand_in(&bench.assignment).unwrap().recorded.points,
        2.0
    );
    assert_eq!(state(&bench.assignment, &work, bench.now), State::HandedIn);
    bench.hand_in().unwrap();
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
    bench.hand_in().unwrap();
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
    bench.hand_in().unwrap();
    bench.check(0, &[("a", "5")]).unwrap();
    assert_eq!(bench.hand_in(), Err(Refusal::NoHandInsLeft));
}

#[test]
fn handing_in_again_unchanged_is_the_same_hand_in() {
    let mut bench = Bench::opened();
    bench.assignment.settings.hand_ins = Some(1);
    bench.hand_in().unwrap();
    let before = bench.work();
    // Pressed twice, or after the due time: neither uses a hand-in, nor is it late.
    bench.hand_in().unwrap();
    bench.assignment.settings.late = LateRule::NotAccepted;
    bench.now = bench.assignment.settings.due + Duration::minutes(1);
    bench.assignment.settings.closes = bench.now + Duration::hours(1);
    bench.hand_in().unwrap();
    assert_eq!(bench.work(), before);
    // Taken back, it has to be handed in anew.
    bench.assignment.settings.late = LateRule::Flagged;
    bench.assignment.settings.hand_ins = None;
    bench.run(&Command::TakeBack).unwrap();
    bench.hand_in().unwrap();
    assert_eq!(bench.work().hand_ins.len(), 2);
}

#[test]
fn a_hand_in_may_need_every_question() {
    let mut bench = Bench::opened();
    bench.assignment.settings.hand_in_needs = HandInNeeds::EveryQuestionAttempted;
    bench.check(0, &[("a", "5")]).unwrap();
    assert_eq!(bench.hand_in(), Err(Refusal::QuestionsLeft));
    bench.check(1, &[("b", "1")]).unwrap();
    bench.hand_in().unwrap();
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
    let outcome = bench.hand_in();
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
    assert_eq!(bench.hand_in(), Err(refusal));
}

#[test]
fn a_closed_one_says_whether_anything_was_handed_in() {
    let mut bench = Bench::opened();
    let later = noon() + Duration::days(3);
    assert_eq!(state(&bench.assignment, &bench.work(), later), State::Closed);
    bench.hand_in().unwrap();
    assert_eq!(state(&bench.assignment, &bench.work(), later), State::Marked);
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
    bench.hand_in().unwrap();
    for recorded in &bench.events {
        let stored = serde_json::to_value(&recorded.event).unwrap();
        assert_eq!(serde_json::from_value::<Event>(stored).unwrap(), recorded.event);
    }
}
