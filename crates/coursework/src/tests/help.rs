//! Hints, worked examples, the working, and fresh numbers.

use super::*;

fn fresh(bench: &mut Bench, question: usize) -> Result<(), Refusal> {
    bench.run(&Command::FreshNumbers { question, seed: 77 })
}

fn hint(bench: &mut Bench) -> Result<(), Refusal> {
    bench.run(&Command::TakeHint {
        question: 0,
        available: 2,
    })
}

#[test]
fn three_wrong_tries_the_working_and_fresh_numbers_still_earn_full_credit() {
    let mut bench = Bench::opened();
    assert_eq!(fresh(&mut bench, 0), Err(Refusal::SetNotEnded));
    for entry in ["1", "2", "3"] {
        bench.check(0, &[("a", entry)]).unwrap();
    }
    bench.run(&Command::ShowSolution { question: 0 }).unwrap();
    fresh(&mut bench, 0).unwrap();
    assert_eq!(bench.tries_used(0), 0);
    bench.check(0, &[("a", "5")]).unwrap();
    let score = score_so_far(&bench.assignment, &bench.work());
    assert_eq!(
        (score.questions[0].points, score.questions[0].set),
        (2.0, Some(1))
    );
}

#[test]
fn a_later_set_never_lowers_the_score() {
    let mut bench = Bench::opened();
    bench.check(0, &[("a", "5")]).unwrap();
    fresh(&mut bench, 0).unwrap();
    bench.check(0, &[("a", "1")]).unwrap();
    let score = score_so_far(&bench.assignment, &bench.work());
    assert_eq!(
        (score.questions[0].points, score.questions[0].set),
        (2.0, Some(0))
    );
}

#[test]
fn sets_run_out() {
    let mut bench = Bench::opened();
    bench.assignment.settings.max_sets = Some(2);
    for _ in 0..2 {
        bench.run(&Command::ShowSolution { question: 0 }).unwrap();
        let _ = fresh(&mut bench, 0);
    }
    assert_eq!(fresh(&mut bench, 0), Err(Refusal::NoSetsLeft));
    assert_eq!(bench.work().questions[0].sets.len(), 2);
}

#[test]
fn seeing_the_working_ends_the_set() {
    let mut bench = Bench::opened();
    bench.run(&Command::ShowSolution { question: 0 }).unwrap();
    assert_eq!(bench.check(0, &[("a", "5")]), Err(Refusal::SetEnded));
    assert_eq!(bench.points(), 0.0);
}

#[rstest]
#[case::on_request(ShowSolution::OnRequest, Ok(()), Ok(()), Ok(()))]
#[case::after_tries(ShowSolution::WhenTriesRunOut, Err(Refusal::SolutionAfterTries), Ok(()), Ok(()))]
#[case::after_credit(
    ShowSolution::AfterFullCredit,
    Err(Refusal::SolutionAfterCredit),
    Err(Refusal::SolutionAfterCredit),
    Ok(())
)]
#[case::after_due(
    ShowSolution::AfterDue,
    Err(Refusal::SolutionAfterDue),
    Err(Refusal::SolutionAfterDue),
    Err(Refusal::SolutionAfterDue)
)]
#[case::never(
    ShowSolution::Never,
    Err(Refusal::NoSolution),
    Err(Refusal::NoSolution),
    Err(Refusal::NoSolution)
)]
fn the_working_shows_when_the_teacher_says(
    #[case] rule: ShowSolution,
    #[case] at_first: Result<(), Refusal>,
    #[case] without_tries: Result<(), Refusal>,
    #[case] when_right: Result<(), Refusal>,
) {
    let ask = |entries: &[&str]| {
        let mut bench = Bench::opened();
        bench.assignment.settings.show_solution = rule;
        for entry in entries {
            bench.check(0, &[("a", entry)]).unwrap();
        }
        bench.run(&Command::ShowSolution { question: 0 })
    };
    assert_eq!(ask(&[]), at_first);
    assert_eq!(ask(&["1", "2", "3"]), without_tries);
    assert_eq!(ask(&["5"]), when_right);
}

#[test]
fn after_due_the_working_shows_although_late_work_goes_on() {
    let mut bench = Bench::opened();
    bench.assignment.settings.show_solution = ShowSolution::AfterDue;
    bench.assignment.settings.closes = noon() + Duration::days(9);
    bench.now = noon() + Duration::days(3);
    bench.run(&Command::ShowSolution { question: 0 }).unwrap();
    assert_eq!(bench.check(0, &[("a", "5")]), Err(Refusal::SetEnded));
}

#[test]
fn hints_come_one_by_one_and_run_out() {
    let mut bench = Bench::opened();
    hint(&mut bench).unwrap();
    hint(&mut bench).unwrap();
    assert_eq!(hint(&mut bench), Err(Refusal::NoMoreHints));
    bench.check(0, &[("a", "5")]).unwrap();
    assert_eq!(bench.points(), 2.0, "a hint without a cost costs nothing");
    bench.assignment.settings.hints = false;
    assert_eq!(hint(&mut bench), Err(Refusal::HintsOff));
}

#[test]
fn a_hint_costs_what_was_said_and_only_on_what_comes_after_it() {
    let mut bench = Bench::opened();
    bench.assignment.settings.hint_cost = 25;
    bench.check(1, &[("a", "5")]).unwrap();
    bench
        .run(&Command::TakeHint {
            question: 1,
            available: 1,
        })
        .unwrap();
    bench.check(1, &[("b", "5")]).unwrap();
    let score = score_so_far(&bench.assignment, &bench.work());
    assert_eq!(
        (score.questions[1].points, score.questions[1].hint_points),
        (3.5, 0.5)
    );
    // Fresh numbers begin without hints, and the better set counts.
    bench
        .run(&Command::FreshNumbers { question: 1, seed: 5 })
        .unwrap();
    bench.check(1, &[("a", "5"), ("b", "5")]).unwrap();
    assert_eq!(bench.points(), 4.0);
}

#[test]
fn an_example_that_is_not_there_is_refused() {
    let mut bench = Bench::opened();
    let see = |available| Command::SeeExample {
        question: 0,
        available,
    };
    assert_eq!(bench.run(&see(false)), Err(Refusal::NoExample));
    bench.run(&see(true)).unwrap();
    bench.run(&see(true)).unwrap();
    assert_eq!(bench.events.len(), 2, "it is noted once");
    bench.assignment.settings.worked_example = false;
    assert_eq!(bench.run(&see(true)), Err(Refusal::NoExample));
}

#[test]
fn a_part_may_have_fewer_tries_than_its_question() {
    let mut bench = Bench::opened();
    bench.assignment.items[1].parts[0].max_attempts = Some(1);
    bench.check(1, &[("a", "4")]).unwrap();
    assert_eq!(bench.check(1, &[("a", "5")]), Err(Refusal::NothingEntered));
    bench.check(1, &[("a", "5"), ("b", "5")]).unwrap();
    let work = bench.work();
    assert!(!work.questions[1].sets[0].parts[0].right && work.questions[1].sets[0].parts[1].right);
    assert!(set_is_over(&bench.assignment, 1, &work.questions[1].sets[0]));
    assert_eq!(bench.check(1, &[("a", "5")]), Err(Refusal::NoTriesLeft));
}

#[test]
fn a_question_may_have_tries_of_its_own() {
    let mut bench = Bench::opened();
    bench.assignment.settings.question_attempts.insert(0, 1);
    bench.check(0, &[("a", "4")]).unwrap();
    assert_eq!(bench.check(0, &[("a", "5")]), Err(Refusal::NoTriesLeft));
    bench.check(1, &[("a", "4")]).unwrap();
    bench.check(1, &[("a", "5")]).unwrap();
}

#[test]
fn where_all_parts_are_needed_an_empty_one_costs_nothing() {
    let mut bench = Bench::opened();
    bench.assignment.items[1].all_parts_needed = true;
    assert_eq!(bench.check(1, &[("a", "4")]), Err(Refusal::Incomplete));
    assert_eq!(bench.tries_used(1), 0);
    bench.check(1, &[("a", "5"), ("b", "4")]).unwrap();
    bench.check(1, &[("b", "5")]).unwrap();
    assert_eq!(bench.points(), 4.0);
}

#[test]
fn what_stands_in_a_field_of_an_earlier_set_is_not_taken() {
    let mut bench = Bench::opened();
    bench.run(&Command::ShowSolution { question: 0 }).unwrap();
    fresh(&mut bench, 0).unwrap();
    let may = |set| may_draft(&bench.assignment, &bench.work(), 0, set, "a", bench.now);
    assert_eq!(may(0), Err(Refusal::OldSet));
    assert_eq!(may(1), Ok(()));
}
