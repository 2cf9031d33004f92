//! What is written down beside events: by the statement that adds them, and again by whoever finds it missing.

use coursework::{Event, PracticeEvent, PracticeGoal, Run, Target, Work};
use sqlx::PgPool;
use store::{Append, Derived, StoreError, WorkId};
use uuid::Uuid;

use super::{addition, noon, world};

/// A work that stands at an event, with something in it to be known by.
fn work_at(last_event: u32, reached: usize) -> Work {
    let mut work = Work::default();
    work.opened_at = Some(noon());
    (work.reached, work.last_event) = (reached, last_event);
    work
}

fn derived(state: &Work) -> Derived<'_> {
    Derived {
        state,
        ends_at: None,
        recorded_percent: Some(62.5),

        sheet: coursework::SheetCell::default(),
    }
}

async fn find(pool: &PgPool, work: WorkId) -> Option<store::WorkDigest> {
    let mut found = store::digests_of(pool, &[work]).await.unwrap();
    found.remove(&work.0)
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn events_bring_their_digest_with_them(pool: PgPool) {
    let about = world(&pool).await;
    assert_eq!(find(&pool, about.2).await, None, "nothing has happened yet");
    for (last, reached) in [(0u32, 3), (1, 5)] {
        let (events, state) = ([Event::MovedOn { to: reached }], work_at(last + 1, reached));
        let append = Append {
            after: derived(&state),
            ..addition(about, last, &events)
        };
        store::append(&pool, &append).await.unwrap();
        let digest = find(&pool, about.2).await.unwrap();
        assert_eq!(
            (digest.last_event, digest.version, digest.work),
            (last + 1, 1, about.2)
        );
        assert_eq!(digest.state, state);
    }
    // Whoever was late writes nothing.
    let (events, state) = ([Event::TakenBack], work_at(2, 9));
    let late = Append {
        after: derived(&state),
        ..addition(about, 1, &events)
    };
    assert!(matches!(
        store::append(&pool, &late).await,
        Err(StoreError::Conflict)
    ));
    assert_eq!(find(&pool, about.2).await.unwrap().state.reached, 5);
    let recorded = store::recorded_scores(&pool, &[about.1]).await.unwrap();
    assert_eq!(
        recorded[&about.1],
        [62.5],
        "what else is derived is written with it"
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_work_that_begins_has_its_digest_at_once(pool: PgPool) {
    let (_, assignment, _) = world(&pool).await;
    let cy = store::put_person(&pool, "cy", "Cy Fenn", "none", store::Role::Student)
        .await
        .unwrap();
    let (events, state) = ([Event::Opened { seeds: vec![7] }], work_at(1, 0));
    let begin = Append {
        work: None,
        student: cy,
        after: derived(&state),
        ..addition((cy, assignment, WorkId(Uuid::nil())), 0, &events)
    };
    let begun = store::append(&pool, &begin).await.unwrap();
    let digest = find(&pool, begun.work).await.unwrap();
    assert_eq!((digest.last_event, &digest.state), (1, &state));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_is_derived_is_only_written_where_nothing_has_moved_on(pool: PgPool) {
    let about = world(&pool).await;
    let work = about.2;
    let now = work_at(0, 1);
    assert!(store::put_derived(&pool, work, 1, derived(&now)).await.unwrap());
    let again = work_at(0, 2);
    assert!(store::put_derived(&pool, work, 1, derived(&again)).await.unwrap());
    assert_eq!(find(&pool, work).await.unwrap().state.reached, 2);
    // Of another version of the assignment, of another event, of no work at all.
    assert!(
        !store::put_derived(&pool, work, 2, derived(&work_at(0, 3)))
            .await
            .unwrap()
    );
    assert!(
        !store::put_derived(&pool, work, 1, derived(&work_at(4, 3)))
            .await
            .unwrap()
    );
    let nobody = WorkId(Uuid::now_v7());
    assert!(!store::put_derived(&pool, nobody, 1, derived(&now)).await.unwrap());
    assert_eq!(find(&pool, work).await.unwrap().state.reached, 2);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_cannot_be_read_counts_as_missing(pool: PgPool) {
    let work = world(&pool).await.2;
    store::put_derived(&pool, work, 1, derived(&work_at(0, 1)))
        .await
        .unwrap();
    sqlx::query("update work_digests set form = form + 1")
        .execute(&pool)
        .await
        .unwrap();
    assert_eq!(find(&pool, work).await, None, "of a form that is not known here");
    sqlx::query("update work_digests set form = $1, body = '\\x93'")
        .bind(store::FORM)
        .execute(&pool)
        .await
        .unwrap();
    assert_eq!(find(&pool, work).await, None, "cut off");
    store::put_derived(&pool, work, 1, derived(&work_at(0, 8)))
        .await
        .unwrap();
    assert_eq!(find(&pool, work).await.unwrap().state.reached, 8);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_runs_digest_stands_until_the_run_moves_on(pool: PgPool) {
    let person = world(&pool).await.0;
    let goal = PracticeGoal {
        skills: vec!["ratios".into()],
        target: Target::Right(3),
        question: None,
    };
    let run = store::start_run(&pool, person, &goal, noon()).await.unwrap();
    assert!(
        store::runs_of(&pool, person).await.unwrap().is_empty(),
        "nothing has happened in it"
    );
    let event = PracticeEvent::Drawn {
        question: "doubling".into(),
        version: Uuid::nil().to_string(),
        seed: u64::MAX,
        skill: "ratios".into(),
        skills: vec!["ratios".into()],
        guess: 0.1,
    };
    let first = Run::default().after(&event, noon());
    let mut tx = pool.begin().await.unwrap();
    store::append_practice(&mut tx, run, &event, &first, noon())
        .await
        .unwrap();
    tx.commit().await.unwrap();
    let found = store::runs_of(&pool, person).await.unwrap();
    assert_eq!(
        (found[0].id, found[0].work, &found[0].state),
        (run, None, &Some(first.clone()))
    );
    // An event whose digest was never written: what is there is of an earlier one.
    sqlx::query("insert into practice_events select run_id, 2, at, body from practice_events")
        .execute(&pool)
        .await
        .unwrap();
    assert_eq!(store::runs_of(&pool, person).await.unwrap()[0].state, None);
    assert!(
        !store::put_run_digest(&pool, run, &first).await.unwrap(),
        "it has moved on"
    );
    let second = first.after(&event, noon());
    assert!(store::put_run_digest(&pool, run, &second).await.unwrap());
    assert_eq!(
        store::runs_of(&pool, person).await.unwrap()[0].state,
        Some(second)
    );
    let events = store::practice_events_of(&pool, &[run]).await.unwrap();
    assert_eq!(events[&run.0].len(), 2);
    assert_eq!(events[&run.0], store::practice_events(&pool, run).await.unwrap());
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn all_works_and_runs_are_gone_through_once(pool: PgPool) {
    let (person, assignment, first) = world(&pool).await;
    let mut works = vec![first];
    for n in 0..4 {
        let name = format!("p{n}");
        let other = store::put_person(&pool, &name, &name, "none", store::Role::Student)
            .await
            .unwrap();
        works.push(store::start_work(&pool, assignment, other).await.unwrap());
    }
    let (mut seen, mut last) = (Vec::new(), None);
    loop {
        let page = store::works_after(&pool, last, 2).await.unwrap();
        assert!(page.len() <= 2 && page.iter().all(|p| p.assignment == assignment));
        let Some(end) = page.last() else { break };
        last = Some(end.work);
        seen.extend(page.iter().map(|p| p.work));
    }
    works.sort_by_key(|w| w.0);
    assert_eq!(seen, works);
    let goal = PracticeGoal {
        skills: vec!["ratios".into()],
        target: Target::Right(3),
        question: None,
    };
    let run = store::start_run(&pool, person, &goal, noon()).await.unwrap();
    assert_eq!(store::runs_after(&pool, None, 10).await.unwrap(), [run]);
    assert!(store::runs_after(&pool, Some(run), 10).await.unwrap().is_empty());
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn checks_are_read_by_their_numbers_with_what_corrects_them(pool: PgPool) {
    let about = world(&pool).await;
    let checked = |to| Event::MovedOn { to };
    let corrected = Event::KeyCorrected(coursework::Correction {
        question: 0,
        version: "v2".into(),
        remarked: Vec::new(),
        by: None,
        why: String::new(),
    });
    let events = [checked(1), checked(2), corrected.clone(), checked(4)];
    store::append(&pool, &addition(about, 0, &events)).await.unwrap();
    let found = store::checks_at(&pool, &[(about.2, 2), (about.2, 9), (WorkId(Uuid::nil()), 1)])
        .await
        .unwrap();
    let found: Vec<(u32, &Event)> = found[&about.2.0].iter().map(|r| (r.number, &r.event)).collect();
    assert_eq!(found, [(2, &checked(2)), (3, &corrected)]);
    assert!(store::checks_at(&pool, &[]).await.unwrap().is_empty());
}
