//! Linear order, and checking at hand-in.

use super::*;

fn linear(going_back: bool) -> Bench {
    let mut bench = Bench::opened();
    bench.assignment.settings.navigation = Navigation::Linear { going_back };
    bench
}

fn to(to: usize, answered: bool) -> Command {
    Command::MoveOn { to, answered }
}

#[test]
fn a_question_not_reached_cannot_be_touched() {
    let mut bench = linear(true);
    assert_eq!(bench.check(1, &[("a", "5")]), Err(Refusal::NotReached));
    assert_eq!(
        may_see(&bench.assignment, &bench.work(), 1),
        Err(Refusal::NotReached)
    );
    assert_eq!(
        may_draft(&bench.assignment, &bench.work(), 1, 0, "a", bench.now),
        Err(Refusal::NotReached)
    );
    assert_eq!(
        bench.run(&Command::ShowSolution { question: 1 }),
        Err(Refusal::NotReached)
    );
    bench.run(&to(1, false)).unwrap();
    bench.check(1, &[("a", "5")]).unwrap();
    bench.check(0, &[("a", "5")]).unwrap();
}

#[test]
fn without_going_back_what_is_left_stays_left() {
    let mut bench = linear(false);
    bench.run(&to(1, false)).unwrap();
    assert_eq!(bench.check(0, &[("a", "5")]), Err(Refusal::LeftBehind));
    assert_eq!(bench.run(&to(0, true)), Err(Refusal::LeftBehind));
}

#[test]
fn a_question_that_must_be_answered_holds() {
    let mut bench = linear(true);
    bench.assignment.settings.allow_skipping = false;
    assert_eq!(bench.run(&to(1, false)), Err(Refusal::AnswerFirst));
    bench.check(0, &[("a", "1")]).unwrap();
    bench.run(&to(1, false)).unwrap();
    assert_eq!(bench.run(&to(2, true)), Err(Refusal::NoSuchQuestion));
}

#[test]
fn in_any_order_nothing_is_moved_on_from() {
    assert_eq!(Bench::opened().run(&to(1, true)), Err(Refusal::AnyOrder));
}

fn quiz() -> Bench {
    let mut bench = Bench::opened();
    bench.assignment.settings = Settings::quiz(noon() - Duration::days(2), noon() + Duration::days(2));
    bench
}

#[test]
fn a_hand_in_marks_what_stands_in_the_fields() {
    let mut bench = quiz();
    bench.hand_in_with(&[(0, "a", "5"), (1, "b", "5")]).unwrap();
    let work = bench.work();
    assert_eq!(
        work.counting_hand_in(&bench.assignment).unwrap().recorded.points,
        4.0
    );
    assert!(verdicts_visible(&bench.assignment, &work, bench.now));
    assert_eq!(bench.state(), State::Marked);
    assert_eq!(
        may_add(&bench.assignment, &work, bench.now),
        Err(Refusal::NoHandInsLeft)
    );
    assert_eq!(bench.run(&Command::TakeBack), Err(Refusal::ResultsSeen));
    assert_eq!(bench.hand_in_with(&[(1, "a", "5")]), Err(Refusal::NoHandInsLeft));
}

#[test]
fn results_after_due_stay_hidden_until_then() {
    let mut bench = quiz();
    bench.assignment.settings.release = Release::AfterDue;
    bench.assignment.settings.closes = noon() + Duration::days(5);
    bench.assignment.settings.hand_ins = Some(2);
    bench.hand_in_with(&[(0, "a", "5")]).unwrap();
    assert!(!verdicts_visible(&bench.assignment, &bench.work(), bench.now));
    assert_eq!(bench.state(), State::HandedIn);
    // Before the results are out a hand-in can be taken back and given again.
    bench.run(&Command::TakeBack).unwrap();
    assert_eq!(may_add(&bench.assignment, &bench.work(), bench.now), Ok(()));
    bench.hand_in_with(&[(0, "a", "4")]).unwrap();
    bench.now = noon() + Duration::days(3);
    let work = bench.work();
    assert!(verdicts_visible(&bench.assignment, &work, bench.now));
    assert_eq!(bench.state(), State::Marked);
    // What was taken back gives nothing: nobody could have seen that it was right.
    assert_eq!(
        work.counting_hand_in(&bench.assignment).unwrap().recorded.points,
        0.0
    );
    assert_eq!(bench.hand_in_with(&[(1, "a", "5")]), Err(Refusal::ResultsOut));
}

#[test]
fn every_question_attempted_counts_what_is_handed_in() {
    let mut bench = quiz();
    bench.assignment.settings.hand_in_needs = HandInNeeds::EveryQuestionAttempted;
    assert_eq!(bench.hand_in_with(&[(0, "a", "5")]), Err(Refusal::QuestionsLeft));
    bench.hand_in_with(&[(0, "a", "5"), (1, "a", "1")]).unwrap();
}

#[test]
fn there_are_no_fresh_numbers_in_a_quiz() {
    let mut bench = quiz();
    let fresh = Command::FreshNumbers { question: 0, seed: 3 };
    assert_eq!(bench.run(&fresh), Err(Refusal::NoFreshNumbers));
    assert_eq!(
        bench.run(&Command::ShowSolution { question: 0 }),
        Err(Refusal::CheckedAtHandIn)
    );
}
