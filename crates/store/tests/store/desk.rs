//! What the desk's tables promise: who may work on what, links that are used once, and that nobody saves over another.

use sqlx::PgPool;
use store::{AssignmentChange, PersonId, Role, SetQuestion, StoreError};
use time::Duration;
use uuid::Uuid;

use crate::{noon, world};

async fn person(pool: &PgPool, name: &str, role: Role) -> PersonId {
    store::create_person(pool, name, name, "none", role)
        .await
        .unwrap()
        .unwrap()
}

async fn may_work(pool: &PgPool, who: PersonId, assignment: Uuid) -> bool {
    let desks = store::desks_of(pool, who).await.unwrap();
    desks.iter().any(|d| d.assignment == assignment)
}

async fn class_of(pool: &PgPool, assignment: Uuid) -> Uuid {
    store::find_set_assignment(pool, assignment)
        .await
        .unwrap()
        .unwrap()
        .class
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn who_may_work_on_what(pool: PgPool) {
    let (ada, assignment, _) = world(&pool).await;
    let class = class_of(&pool, assignment).await;
    let (cy, tor, bo) = (
        person(&pool, "cy", Role::Student).await,
        person(&pool, "tor", Role::Teacher).await,
        person(&pool, "bo", Role::Student).await,
    );
    store::join_class(&pool, class, cy, store::MemberRole::Student, Some("North"))
        .await
        .unwrap();
    store::join_class(&pool, class, tor, store::MemberRole::Teacher, None)
        .await
        .unwrap();
    let who = async || {
        let mut all = Vec::new();
        for (name, id) in [("ada", ada), ("cy", cy), ("tor", tor), ("bo", bo)] {
            if may_work(&pool, id, assignment).await {
                all.push(name);
            }
        }
        all
    };
    assert_eq!(
        who().await,
        ["ada", "cy"],
        "students of the class, and nobody who teaches it"
    );
    let set = async |groups: &[String], people: &[Uuid]| {
        let seen = store::find_set_assignment(&pool, assignment)
            .await
            .unwrap()
            .unwrap();
        let change = AssignmentChange {
            title: "Doubling",
            settings: &seen.settings,
            for_groups: groups,
            for_people: people,
            questions: &seen.questions,
        };
        store::save_assignment(&pool, &seen, &change).await.unwrap();
    };
    set(&["North".to_owned()], &[]).await;
    assert_eq!(who().await, ["cy"]);
    set(&["South".to_owned()], &[ada.0]).await;
    assert_eq!(who().await, ["ada"]);
    set(&[], &[]).await;
    store::set_left(&pool, class, cy, Some(noon())).await.unwrap();
    assert_eq!(who().await, ["ada"]);
    sqlx::query("update assignments set given_out = false")
        .execute(&pool)
        .await
        .unwrap();
    assert_eq!(who().await, Vec::<&str>::new(), "a draft is nobody's");
    assert!(
        store::find_class_taught(&pool, tor, class)
            .await
            .unwrap()
            .is_some()
    );
    for other in [ada, bo] {
        assert!(
            store::find_class_taught(&pool, other, class)
                .await
                .unwrap()
                .is_none()
        );
    }
    store::set_left(&pool, class, tor, Some(noon())).await.unwrap();
    assert!(
        store::find_class_taught(&pool, tor, class)
            .await
            .unwrap()
            .is_none()
    );
    assert!(!store::teaches(&pool, tor, assignment).await.unwrap());
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_link_signs_in_once_whoever_is_first(pool: PgPool) {
    let (ada, ..) = world(&pool).await;
    let (hash, ends) = ([7u8; 32], noon() + Duration::days(14));
    store::put_link(&pool, &[1; 32], ada, noon(), ends).await.unwrap();
    store::put_link(&pool, &hash, ada, noon(), ends).await.unwrap();
    let find = async |hash: &[u8], at| store::find_link(&pool, hash, at).await.unwrap().map(|p| p.id);
    assert_eq!(
        find(&[1; 32], noon()).await,
        None,
        "a new link ends the earlier one"
    );
    assert_eq!(find(&hash, noon()).await, Some(ada));
    assert_eq!(find(&hash, ends).await, None, "it has run out");
    let tries = (0..8).map(|_| {
        let pool = pool.clone();
        tokio::spawn(async move { store::use_link(&pool, &[7u8; 32], noon()).await.unwrap() })
    });
    let mut used = 0;
    for one in tries.collect::<Vec<_>>() {
        used += usize::from(one.await.unwrap().is_some());
    }
    assert_eq!(used, 1);
    // A new password ends sessions and links.
    store::put_link(&pool, &hash, ada, noon(), ends).await.unwrap();
    store::create_session(&pool, &[2; 32], ada, noon(), Duration::days(1))
        .await
        .unwrap();
    store::set_password(&pool, ada, "other").await.unwrap();
    assert_eq!(find(&hash, noon()).await, None);
    assert!(
        store::find_by_session(&pool, &[2; 32], noon())
            .await
            .unwrap()
            .is_none()
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn nobody_saves_over_another_or_over_who_has_begun(pool: PgPool) {
    let (_, assignment, _) = world(&pool).await;
    let find = async || {
        store::find_set_assignment(&pool, assignment)
            .await
            .unwrap()
            .unwrap()
    };
    let seen = find().await;
    let question = seen.questions[0];
    let questions = [SetQuestion {
        points: Some(7),
        ..question
    }];
    let change = |title: &'static str| AssignmentChange {
        title,
        settings: &seen.settings,
        for_groups: &[],
        for_people: &[],
        questions: &questions,
    };
    store::save_assignment(&pool, &seen, &change("Doubling twice"))
        .await
        .unwrap();
    let now = find().await;
    assert_eq!(
        (now.title.as_str(), now.questions[0].points, now.version),
        ("Doubling twice", Some(7), seen.version + 1)
    );
    let late = store::save_assignment(&pool, &seen, &change("Mine")).await;
    assert!(matches!(late, Err(StoreError::Conflict)), "{late:?}");
    // Somebody begins between looking and saving.
    sqlx::query("update works set last_event = 1")
        .execute(&pool)
        .await
        .unwrap();
    let begun = store::save_assignment(&pool, &now, &change("Mine")).await;
    assert!(matches!(begun, Err(StoreError::Conflict)), "{begun:?}");
    assert!(
        !store::delete_draft(&pool, assignment).await.unwrap(),
        "it was given out"
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_made_up_student_leaves_nothing_and_counts_nowhere(pool: PgPool) {
    let (_, assignment, _) = world(&pool).await;
    let class = class_of(&pool, assignment).await;
    let tor = person(&pool, "tor", Role::Teacher).await;
    store::join_class(&pool, class, tor, store::MemberRole::Teacher, None)
        .await
        .unwrap();
    for hash in [[1u8; 32], [2; 32]] {
        store::create_session(&pool, &hash, tor, noon(), Duration::days(1))
            .await
            .unwrap();
        store::act_as_student(&pool, class, &hash, "A made-up student")
            .await
            .unwrap();
    }
    let acting = store::find_by_session(&pool, &[1; 32], noon())
        .await
        .unwrap()
        .unwrap();
    assert_eq!(
        (acting.role, acting.display_name.as_str()),
        (Role::Student, "A made-up student")
    );
    store::start_work(&pool, assignment, acting.id).await.unwrap();
    assert_eq!(
        store::works_on(&pool, assignment).await.unwrap().len(),
        1,
        "Ada's alone"
    );
    assert_eq!(store::members_of(&pool, class).await.unwrap().len(), 2);
    let count = async || {
        let all = "select count(*) from people where role = 'preview'";
        sqlx::query_scalar::<_, i64>(all).fetch_one(&pool).await.unwrap()
    };
    assert_eq!(count().await, 2);
    // One session ends by signing out, the other by going back to the desk.
    store::delete_session(&pool, &[2; 32]).await.unwrap();
    assert_eq!(count().await, 1);
    assert!(store::acts_as_student(&pool, &[1; 32]).await.unwrap());
    assert!(store::act_as_oneself(&pool, &[1; 32]).await.unwrap());
    assert_eq!(count().await, 0);
    assert!(!store::act_as_oneself(&pool, &[1; 32]).await.unwrap());
    assert_eq!(
        store::find_by_session(&pool, &[1; 32], noon())
            .await
            .unwrap()
            .unwrap()
            .id,
        tor
    );
    // One whose session ran out goes when the next is made.
    store::act_as_student(&pool, class, &[1; 32], "One")
        .await
        .unwrap();
    sqlx::query("delete from sessions").execute(&pool).await.unwrap();
    store::create_session(&pool, &[3; 32], tor, noon(), Duration::days(1))
        .await
        .unwrap();
    store::act_as_student(&pool, class, &[3; 32], "Two")
        .await
        .unwrap();
    assert_eq!(count().await, 1);
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn messages_are_counted_by_who_has_read_them(pool: PgPool) {
    let (ada, assignment, _) = world(&pool).await;
    let class = class_of(&pool, assignment).await;
    let tor = person(&pool, "tor", Role::Teacher).await;
    store::join_class(&pool, class, tor, store::MemberRole::Teacher, None)
        .await
        .unwrap();
    let new = store::NewThread {
        assignment,
        student: ada,
        question: 0,
        set: 0,
        event: None,
        is_query: false,
        for_class: false,
        by: ada,
        body: "Why?",
    };
    let thread = store::open_thread(&pool, &new, noon()).await.unwrap();
    let minutes = |n| noon() + Duration::minutes(n);
    store::add_message(&pool, thread, ada, "And how?", minutes(2))
        .await
        .unwrap();
    let unread = async |who| store::unread_messages(&pool, who).await.unwrap();
    assert_eq!((unread(tor).await, unread(ada).await), (2, 0));
    store::set_thread_read(&pool, thread, tor, minutes(1))
        .await
        .unwrap();
    assert_eq!(unread(tor).await, 1);
    let messages = store::messages_of(&pool, thread).await.unwrap();
    assert_eq!(messages.iter().map(|m| m.read).collect::<Vec<_>>(), [true, false]);
    let back = async |n: usize, who| {
        store::take_message_back(&pool, messages[n].id, who, minutes(3))
            .await
            .unwrap()
    };
    assert!(!back(0, ada).await, "it was read");
    assert!(!back(1, tor).await, "it is not his");
    assert!(back(1, ada).await);
    assert!(!back(1, ada).await, "once");
    assert_eq!(unread(tor).await, 0);
    // Reading never goes backwards.
    store::set_thread_read(&pool, thread, tor, noon() - Duration::days(1))
        .await
        .unwrap();
    assert_eq!(unread(tor).await, 0);
}
