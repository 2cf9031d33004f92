//! Parts that a person marks, beside parts that the machine checks.

use marking::{Marking, Written};
use proptest::prelude::*;

use super::*;

/// Part b of the second question is marked by a person: two of its four points.
fn shared() -> Bench {
    let mut bench = Bench::opened();
    bench.assignment.items[1].parts[1].by_hand = true;
    bench
}

/// The first question is a person's as a whole.
fn whole() -> Bench {
    let mut bench = Bench::opened();
    bench.assignment.items[0].parts[0].by_hand = true;
    bench
}

fn written(words: &str) -> Response {
    Response::Written {
        written: Written {
            links: vec![format!("https://skerry.example/{words}")],
            ..Written::default()
        },
    }
}

fn entered(question: usize, part: &str, words: &str) -> Entered {
    Entered {
        question,
        set: 0,
        part: part.into(),
        response: written(words),
    }
}

/// As the marker marks it: a person's part waits, the others are checked against 5.
fn mark(bench: &Bench, drafts: &[Entered], end: End) -> Vec<MarkedQuestion> {
    let wanted = to_mark_at_end(&bench.assignment, &bench.work(), drafts, end);
    let one = |(part, response): (String, Response)| match &response {
        Response::Text(text) => marked(&part, text),
        _ => {
            let mut waits = marked(&part, "5");
            waits.verdict = ResponseVerdict {
                marking: Marking {
                    outcome: Outcome::Waiting,
                    score: 0.0,
                    reads_as: String::new(),
                    ..waits.verdict.marking
                },
                costs: false,
                reply: None,
            };
            waits.response = response;
            waits
        }
    };
    let question = |w: ToMark| MarkedQuestion {
        question: w.question,
        parts: w.parts.into_iter().map(one).collect(),
    };
    wanted.into_iter().map(question).collect()
}

fn hand_in(bench: &mut Bench, drafts: &[Entered]) -> Result<(), Refusal> {
    let marked = mark(bench, drafts, End::Student);
    bench.run(&Command::HandIn { marked })
}

fn score(bench: &Bench, question: usize, points: f64) -> Event {
    assert!(bench.work().questions.len() > question);
    Event::ScoredByTeacher {
        question,
        points,
        note: String::new(),
        by: None,
        parts: Vec::new(),
    }
}

fn add(bench: &mut Bench, event: Event) {
    let number = u32::try_from(bench.events.len()).unwrap() + 1;
    let at = bench.now;
    bench.events.push(Recorded { number, at, event });
}

#[test]
fn a_check_leaves_out_what_a_person_marks_and_uses_no_try_for_it() {
    let mut bench = shared();
    assert_eq!(bench.check(1, &[("b", "5")]), Err(Refusal::NothingEntered));
    bench.check(1, &[("a", "5"), ("b", "1")]).unwrap();
    let set = bench.work().questions[1].current().unwrap().clone();
    assert!(set.parts[0].right && set.parts[1].last.is_none());
    let mut bench = whole();
    assert_eq!(bench.check(0, &[("a", "5")]), Err(Refusal::MarkedByTeacher));
    assert!(bench.work().questions[0].current().unwrap().tries.is_empty());
}

#[test]
fn its_numbers_stay_whatever_became_of_the_other_parts() {
    let mut bench = shared();
    for wrong in ["1", "2", "3"] {
        bench.check(1, &[("a", wrong)]).unwrap();
    }
    assert_eq!(bench.check(1, &[("a", "5")]), Err(Refusal::NoTriesLeft));
    let fresh = may_take_fresh_numbers(&bench.assignment, &bench.work(), 1);
    assert_eq!(fresh, Err(Refusal::NumbersStay));
}

#[test]
fn what_was_written_goes_in_with_the_hand_in_and_its_points_wait() {
    let mut bench = shared();
    bench.check(1, &[("a", "5")]).unwrap();
    hand_in(&mut bench, &[entered(1, "b", "first")]).unwrap();
    let work = bench.work();
    let counted = work.counting_hand_in(&bench.assignment).unwrap().recorded;
    assert_eq!((counted.points, counted.of, counted.waiting), (2.0, 6, 2.0));
    assert_eq!(work.tries_used(), 1);
    assert!(work.questions[1].is_touched());

    // The same once more is the same hand-in; another text is another one, and still waits.
    hand_in(&mut bench, &[entered(1, "b", "first")]).unwrap();
    assert_eq!(bench.work().hand_ins.len(), 1);
    hand_in(&mut bench, &[entered(1, "b", "second")]).unwrap();
    let work = bench.work();
    assert_eq!(work.hand_ins.len(), 2);
    assert_eq!(bench.assignment.settings.which_counts, WhichCounts::Best);
    let counts = work.counting_hand_in(&bench.assignment).unwrap();
    assert_eq!(counts.number, 2, "what was last written is what is marked");

    // The teacher's points stand for the whole question, and nothing waits any more.
    let given = score(&bench, 1, 3.5);
    add(&mut bench, given);
    let work = bench.work();
    let counted = work.counting_hand_in(&bench.assignment).unwrap().recorded;
    assert_eq!((counted.points, counted.waiting), (3.5, 0.0));
}

#[test]
fn what_is_only_typed_for_the_machine_stays_out_of_a_hand_in_as_before() {
    let bench = shared();
    let typed = Entered {
        response: Response::Text("5".into()),
        ..entered(1, "a", "x")
    };
    let drafts = [typed, entered(1, "b", "mine")];
    let parts = |end: End| -> Vec<String> {
        let wanted = to_mark_at_end(&bench.assignment, &bench.work(), &drafts, end);
        wanted
            .iter()
            .flat_map(|w| w.parts.iter().map(|(id, _)| id.clone()))
            .collect()
    };
    assert_eq!(parts(End::Student), ["b"]);
    // When time is up, both.
    assert_eq!(parts(End::Clock), ["a", "b"]);
}

#[test]
fn a_working_that_was_shown_does_not_keep_it_out() {
    let mut bench = shared();
    bench.assignment.settings.show_solution = ShowSolution::OnRequest;
    bench.run(&Command::ShowSolution { question: 1 }).unwrap();
    hand_in(&mut bench, &[entered(1, "b", "mine")]).unwrap();
    let counted = bench.work().counting_hand_in(&bench.assignment).unwrap().recorded;
    assert_eq!(counted.waiting, 2.0);
}

#[test]
fn work_is_with_the_teacher_until_it_is_marked() {
    let mut bench = whole();
    hand_in(&mut bench, &[entered(0, "a", "mine")]).unwrap();
    let after = bench.assignment.settings.closes + Duration::hours(1);
    let at = |bench: &Bench, now| state(&bench.assignment, &bench.work(), now);
    assert_eq!(at(&bench, bench.now), State::HandedIn);
    assert_eq!(at(&bench, after), State::WithTheTeacher);
    let given = score(&bench, 0, 2.0);
    add(&mut bench, given);
    assert_eq!(at(&bench, after), State::Marked);
}

#[test]
fn nobody_is_told_that_writing_could_come_out_right_by_itself() {
    let bench = whole();
    let so_far = score_so_far(&bench.assignment, &bench.work());
    let forecast = forecast(&bench.assignment, &so_far).unwrap();
    assert_eq!(forecast.questions, 1, "only the question that is checked");
    assert!((forecast.percent - 100.0 * 4.0 / 6.0).abs() < 1e-9);
}

proptest! {
    /// Whatever is handed in and whatever the teacher gives: what is decided and what waits never come to more than there
    /// is, and nothing waits where the teacher has decided.
    #[test]
    fn decided_and_waiting_points_never_exceed_what_there_is(
        steps in prop::collection::vec((0..4u8, 0..2usize, 0.0..9.0f64, 0..5u8), 1..14)
    ) {
        let mut bench = shared();
        bench.assignment.items[0].parts[0].by_hand = true;
        let mut decided = [false; 2];
        for (step, question, points, words) in steps {
            match step {
                0 => { let _ = bench.check(1, &[("a", if words % 2 == 0 { "5" } else { "4" })]); }
                1 => {
                    let part = if question == 0 { "a" } else { "b" };
                    let _ = hand_in(&mut bench, &[entered(question, part, &words.to_string())]);
                }
                2 => { let _ = bench.run(&Command::TakeBack); }
                _ => {
                    let given = score(&bench, question, points);
                    add(&mut bench, given);
                    decided[question] = true;
                }
            }
            let so_far = score_so_far(&bench.assignment, &bench.work());
            for (i, q) in so_far.questions.iter().enumerate() {
                prop_assert!(q.points >= 0.0 && q.waiting >= 0.0);
                prop_assert!(q.points + q.waiting <= f64::from(q.of) + 1e-9);
                prop_assert!(!decided[i] || q.waiting == 0.0);
            }
            let work = bench.work();
            for h in work.standing_hand_ins() {
                prop_assert!(h.recorded.points + h.recorded.waiting <= f64::from(h.recorded.of) + 1e-9);
            }
        }
    }
}

fn give(bench: &mut Bench, points: f64, hand_in: u32) -> Result<(), Refusal> {
    bench.run(&Command::Score {
        question: 0,
        points,
        note: " clear ".into(),
        by: uuid::Uuid::nil(),
        parts: Vec::new(),
        hand_in,
    })
}

#[test]
fn points_are_given_for_what_counts_within_what_there_is_at_any_time() {
    let mut bench = whole();
    assert_eq!(give(&mut bench, 1.0, 1), Err(Refusal::NothingHandedIn));
    hand_in(&mut bench, &[entered(0, "a", "first")]).unwrap();
    for wrong in [-0.1, 2.1, f64::NAN, f64::INFINITY] {
        assert_eq!(give(&mut bench, wrong, 1), Err(Refusal::PointsOutOfRange));
    }
    // After the end as well.
    bench.now = bench.assignment.settings.closes + Duration::days(30);
    give(&mut bench, 1.5, 1).unwrap();
    let stands = bench.work().by_teacher[&0].clone();
    assert_eq!((stands.points, stands.note.as_str()), (1.5, "clear"));
    let before = bench.events.len();
    give(&mut bench, 1.5, 1).unwrap();
    assert_eq!(bench.events.len(), before, "the same again is nothing new");
    give(&mut bench, 2.0, 1).unwrap();
    assert_eq!(bench.work().by_teacher[&0].points, 2.0);
    let no_such = Command::Score {
        question: 9,
        points: 0.0,
        note: String::new(),
        by: uuid::Uuid::nil(),
        parts: Vec::new(),
        hand_in: 1,
    };
    assert_eq!(bench.run(&no_such), Err(Refusal::NoSuchQuestion));
}

#[test]
fn what_was_handed_in_after_it_was_looked_at_is_looked_at_first() {
    let mut bench = whole();
    bench.assignment.settings.which_counts = WhichCounts::Last;
    hand_in(&mut bench, &[entered(0, "a", "first")]).unwrap();
    hand_in(&mut bench, &[entered(0, "a", "second")]).unwrap();
    assert_eq!(give(&mut bench, 1.0, 1), Err(Refusal::HandedInAgain));
    give(&mut bench, 1.0, 2).unwrap();
}
