//! The edges: who may not, what is not there, what is too late, who was first.

use store::{Review, Role, Standing};

use super::*;

const TOKEN: &[u8] = &[7; 32];

pub(crate) async fn session(pool: &PgPool, token: &[u8], person: PersonId, lasts: Duration) {
    store::create_session(pool, token, person, noon(), lasts)
        .await
        .unwrap();
}

pub(crate) async fn other_student(pool: &PgPool) -> PersonId {
    store::put_person(pool, "cy", "Cy Fenn", "none", Role::Student)
        .await
        .unwrap()
}

fn claimed<'a>(
    about: (PersonId, Uuid, WorkId),
    last: u32,
    events: &'a [Event],
    token: &'a [u8],
) -> store::Append<'a> {
    store::Append {
        session: Some(token),
        ..addition(about, last, events)
    }
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn events_are_only_added_for_the_session_of_their_student(pool: PgPool) {
    let about = world(&pool).await;
    let events = [Event::Opened { seeds: vec![5] }];
    let add = |token: &'static [u8]| {
        let (pool, events) = (pool.clone(), events.clone());
        async move { store::append(&pool, &claimed(about, 0, &events, token)).await }
    };
    let nobody = add(&[1; 32]).await;
    assert!(matches!(nobody, Err(StoreError::Conflict)), "no such session");
    let cy = other_student(&pool).await;
    session(&pool, &[2; 32], cy, Duration::days(1)).await;
    assert!(
        matches!(add(&[2; 32]).await, Err(StoreError::Conflict)),
        "another student's"
    );
    session(&pool, &[3; 32], about.0, Duration::ZERO).await;
    assert!(
        matches!(add(&[3; 32]).await, Err(StoreError::Conflict)),
        "one that has ended"
    );
    session(&pool, TOKEN, about.0, Duration::days(1)).await;
    sqlx::query("delete from class_members")
        .execute(&pool)
        .await
        .unwrap();
    assert!(
        matches!(add(TOKEN).await, Err(StoreError::Conflict)),
        "out of the class"
    );
    let class = store::put_class(&pool, "Site Practice").await.unwrap();
    store::add_member(&pool, class, about.0).await.unwrap();
    assert!(
        store::events_of(&pool, about.2).await.unwrap().is_empty(),
        "nothing so far"
    );
    assert_eq!(add(TOKEN).await.unwrap().work, about.2);
    assert_eq!(store::events_of(&pool, about.2).await.unwrap().len(), 1);
    store::delete_session(&pool, TOKEN).await.unwrap();
    let signed_out = store::append(&pool, &claimed(about, 1, &[Event::TakenBack], TOKEN)).await;
    assert!(matches!(signed_out, Err(StoreError::Conflict)));
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn drafts_are_only_kept_for_the_session_of_their_student_and_this_version(pool: PgPool) {
    let about = world(&pool).await;
    let (person, _, work) = about;
    let response = Response::Text("8".into());
    let draft = SaveDraft {
        question: 0,
        set: 0,
        part: "a",
        based_on: 0,
        response: &response,
    };
    let held = |session: Option<&'static [u8]>, version, last| Standing {
        version,
        session,
        ..standing(about, last)
    };
    let keep = |standing: Standing<'static>| {
        let (pool, draft) = (pool.clone(), draft.clone());
        async move { store::save_draft(&pool, &standing, &draft, noon()).await.unwrap() }
    };
    assert_eq!(
        keep(held(Some(TOKEN), 1, 0)).await,
        Saved::MovedOn,
        "no such session"
    );
    session(&pool, TOKEN, person, Duration::hours(1)).await;
    assert_eq!(
        keep(held(Some(TOKEN), 2, 0)).await,
        Saved::MovedOn,
        "another version"
    );
    assert_eq!(
        keep(held(Some(TOKEN), 1, 1)).await,
        Saved::MovedOn,
        "another event"
    );
    assert!(store::drafts_of(&pool, work).await.unwrap().is_empty());
    let kept = Saved::At {
        revision: 1,
        drafts_at: 1,
    };
    assert_eq!(keep(held(Some(TOKEN), 1, 0)).await, kept);
    // One that came too late says what stands there, and changes no count.
    let stands = Saved::Elsewhere {
        revision: 1,
        response: Some(response.clone()),
    };
    assert_eq!(keep(held(None, 1, 0)).await, stands);
    let visited = store::visited_work(&pool, about.1, person).await.unwrap();
    assert_eq!(visited.unwrap().drafts_at, 1);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn an_append_counts_the_drafts_that_were_kept_before_it(pool: PgPool) {
    let about = world(&pool).await;
    let response = Response::Text("8".into());
    for based_on in 0..3 {
        let draft = SaveDraft {
            question: 0,
            set: 0,
            part: "a",
            based_on,
            response: &response,
        };
        store::save_draft(&pool, &standing(about, 0), &draft, noon())
            .await
            .unwrap();
    }
    let events = [Event::Opened { seeds: vec![5] }];
    let appended = store::append(&pool, &addition(about, 0, &events)).await.unwrap();
    assert_eq!(appended.drafts_at, 3);
    let nothing = store::append(&pool, &addition(about, 1, &[])).await;
    assert!(
        matches!(nothing, Err(StoreError::Conflict)),
        "adding nothing is not adding"
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_work_is_begun_once_and_only_at_the_version_it_was_decided_on(pool: PgPool) {
    let (_, assignment, _) = world(&pool).await;
    let cy = other_student(&pool).await;
    let events = [Event::Opened { seeds: vec![5] }];
    let begin = |version| store::Append {
        work: None,
        student: cy,
        version,
        ..addition((cy, assignment, WorkId(Uuid::nil())), 0, &events)
    };
    assert!(matches!(
        store::append(&pool, &begin(2)).await,
        Err(StoreError::Conflict)
    ));
    assert!(store::find_work(&pool, assignment, cy).await.unwrap().is_none());
    let begun = store::append(&pool, &begin(1)).await.unwrap();
    assert_eq!(
        store::find_work(&pool, assignment, cy).await.unwrap(),
        Some(begun.work)
    );
    assert!(
        matches!(store::append(&pool, &begin(1)).await, Err(StoreError::Conflict)),
        "a second window"
    );
    assert_eq!(store::events_of(&pool, begun.work).await.unwrap().len(), 1);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_visit_says_who_asks_and_what_they_may_see(pool: PgPool) {
    let about = world(&pool).await;
    let (person, assignment, work) = about;
    append(&pool, about, 0, Event::Opened { seeds: vec![5] })
        .await
        .unwrap();
    let whole = |token: &'static [u8], at| {
        let pool = pool.clone();
        async move { store::find_visit(&pool, token, at, assignment).await.unwrap() }
    };
    let held = |token: &'static [u8], at| {
        let pool = pool.clone();
        async move {
            store::find_visit_held(&pool, token, at, assignment)
                .await
                .unwrap()
        }
    };
    assert!(whole(TOKEN, noon()).await.is_none() && held(TOKEN, noon()).await.is_none());
    session(&pool, TOKEN, person, Duration::hours(1)).await;
    let late = noon() + Duration::hours(1);
    assert!(
        whole(TOKEN, late).await.is_none() && held(TOKEN, late).await.is_none(),
        "it has ended"
    );
    for visit in [whole(TOKEN, noon()).await, held(TOKEN, noon()).await] {
        let visit = visit.unwrap();
        assert_eq!((visit.person.id, visit.person.role), (person, Role::Student));
        let visited = visit.visited.unwrap();
        assert_eq!(visited.version, 1);
        assert_eq!(
            visited.work.as_ref().map(|w| (w.id, w.last_event, w.drafts_at)),
            Some((work, 1, 0))
        );
    }
    let (events, drafts) = whole(TOKEN, noon())
        .await
        .unwrap()
        .visited
        .unwrap()
        .work
        .unwrap()
        .whole
        .unwrap();
    assert_eq!((events.len(), drafts.len()), (1, 0));
    // Who is in no class of it is someone, and sees nothing.
    let cy = other_student(&pool).await;
    session(&pool, &[2; 32], cy, Duration::hours(1)).await;
    for visit in [whole(&[2; 32], noon()).await, held(&[2; 32], noon()).await] {
        let visit = visit.unwrap();
        assert_eq!(visit.person.id, cy);
        assert!(visit.visited.is_none());
    }
    // In the class, but nothing begun.
    let class = store::put_class(&pool, "Site Practice").await.unwrap();
    store::add_member(&pool, class, cy).await.unwrap();
    assert!(
        held(&[2; 32], noon())
            .await
            .unwrap()
            .visited
            .unwrap()
            .work
            .is_none()
    );
    let nowhere = store::find_visit_held(&pool, TOKEN, noon(), Uuid::now_v7())
        .await
        .unwrap();
    assert!(nowhere.unwrap().visited.is_none(), "no such assignment");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_stands_beside_assignments_is_counted_by_person(pool: PgPool) {
    let (person, ..) = world(&pool).await;
    let cy = other_student(&pool).await;
    let at = |who| {
        let pool = pool.clone();
        async move { store::beside_at(&pool, who).await.unwrap() }
    };
    assert_eq!(at(person).await, 0);
    store::put_page(&pool, person, "ratios", 1, false, noon())
        .await
        .unwrap();
    assert_eq!(at(person).await, 1);
    let note = store::SlipNote {
        source: Uuid::now_v7(),
        event: 3,
        note: "minus".into(),
    };
    store::put_slip_note(&pool, person, &note, noon()).await.unwrap();
    assert_eq!(at(person).await, 2);
    let goal = PracticeGoal {
        skills: vec!["ratios".into()],
        target: Target::Right(3),
        question: None,
    };
    let run = store::start_run(&pool, person, &goal, noon()).await.unwrap();
    let event = PracticeEvent::Drawn {
        question: "doubling".into(),
        version: Uuid::nil().to_string(),
        seed: 4,
        skill: "ratios".into(),
        skills: vec!["ratios".into()],
        guess: 0.1,
    };
    let mut tx = pool.begin().await.unwrap();
    let after = coursework::Run::default().after(&event, noon());
    store::append_practice(&mut tx, run, &event, &after, noon())
        .await
        .unwrap();
    tx.commit().await.unwrap();
    assert_eq!(at(person).await, 3);
    assert_eq!(at(cy).await, 0, "nobody else's");
    assert_eq!(
        at(PersonId(Uuid::now_v7())).await,
        0,
        "nor that of someone who is not there"
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn the_newest_reviews_are_kept_and_only_ones_own_are_found(pool: PgPool) {
    let (person, ..) = world(&pool).await;
    let cy = other_student(&pool).await;
    let review = |salt| Review {
        id: Uuid::now_v7(),
        salt,
        questions: vec!["doubling".into()],
    };
    // A salt uses all its bits.
    let first = review(u64::MAX);
    store::put_review(&pool, person, &first, noon()).await.unwrap();
    assert_eq!(
        store::find_review(&pool, first.id, person).await.unwrap(),
        Some(first.clone())
    );
    assert_eq!(store::find_review(&pool, first.id, cy).await.unwrap(), None);
    let others = review(1);
    store::put_review(&pool, cy, &others, noon()).await.unwrap();
    let mut last = first.clone();
    for minute in 1..=20 {
        last = review(2);
        store::put_review(&pool, person, &last, noon() + Duration::minutes(minute))
            .await
            .unwrap();
    }
    assert_eq!(
        store::find_review(&pool, first.id, person).await.unwrap(),
        None,
        "the oldest is gone"
    );
    assert!(
        store::find_review(&pool, last.id, person)
            .await
            .unwrap()
            .is_some()
    );
    assert!(
        store::find_review(&pool, others.id, cy).await.unwrap().is_some(),
        "nobody else's went"
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn another_version_in_its_place_is_another_version_of_the_assignment(pool: PgPool) {
    let (_, assignment, _) = world(&pool).await;
    let question = marking::parse_question(QUESTION).unwrap();
    let (newer, is_new) = store::put_question(&pool, &question, b"two", noon() + Duration::hours(1))
        .await
        .unwrap();
    assert!(is_new);
    let places = store::uses_of(&pool, &question.id).await.unwrap();
    assert_eq!(places.len(), 1);
    assert_eq!((places[0].assignment, places[0].position), (assignment, 0));
    assert!(
        store::uses_of(&pool, "no-such-question")
            .await
            .unwrap()
            .is_empty()
    );
    store::set_version(&pool, &places[0], newer).await.unwrap();
    let stored = store::find_assignment(&pool, assignment).await.unwrap().unwrap();
    assert_eq!((stored.version, stored.questions.as_slice()), (2, &[newer][..]));
    // What was decided on the old one is not added any more.
    let about = (
        store::find_credentials(&pool, "ada").await.unwrap().unwrap().0.id,
        assignment,
    );
    let work = store::find_work(&pool, assignment, about.0)
        .await
        .unwrap()
        .unwrap();
    let late = append(&pool, (about.0, about.1, work), 0, Event::TakenBack).await;
    assert!(matches!(late, Err(StoreError::Conflict)));
    assert!(
        store::find_assignment(&pool, Uuid::now_v7())
            .await
            .unwrap()
            .is_none()
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn an_assignment_that_is_there_is_left_alone(pool: PgPool) {
    let (_, assignment, _) = world(&pool).await;
    let class = store::put_class(&pool, "Site Practice").await.unwrap();
    let other = Settings::quiz(noon(), noon() + Duration::days(9));
    let (same, is_new) = store::put_assignment(&pool, class, "doubling", "Another title", &other, &[])
        .await
        .unwrap();
    assert_eq!((same, is_new), (assignment, false));
    let stored = store::find_assignment(&pool, assignment).await.unwrap().unwrap();
    assert_eq!(
        (stored.head.title.as_str(), stored.questions.len()),
        ("Doubling", 1)
    );
    // Nobody is in a class twice.
    let (person, _) = store::find_credentials(&pool, "ada").await.unwrap().unwrap();
    store::add_member(&pool, class, person.id).await.unwrap();
    assert_eq!(store::desks_of(&pool, person.id).await.unwrap().len(), 1);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_lock_is_only_had_at_the_event_it_was_asked_for(pool: PgPool) {
    let about = world(&pool).await;
    append(&pool, about, 0, Event::Opened { seeds: vec![5] })
        .await
        .unwrap();
    let mut tx = pool.begin().await.unwrap();
    assert!(matches!(
        store::lock_at(&mut tx, about.2, 0).await,
        Err(StoreError::Conflict)
    ));
    assert!(store::lock_at(&mut tx, about.2, 1).await.unwrap().is_empty());
    // While it is had, nobody else writes: a draft waits until it is given back, and finds the work moved on.
    let response = Response::Text("8".into());
    let waiting = {
        let pool = pool.clone();
        tokio::spawn(async move {
            let draft = SaveDraft {
                question: 0,
                set: 0,
                part: "a",
                based_on: 0,
                response: &response,
            };
            store::save_draft(&pool, &standing(about, 1), &draft, noon())
                .await
                .unwrap()
        })
    };
    store::append(&mut *tx, &addition(about, 1, &[Event::TakenBack]))
        .await
        .unwrap();
    tx.commit().await.unwrap();
    assert_eq!(waiting.await.unwrap(), Saved::MovedOn);
    assert!(store::drafts_of(&pool, about.2).await.unwrap().is_empty());
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn numbers_that_no_row_can_have_are_refused_before_the_database(pool: PgPool) {
    let about = world(&pool).await;
    let response = Response::Text("8".into());
    let far = SaveDraft {
        question: usize::MAX,
        set: 0,
        part: "a",
        based_on: 0,
        response: &response,
    };
    let kept = store::save_draft(&pool, &standing(about, 0), &far, noon()).await;
    assert!(matches!(kept, Err(StoreError::OutOfRange)));
    let added = append(&pool, about, u32::MAX - 1, Event::TakenBack).await;
    assert!(matches!(added, Err(StoreError::OutOfRange)), "{added:?}");
    let found = store::find_workings(&pool, about.2, usize::MAX).await;
    assert!(matches!(found, Err(StoreError::OutOfRange)));
}
