//! Connections that are used again at once.

use sqlx::PgConnection;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use store::{Lanes, StoreError};

use super::*;

async fn backend(db: &mut PgConnection) -> Result<i32, StoreError> {
    Ok(sqlx::query_scalar("select pg_backend_pid()")
        .fetch_one(db)
        .await?)
}

async fn pool_of(connections: u32, options: &PgConnectOptions) -> PgPool {
    PgPoolOptions::new()
        .max_connections(connections)
        .acquire_timeout(std::time::Duration::from_secs(2))
        .test_before_acquire(false)
        .connect_with(options.clone())
        .await
        .unwrap()
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_lane_is_used_again_and_the_pool_keeps_its_half(pool: PgPool) {
    let pool = pool_of(4, &pool.connect_options()).await;
    let lanes = Lanes::new(pool.clone());
    let first = lanes.run(backend).await.unwrap();
    for _ in 0..5 {
        assert_eq!(lanes.run(backend).await.unwrap(), first, "the same connection");
    }
    // Six at once: two stay at hand, the rest go back, and the pool can still give two.
    let mut busy = Vec::new();
    for _ in 0..6 {
        let lanes = lanes.clone();
        busy.push(tokio::spawn(async move {
            let slow = async |db: &mut PgConnection| -> Result<(), StoreError> {
                sqlx::query("select pg_sleep(0.05)").execute(db).await?;
                Ok(())
            };
            lanes.run(slow).await
        }));
    }
    for one in busy {
        one.await.unwrap().unwrap();
    }
    let (one, two) = (pool.acquire().await, pool.acquire().await);
    assert!(one.is_ok() && two.is_ok(), "half of them are always to be had");
    drop((one, two, lanes));
    pool.close().await;
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn what_went_wrong_leaves_no_lane_behind(pool: PgPool) {
    let own = pool_of(4, &pool.connect_options()).await;
    let lanes = Lanes::new(own.clone());
    let wrong = async |db: &mut PgConnection| -> Result<(), StoreError> {
        sqlx::query("select no_such_column").execute(db).await?;
        Ok(())
    };
    assert!(matches!(lanes.run(wrong).await, Err(StoreError::Sql(_))));
    assert!(lanes.run(backend).await.is_ok());
    // A decision that lost a race is an answer, not a fault.
    let before = lanes.run(backend).await.unwrap();
    let lost = async |_: &mut PgConnection| -> Result<(), StoreError> { Err(StoreError::Conflict) };
    assert!(matches!(lanes.run(lost).await, Err(StoreError::Conflict)));
    assert_eq!(lanes.run(backend).await.unwrap(), before);
    drop(lanes);
    own.close().await;
}

#[sqlx::test(migrator = "store::MIGRATOR")]
async fn a_lane_that_broke_is_asked_again_where_that_is_safe(pool: PgPool) {
    let own = pool_of(4, &pool.connect_options()).await;
    let lanes = Lanes::new(own.clone());
    let first = lanes.run(backend).await.unwrap();
    let end = async |pid: i32| {
        sqlx::query("select pg_terminate_backend($1)")
            .bind(pid)
            .execute(&pool)
            .await
            .unwrap();
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    };
    end(first).await;
    let second = lanes.read(backend).await.unwrap();
    assert_ne!(first, second, "another connection");
    end(second).await;
    // A write is not sent twice: it says that the database was away.
    assert!(matches!(lanes.run(backend).await, Err(StoreError::Away(_))));
    assert!(lanes.run(backend).await.is_ok(), "and the next one gets through");
    drop(lanes);
    own.close().await;
}
