//! Pictures in the margin of a question.

use super::edges::other_student;
use super::*;

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn pictures_are_bounded_and_belong_to_their_work(pool: PgPool) {
    let (_, assignment, work) = world(&pool).await;
    let cy = other_student(&pool).await;
    let elsewhere = store::start_work(&pool, assignment, cy).await.unwrap();
    let add = |work, bytes: &'static [u8]| {
        let pool = pool.clone();
        async move {
            store::add_picture(&pool, work, 0, "image/png", bytes, 2, noon())
                .await
                .unwrap()
        }
    };
    let first = add(work, b"one").await.unwrap();
    assert!(add(work, b"two").await.is_some());
    assert!(add(work, b"three").await.is_none(), "two at most");
    assert!(add(elsewhere, b"four").await.is_some(), "each work has its own");
    let heads = store::pictures_of(&pool, work, 0).await.unwrap();
    assert_eq!(heads.iter().map(|h| h.size).collect::<Vec<_>>(), [3, 3]);
    assert!(store::pictures_of(&pool, work, 1).await.unwrap().is_empty());
    assert_eq!(
        store::find_picture(&pool, work, first).await.unwrap().unwrap().1,
        b"one"
    );
    assert!(
        store::find_picture(&pool, elsewhere, first)
            .await
            .unwrap()
            .is_none()
    );
    assert!(!store::delete_picture(&pool, elsewhere, first).await.unwrap());
    assert!(store::delete_picture(&pool, work, first).await.unwrap());
    assert!(!store::delete_picture(&pool, work, first).await.unwrap(), "once");
    assert!(add(work, b"three").await.is_some(), "there is room again");
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn two_at_once_never_pass_the_bound_of_pictures(pool: PgPool) {
    let (_, _, work) = world(&pool).await;
    let mut adding = Vec::new();
    for _ in 0..8 {
        let pool = pool.clone();
        adding.push(tokio::spawn(async move {
            store::add_picture(&pool, work, 0, "image/png", b"x", 3, noon())
                .await
                .unwrap()
        }));
    }
    let mut kept = 0;
    for one in adding {
        kept += usize::from(one.await.unwrap().is_some());
    }
    assert_eq!(kept, 3);
    assert_eq!(store::pictures_of(&pool, work, 0).await.unwrap().len(), 3);
}
