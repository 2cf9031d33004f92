//! Connections that are used again at once. A pool looks after each connection when it comes back, which is another round
//! trip to the database for every statement; a connection whose statement came to its end needs no looking after.

use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::thread::ThreadId;

use sqlx::pool::PoolConnection;
use sqlx::{PgConnection, PgPool, Postgres};

use crate::{Result, StoreError};

/// With the thread it was last used on: there its wake-ups are cheapest.
type Lane = (ThreadId, PoolConnection<Postgres>);

/// Connections of a pool that are kept at hand; at most half of them, so that the others can always get one.
#[derive(Clone)]
pub struct Lanes {
    pool: PgPool,
    most: usize,
    idle: Arc<Mutex<Vec<Lane>>>,
}

impl Lanes {
    pub fn new(pool: PgPool) -> Self {
        let most = usize::try_from(pool.options().get_max_connections() / 2).unwrap_or(0);
        Lanes {
            pool,
            most,
            idle: Arc::default(),
        }
    }

    fn idle(&self) -> MutexGuard<'_, Vec<Lane>> {
        self.idle.lock().unwrap_or_else(PoisonError::into_inner)
    }

    fn take(&self) -> Option<PoolConnection<Postgres>> {
        let here = std::thread::current().id();
        let mut idle = self.idle();
        let own = idle.iter().rposition(|(thread, _)| *thread == here);
        let place = own.or_else(|| idle.len().checked_sub(1))?;
        Some(idle.swap_remove(place).1)
    }

    fn put_back(&self, connection: PoolConnection<Postgres>) {
        let mut idle = self.idle();
        if idle.len() < self.most {
            idle.push((std::thread::current().id(), connection));
        }
        // Else it goes back to the pool by being dropped.
    }

    /// Runs single statements on a connection. What is not finished, or goes wrong, gives it back to the pool, which looks
    /// after it.
    ///
    /// # Errors
    /// What the statements came to.
    pub async fn run<T>(&self, act: impl AsyncFnOnce(&mut PgConnection) -> Result<T>) -> Result<T> {
        let mut connection = match self.take() {
            Some(connection) => connection,
            None => self.pool.acquire().await?,
        };
        let done = act(&mut connection).await;
        match &done {
            Ok(_) | Err(StoreError::Conflict) => self.put_back(connection),
            // The others are as old as this one.
            Err(StoreError::Away(_)) => self.idle().clear(),
            Err(_) => {}
        }
        done
    }

    /// Gives all that is at hand back to the pool; to be called before the runtime ends, which that takes.
    pub fn give_back(&self) {
        self.idle().clear();
    }

    /// As [`Lanes::run`], once more where a connection turned out to be broken. For what only reads.
    ///
    /// # Errors
    /// What the second time came to.
    pub async fn read<T>(&self, act: impl AsyncFn(&mut PgConnection) -> Result<T>) -> Result<T> {
        match self.run(&act).await {
            Err(StoreError::Away(error)) if !matches!(error, sqlx::Error::PoolTimedOut) => {
                self.run(&act).await
            }
            other => other,
        }
    }
}
