//! People, their sessions, and how often they tried to sign in.

use store::{Role, TryLimit};

use super::edges::session;
use super::*;

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn sign_in_tries_are_counted_together_and_forgotten_in_time(pool: PgPool) {
    let limit = |key, most| TryLimit {
        key,
        most,
        lasts: Duration::minutes(1),
    };
    let count = |limits: Vec<TryLimit<'static>>, at| {
        let pool = pool.clone();
        async move { store::count_try(&pool, &limits, at).await.unwrap() }
    };
    let both = || vec![limit("name ada", 2), limit("address 1", 5)];
    assert_eq!(count(both(), noon()).await, None);
    assert_eq!(count(both(), noon()).await, None);
    let free = noon() + Duration::minutes(1);
    assert_eq!(count(both(), noon()).await, Some(free), "the name's third");
    // What was refused was not counted under the address either: three more fit.
    for _ in 0..3 {
        assert_eq!(count(vec![limit("address 1", 5)], noon()).await, None);
    }
    assert_eq!(count(vec![limit("address 1", 5)], noon()).await, Some(free));
    assert_eq!(count(both(), free).await, None, "after the wait");
    // A right password: the name's tries are gone, the address's one less.
    store::forget_tries(&pool, &["name ada".into()], &["address 1".into()], noon())
        .await
        .unwrap();
    for _ in 0..2 {
        assert_eq!(count(both(), free).await, None);
    }
    assert!(count(both(), free).await.is_some());
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn people_are_found_by_any_case_and_brought_up_to_date(pool: PgPool) {
    let (person, ..) = world(&pool).await;
    let (found, _) = store::find_credentials(&pool, "ADA").await.unwrap().unwrap();
    assert_eq!(found.id, person);
    assert!(store::find_credentials(&pool, "nobody").await.unwrap().is_none());
    let again = store::put_person(&pool, "ada", "Ada B. Quill", "new", Role::Teacher)
        .await
        .unwrap();
    assert_eq!(again, person, "the same person");
    let now = store::find_person(&pool, person).await.unwrap().unwrap();
    assert_eq!(
        (now.display_name.as_str(), now.role),
        ("Ada B. Quill", Role::Teacher)
    );
    assert!(
        store::find_person(&pool, PersonId(Uuid::now_v7()))
            .await
            .unwrap()
            .is_none()
    );
    let upper = store::put_person(&pool, "Bo", "Bo Larch", "none", Role::Student).await;
    assert!(
        matches!(upper, Err(StoreError::Sql(_))),
        "user names are in small letters"
    );
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn sessions_end_and_old_ones_are_cleared_away(pool: PgPool) {
    let (person, ..) = world(&pool).await;
    session(&pool, &[1; 32], person, Duration::minutes(5)).await;
    let who = |token: &'static [u8], at| {
        let pool = pool.clone();
        async move {
            store::find_by_session(&pool, token, at)
                .await
                .unwrap()
                .map(|p| p.id)
        }
    };
    assert_eq!(who(&[1; 32], noon()).await, Some(person));
    assert_eq!(who(&[1; 32], noon() + Duration::minutes(5)).await, None);
    let later = noon() + Duration::hours(1);
    store::create_session(&pool, &[2; 32], person, later, Duration::hours(1))
        .await
        .unwrap();
    let left: i64 = sqlx::query_scalar("select count(*) from sessions")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(left, 1, "the ended one is gone");
    let twice = store::create_session(&pool, &[2; 32], person, later, Duration::hours(1)).await;
    assert!(
        matches!(twice, Err(StoreError::Sql(_))),
        "a token is somebody's once"
    );
}
