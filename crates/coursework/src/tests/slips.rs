//! The slip book.

use super::*;

fn attempt(days: i64, seed: u64, right: bool) -> Attempt {
    Attempt {
        question: "doubled".into(),
        at: noon() + Duration::days(days),
        seed,
        all_right: right,
        wrong: !right,
        source: 0,
        event: u32::try_from(days + 1).unwrap(),
    }
}

fn standings(attempts: &[Attempt]) -> Vec<Standing> {
    slip_book(attempts).into_iter().map(|s| s.standing).collect()
}

fn mended(at: i64, comes_back: Option<i64>) -> Standing {
    let day = |d| noon() + Duration::days(d);
    Standing::Mended {
        at: day(at),
        comes_back: comes_back.map(day),
    }
}

#[test]
fn right_on_the_same_numbers_does_not_mend_right_on_fresh_ones_does() {
    assert_eq!(
        standings(&[attempt(0, 1, false), attempt(1, 1, true)]),
        [Standing::Open]
    );
    assert_eq!(
        standings(&[attempt(0, 1, false), attempt(1, 2, true)]),
        [mended(1, Some(3))]
    );
}

#[test]
fn a_mended_slip_comes_back_after_2_7_and_21_days() {
    let mut all = vec![attempt(0, 1, false), attempt(1, 2, true), attempt(2, 3, true)];
    assert_eq!(
        standings(&all),
        [mended(1, Some(3))],
        "too early counts for nothing"
    );
    all.push(attempt(3, 4, true));
    assert_eq!(standings(&all), [mended(1, Some(10))]);
    all.push(attempt(10, 5, true));
    assert_eq!(standings(&all), [mended(1, Some(31))]);
    all.push(attempt(31, 6, true));
    assert_eq!(standings(&all), [mended(1, None)]);
}

#[test]
fn wrong_when_it_comes_back_opens_a_slip_and_begins_anew() {
    let all = [
        attempt(0, 1, false),
        attempt(1, 2, true),
        attempt(3, 3, true),
        attempt(10, 4, false),
        attempt(11, 5, true),
    ];
    // The newest first; the older one does not come back beside it.
    assert_eq!(standings(&all), [mended(11, Some(13)), mended(1, None)]);
}

#[test]
fn work_and_practice_both_go_into_the_book() {
    let mut bench = Bench::opened();
    bench.check(1, &[("a", "3 +")]).unwrap();
    bench.check(1, &[("a", "4"), ("b", "5")]).unwrap();
    bench.check(1, &[("a", "5")]).unwrap();
    bench
        .run(&Command::FreshNumbers { question: 1, seed: 9 })
        .unwrap();
    bench.check(1, &[("a", "5")]).unwrap();
    bench.now += Duration::hours(1);
    bench.check(1, &[("b", "5")]).unwrap();
    let ids = ["x".into(), "y".into()];
    let attempts = attempts_in_work(&bench.work(), &ids, 3);
    let told: Vec<(bool, bool, u32)> = attempts.iter().map(|a| (a.all_right, a.wrong, a.event)).collect();
    assert_eq!(
        told,
        [
            (false, true, 3),
            (true, false, 4),
            (false, false, 6),
            (true, false, 7)
        ]
    );
    let book = slip_book(&attempts);
    assert_eq!((book.len(), book[0].attempt.source), (1, 3));
    assert!(matches!(book[0].standing, Standing::Mended { at, .. } if at == bench.now));
}

fn of(question: &str, day: i64, wrong: bool, seed: u64) -> Attempt {
    Attempt {
        question: question.into(),
        ..attempt(day, seed, !wrong)
    }
}

fn drawn(attempts: &[Attempt], length: usize) -> Vec<String> {
    let book = slip_book(attempts);
    let slips: Vec<&SlipEntry> = book.iter().collect();
    draw_review(&slips, length)
        .into_iter()
        .map(|item| item.question)
        .collect()
}

#[test]
fn a_review_takes_open_slips_first_then_the_most_frequent_then_the_newest() {
    let attempts = [
        of("mended-often", 0, true, 1),
        of("mended-often", 1, true, 1),
        of("mended-often", 2, false, 2),
        of("mended-once", 3, true, 1),
        of("mended-once", 4, false, 2),
        of("open-old", 5, true, 1),
        of("open-new", 6, true, 1),
        of("open-twice", 0, true, 1),
        of("open-twice", 1, true, 2),
    ];
    assert_eq!(
        drawn(&attempts, 5),
        [
            "open-twice",
            "open-new",
            "open-old",
            "mended-often",
            "mended-once"
        ]
    );
    assert_eq!(drawn(&attempts, 2), ["open-twice", "open-new"]);
}

#[test]
fn a_review_that_is_longer_than_the_slips_comes_round_again() {
    let attempts = [of("one", 0, true, 1), of("two", 1, true, 1)];
    assert_eq!(drawn(&attempts, 5), ["two", "one", "two", "one", "two"]);
    assert!(drawn(&[], 5).is_empty());
    assert!(drawn(&attempts, 0).is_empty());
}

#[test]
fn a_review_says_how_often_one_slipped_and_whether_it_is_open() {
    let attempts = [
        of("one", 0, true, 1),
        of("one", 1, true, 2),
        of("one", 2, false, 3),
    ];
    let book = slip_book(&attempts);
    let slips: Vec<&SlipEntry> = book.iter().collect();
    let review = draw_review(&slips, 1);
    let expected = ReviewItem {
        question: "one".into(),
        slips: 2,
        open: false,
    };
    assert_eq!(review, [expected]);
}
