//! Mastery: examples of the model, and simulated students whose true states are known.

use super::*;

/// Steps of a fixed linear congruential generator (Knuth, MMIX): the simulation is the same in every run.
struct Chance(u64);

impl Chance {
    fn next(&mut self) -> f64 {
        self.0 = self
            .0
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        f64::from(u32::try_from(self.0 >> 32).unwrap()) / f64::from(u32::MAX)
    }

    fn happens(&mut self, probability: f64) -> bool {
        self.next() < probability
    }
}

fn evidence(day: i64, right: bool, guess: f64) -> Evidence {
    Evidence {
        at: noon() + Duration::days(day),
        right,
        guess,
        weight: 1.0,
    }
}

fn level_after(rights: &[bool], days_later: i64) -> (u8, Level) {
    let all: Vec<Evidence> = rights.iter().map(|r| evidence(0, *r, 0.05)).collect();
    let m = PARAMETERS.mastery(&all, noon() + Duration::days(days_later));
    (m.score, m.level)
}

#[test]
fn levels_follow_the_evidence() {
    assert_eq!(level_after(&[], 0), (0, Level::New));
    assert_eq!(level_after(&[false], 0).1, Level::Growing);
    assert_eq!(level_after(&[true], 0).1, Level::Steady);
    assert_eq!(level_after(&[true, true], 0).1, Level::Solid);
    assert_eq!(level_after(&[true, true, true], 40).1, Level::Fading);
    assert_eq!(
        level_after(&[true, true, false], 0).1,
        Level::Steady,
        "a wrong answer is no fading"
    );
}

#[test]
fn what_would_change_it_is_what_then_happens() {
    let all = [evidence(0, true, 0.05), evidence(1, false, 0.25)];
    let now = noon() + Duration::days(3);
    let before = PARAMETERS.mastery(&all, now);
    for (right, foretold) in [(true, before.next_right), (false, before.next_wrong)] {
        let mut more = all.to_vec();
        more.push(Evidence {
            at: now,
            ..evidence(0, right, 0.05)
        });
        assert_eq!(PARAMETERS.mastery(&more, now).score, foretold);
    }
}

#[test]
fn help_makes_weaker_evidence_and_later_evidence_does_not_count_yet() {
    let plain = PARAMETERS.mastery(&[evidence(0, true, 0.25)], noon());
    let helped = PARAMETERS.mastery(
        &[Evidence {
            weight: 0.5,
            ..evidence(0, true, 0.25)
        }],
        noon(),
    );
    assert!(helped.score < plain.score && helped.score > 20);
    assert_eq!(
        PARAMETERS.mastery(&[evidence(2, true, 0.25)], noon()).level,
        Level::New
    );
}

#[test]
fn a_starting_point_stands_before_the_first_check_and_later_work_overrules_it() {
    let start = |known| Some(Start { at: noon(), known });
    let later = noon() + Duration::hours(1);
    let placed = PARAMETERS.mastery_from(start(0.9), &[], later);
    assert_eq!((placed.level, placed.from_start), (Level::Steady, Some(90)));
    let unknown = PARAMETERS.mastery_from(start(0.1), &[], later);
    assert_eq!((unknown.level, unknown.from_start), (Level::New, Some(10)));
    // One right check makes it solid, wrong ones bring it down; without the starting point one right check does not do.
    let at = |hours, right| Evidence {
        at: noon() + Duration::hours(hours),
        ..evidence(0, right, 0.05)
    };
    let right = PARAMETERS.mastery_from(start(0.9), &[at(1, true)], later);
    assert_eq!(right.level, Level::Solid);
    assert_eq!(PARAMETERS.mastery(&[at(1, true)], later).level, Level::Steady);
    let wrong = [at(1, false), at(2, false)];
    let wrong = PARAMETERS.mastery_from(start(0.9), &wrong, noon() + Duration::hours(3));
    assert_eq!(wrong.level, Level::Growing);
    // What was checked before says more.
    let before = [at(-1, false)];
    assert_eq!(
        PARAMETERS.mastery_from(start(0.9), &before, later),
        PARAMETERS.mastery(&before, later)
    );
    // It is no evidence from the future, and its course begins with it.
    assert_eq!(
        PARAMETERS
            .mastery_from(start(0.9), &[], noon() - Duration::hours(1))
            .level,
        Level::New
    );
    let course = PARAMETERS.course(start(0.9), &[at(1, true)], later);
    assert_eq!(course.first(), Some(&(noon(), 90)));
}

#[test]
fn only_the_first_check_of_a_set_is_evidence() {
    let mut bench = Bench::opened();
    bench.check(0, &[("a", "3 +")]).unwrap();
    bench.check(0, &[("a", "4")]).unwrap();
    bench.check(0, &[("a", "5")]).unwrap();
    bench
        .run(&Command::FreshNumbers { question: 0, seed: 7 })
        .unwrap();
    bench
        .run(&Command::TakeHint {
            question: 0,
            available: 1,
        })
        .unwrap();
    bench.check(0, &[("a", "5")]).unwrap();
    let question = SkillQuestion {
        skills: vec!["ratios".into(), "units".into()],
        guess: 0.05,
    };
    let found = evidence_of(&PARAMETERS, &bench.work(), &[question.clone(), question]);
    let told: Vec<(bool, f64)> = found["ratios"].iter().map(|e| (e.right, e.weight)).collect();
    assert_eq!(told, [(false, 1.0), (true, 0.5)]);
    assert_eq!(found["units"][0].weight, 0.5);
}

#[test]
fn a_skill_opens_when_what_it_needs_is_steady() {
    let requires = ["algebra".to_owned(), "circles".to_owned()];
    let level = |id: &str| match id {
        "algebra" => (72, Level::Steady),
        _ => (40, Level::Growing),
    };
    assert_eq!(missing_prerequisites(&requires, level), ["circles"]);
    assert!(missing_prerequisites(&requires, |_| (96, Level::Solid)).is_empty());
    assert_eq!(missing_prerequisites(&requires, |_| (0, Level::New)).len(), 2);
}

/// A student who learns, forgets, slips and guesses as the model says; typed questions and choices in turn.
fn simulate(seed: u64, mut look: impl FnMut(u8, bool)) {
    let p = PARAMETERS;
    let mut chance = Chance(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) ^ 0x5555);
    let mut known = chance.happens(p.known_at_first);
    let mut all: Vec<Evidence> = Vec::new();
    let mut day = 0;
    for n in 0..14 {
        let pause = if chance.happens(0.4) { 1 + n % 5 } else { 0 };
        day += pause;
        known = known && !chance.happens(1.0 - (1.0 - p.forgotten_daily).powi(i32::try_from(pause).unwrap()));
        let guess = if n % 3 == 2 { 0.25 } else { p.guess_typed };
        let right = chance.happens(if known { 1.0 - p.slip } else { guess });
        known = known || chance.happens(p.learned);
        all.push(evidence(day, right, guess));
        look(
            PARAMETERS.mastery(&all, noon() + Duration::days(day)).score,
            known,
        );
    }
}

#[test]
fn the_score_is_calibrated() {
    let (mut shown, mut truly) = (0u32, 0u32);
    for seed in 0..40_000 {
        simulate(seed, |score, known| {
            if (85..=95).contains(&score) {
                shown += 1;
                truly += u32::from(known);
            }
        });
    }
    let share = f64::from(truly) / f64::from(shown);
    assert!(shown > 2_000, "{shown}");
    assert!((0.85..=0.95).contains(&share), "{share} of {shown}");
}

/// First checks until a student who knows shows solid.
fn checks_until_solid(seed: u64, guess: f64) -> usize {
    let mut chance = Chance(seed ^ 0xabcd_ef01);
    let mut all = Vec::new();
    loop {
        all.push(evidence(0, chance.happens(1.0 - PARAMETERS.slip), guess));
        if PARAMETERS.mastery(&all, noon()).level == Level::Solid || all.len() == 60 {
            return all.len();
        }
    }
}

#[rstest]
#[case::typed(0.05)]
#[case::four_choices(0.25)]
#[case::three_choices(1.0 / 3.0)]
fn a_student_who_knows_is_solid_soon(#[case] guess: f64) {
    let mut needed: Vec<usize> = (0..1_001)
        .map(|seed| checks_until_solid(seed * 7_919, guess))
        .collect();
    needed.sort_unstable();
    assert!(needed[500] <= 6, "the median is {}", needed[500]);
}

#[test]
fn a_guesser_hardly_ever_shows_solid() {
    let runs = 3_000;
    let mut fooled = 0;
    for seed in 0..runs {
        let mut chance = Chance(seed * 104_729 + 17);
        // The model's own recursion, step by step: folding anew each time would take long.
        let mut all: Vec<Evidence> = Vec::new();
        for _ in 0..200 {
            all.push(evidence(0, chance.happens(0.25), 0.25));
        }
        let history = PARAMETERS.mastery(&all, noon()).history;
        fooled += u32::from(history.iter().any(|(_, score)| *score >= SOLID));
    }
    let share = f64::from(fooled) / 3_000.0;
    assert!(share < 0.05, "{share}");
}

proptest::proptest! {
    #![proptest_config(proptest::prelude::ProptestConfig::with_cases(1_000))]

    #[test]
    fn right_answers_never_lower_and_wrong_ones_never_raise_a_score_of_a_day(
        answers in proptest::collection::vec((proptest::bool::ANY, 0.05..0.5f64, 0.25..1.0f64), 1..30)
    ) {
        let all: Vec<Evidence> = answers
            .iter()
            .map(|(right, guess, weight)| Evidence { weight: *weight, ..evidence(0, *right, *guess) })
            .collect();
        let m = PARAMETERS.mastery(&all, noon());
        let mut before = 20;
        for (e, after) in &m.history {
            if e.right {
                proptest::prop_assert!(*after >= before);
            } else {
                // What is learned at a check is at most one in a hundred.
                proptest::prop_assert!(*after <= before + 1);
            }
            before = *after;
        }
        proptest::prop_assert!(m.score <= 100 && m.next_right >= m.next_wrong);
    }
}

fn typed(day: i64, right: bool) -> Evidence {
    Evidence {
        at: noon() + Duration::days(day),
        right,
        guess: PARAMETERS.guess_typed,
        weight: 1.0,
    }
}

#[test]
fn the_course_ends_where_the_score_stands_and_falls_only_by_days_and_wrong_answers() {
    let evidence = [
        typed(0, true),
        typed(0, true),
        typed(3, true),
        typed(10, false),
        typed(12, true),
    ];
    let now = noon() + Duration::days(40);
    let course = PARAMETERS.course(None, &evidence, now);
    let mastery = PARAMETERS.mastery(&evidence, now);
    assert_eq!(course.last(), Some(&(now, mastery.score)));
    let after: Vec<u8> = mastery.history.iter().map(|h| h.1).collect();
    let shown = |e: &Evidence| course.iter().rev().find(|p| p.0 == e.at).map(|p| p.1);
    assert_eq!(shown(&evidence[2]), Some(after[2]));
    assert_eq!(shown(&evidence[3]), Some(after[3]));
    assert!(course.is_sorted_by_key(|p| p.0));
    // What it was just before a check stands there too, so that a check shows as a step.
    let at_the_wrong_one: Vec<u8> = course
        .iter()
        .filter(|p| p.0 == evidence[3].at)
        .map(|p| p.1)
        .collect();
    assert_eq!(at_the_wrong_one.len(), 2);
    assert!(at_the_wrong_one[0] > at_the_wrong_one[1] && at_the_wrong_one[0] <= after[2]);
    let days = course.iter().filter(|p| p.0 > evidence[4].at);
    assert!(days.clone().map(|p| p.1).is_sorted_by(|a, b| a >= b));
    assert_eq!(days.count(), 28);
}

#[test]
fn there_is_no_course_without_evidence_nor_one_of_the_future() {
    assert_eq!(PARAMETERS.course(None, &[], noon()), []);
    assert_eq!(PARAMETERS.course(None, &[typed(1, true)], noon()), []);
}

#[test]
fn a_course_of_many_years_keeps_its_newest_points() {
    let now = noon() + Duration::days(5_000);
    let course = PARAMETERS.course(None, &[typed(0, true)], now);
    assert_eq!((course.len(), course.last().unwrap().0), (LONGEST_COURSE, now));
}

#[test]
fn a_fading_skill_says_since_when() {
    let evidence = [typed(0, true), typed(0, true), typed(0, true), typed(0, true)];
    let at = |days: i64| PARAMETERS.mastery(&evidence, noon() + Duration::days(days));
    assert_eq!((at(1).level, at(1).faded_at), (Level::Solid, None));
    let later = at(90);
    let since = later.faded_at.expect("it is fading");
    assert_eq!(later.level, Level::Fading);
    let just = |offset: Duration| PARAMETERS.mastery(&evidence, since + offset).score;
    assert!(just(Duration::hours(-1)) >= FADING_BELOW && just(Duration::hours(1)) < FADING_BELOW);
}
