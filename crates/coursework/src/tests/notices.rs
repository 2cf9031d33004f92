//! Corrected keys, the teacher's scores, and what students are told.

use super::*;

fn told(bench: &Bench, seen: u32) -> Vec<NoticeKind> {
    let all = notices(&bench.assignment, &bench.events, seen);
    all.into_iter().map(|n| n.kind).collect()
}

/// Marks the check of event `event` anew: the key was 4 all along.
fn corrected(bench: &Bench, event: u32, score: f64) -> Event {
    let Event::Checked(checked) = &bench.events[event as usize - 1].event else {
        panic!("a check")
    };
    let mut parts = checked.parts.clone();
    parts[0].score = score;
    parts[0].outcome = if score == 1.0 {
        Outcome::Correct
    } else {
        Outcome::Incorrect
    };
    Event::KeyCorrected(Correction {
        question: checked.question,
        version: "v2".into(),
        remarked: vec![Remark {
            event,
            parts,
            used_a_try: true,
        }],
        by: None,
        why: String::new(),
    })
}

#[test]
fn a_corrected_key_raises_a_recorded_score_and_keeps_the_old_one() {
    let mut bench = Bench::opened();
    bench.check(0, &[("a", "4")]).unwrap();
    bench.hand_in().unwrap();
    let correction = corrected(&bench, 2, 1.0);
    bench.add(correction);
    let work = bench.work();
    assert_eq!(work.hand_ins[0].recorded.points, 2.0);
    assert_eq!(work.hand_ins[0].recorded_then.points, 0.0);
    assert!(work.questions[0].sets[0].parts[0].right);
    assert_eq!(bench.points(), 2.0);
    assert_eq!(
        told(&bench, 0),
        [NoticeKind::KeyCorrected {
            question: 0,
            before: Some(0.0),
            after: Some(100.0 / 3.0),
        }]
    );
    assert_eq!(told(&bench, 4), []);
}

#[test]
fn a_corrected_key_may_lower_a_score_too() {
    let mut bench = Bench::opened();
    bench.assignment.settings.late = LateRule::PercentOff(50);
    bench.assignment.settings.closes = noon() + Duration::days(9);
    bench.check(0, &[("a", "5")]).unwrap();
    bench.now = noon() + Duration::days(3);
    bench.hand_in().unwrap();
    assert_eq!(bench.work().hand_ins[0].recorded.points, 1.0);
    let correction = corrected(&bench, 2, 0.0);
    bench.add(correction);
    assert_eq!(bench.work().hand_ins[0].recorded.points, 0.0);
    // A later correction of the same check replaces the earlier one.
    let again = corrected(&bench, 2, 1.0);
    bench.add(again);
    assert_eq!(
        bench.work().hand_ins[0].recorded.points,
        1.0,
        "half is still taken off"
    );
}

#[test]
fn a_hand_in_after_the_correction_is_untouched_by_it() {
    let mut bench = Bench::opened();
    bench.check(0, &[("a", "4")]).unwrap();
    let correction = corrected(&bench, 2, 1.0);
    bench.add(correction);
    bench.hand_in().unwrap();
    let hand_in = &bench.work().hand_ins[0];
    assert_eq!(hand_in.recorded, hand_in.recorded_then);
    assert_eq!(hand_in.recorded.points, 2.0);
}

#[test]
fn the_teachers_score_counts_instead_of_the_marking() {
    let mut bench = Bench::opened();
    bench.check(0, &[("a", "4")]).unwrap();
    bench.hand_in().unwrap();
    bench.add(Event::ScoredByTeacher {
        question: 0,
        points: 1.5,
        note: "The method was right.".into(),
        by: None,
        parts: Vec::new(),
    });
    assert_eq!(bench.work().hand_ins[0].recorded.points, 1.5);
    let score = score_so_far(&bench.assignment, &bench.work());
    assert!(score.questions[0].by_teacher);
    assert!(matches!(&told(&bench, 0)[..], [NoticeKind::ScoredByTeacher { points, .. }] if *points == 1.5));
}

#[test]
fn an_exception_tells_each_thing_it_gives() {
    let mut bench = Bench::opened();
    bench.add(Event::ExceptionGiven(Exception {
        due: Some(noon()),
        closes: Some(noon()),
        time_percent: Some(125),
        more_hand_ins: 2,
        ..Exception::default()
    }));
    assert_eq!(
        told(&bench, 0),
        [
            NoticeKind::DueMoved(noon()),
            NoticeKind::ClosingMoved(noon()),
            NoticeKind::MoreTime(125),
            NoticeKind::MoreHandIns(2)
        ]
    );
}

#[test]
fn results_that_are_out_are_told_until_they_are_seen() {
    let mut bench = Bench::opened();
    bench.assignment.settings.release = Release::AfterDue;
    bench.assignment.settings.closes = noon() + Duration::days(5);
    bench.hand_in().unwrap();
    let out = |bench: &Bench, seen| results_out(&bench.assignment, &bench.work(), seen, bench.now);
    assert_eq!(out(&bench, false), None);
    bench.now = noon() + Duration::days(3);
    let told = out(&bench, false).unwrap();
    assert_eq!(
        (told.event, told.at, told.kind),
        (0, bench.assignment.settings.due, NoticeKind::ResultsOut)
    );
    assert_eq!(out(&bench, true), None, "they were looked at");
}

#[test]
fn the_clocks_hand_in_is_told() {
    let mut bench = Bench::opened();
    bench.assignment.settings.time_limit = Some(5);
    bench.now += Duration::minutes(6);
    bench.run(&Command::TimeUp { marked: Vec::new() }).unwrap();
    assert_eq!(told(&bench, 1), [NoticeKind::TimeUp { handed_in: true }]);
}
