//! Pure computation off the async threads: as much at a time as there are cores, so much for each person that nobody makes
//! the others wait, and passwords apart, so that a whole class signing in does not stop the marking.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError, Weak};

use store::PersonId;
use tokio::sync::Semaphore;
use uuid::Uuid;

use crate::error::SchoolError;
use crate::{Held, School};

/// Computations of one person that may wait or run; a browser has one or two under way.
const MOST_WAITING: usize = 12;
/// Sign-ins that may wait: a large school at once, at some 60 ms each.
const MOST_SIGNING_IN: usize = 600;

pub(crate) struct Compute {
    marking: Arc<Semaphore>,
    passwords: Arc<Semaphore>,
    signing_in: Arc<Semaphore>,
    people: Mutex<HashMap<Uuid, Weak<Share>>>,
}

/// One computation of a person at a time, and a bounded number waiting.
struct Share {
    running: Semaphore,
    waiting: Semaphore,
}

impl Compute {
    pub fn new() -> Self {
        let cores = std::thread::available_parallelism().map_or(2, usize::from);
        Compute {
            marking: Arc::new(Semaphore::new(cores)),
            passwords: Arc::new(Semaphore::new((cores / 2).max(1))),
            signing_in: Arc::new(Semaphore::new(MOST_SIGNING_IN)),
            people: Mutex::new(HashMap::new()),
        }
    }

    fn share(&self, person: PersonId) -> Arc<Share> {
        let mut people = self.people.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(share) = people.get(&person.0).and_then(Weak::upgrade) {
            return share;
        }
        // Those who are gone are dropped when someone new comes.
        if people.len() > 4_096 {
            people.retain(|_, share| share.strong_count() > 0);
        }
        let share = Arc::new(Share {
            running: Semaphore::new(1),
            waiting: Semaphore::new(MOST_WAITING),
        });
        people.insert(person.0, Arc::downgrade(&share));
        share
    }
}

/// Runs on a blocking thread. The permit goes with the work: it is free when the work is done, whoever still waits for it.
async fn on_a_thread<T: Send + 'static>(
    permits: &Arc<Semaphore>,
    work: impl FnOnce() -> T + Send + 'static,
) -> Result<T, SchoolError> {
    let ended = |_| SchoolError::Inside("no permit to compute".into());
    let permit = permits.clone().acquire_owned().await.map_err(ended)?;
    let run = move || {
        let _permit = permit;
        work()
    };
    tokio::task::spawn_blocking(run)
        .await
        .map_err(|e| SchoolError::Inside(e.to_string()))
}

impl School {
    /// Computes for a person: one thing at a time.
    ///
    /// # Errors
    /// [`SchoolError::Busy`] where too much of theirs waits already.
    pub async fn compute<T: Send + 'static>(
        &self,
        person: PersonId,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, SchoolError> {
        let share = self.compute.share(person);
        let _place = share.waiting.try_acquire().map_err(|_| SchoolError::Busy)?;
        let _turn = share
            .running
            .acquire()
            .await
            .map_err(|e| SchoolError::Inside(e.to_string()))?;
        on_a_thread(&self.compute.marking, work).await
    }

    /// Computes for nobody in particular: the clock, corrections.
    ///
    /// # Errors
    /// If the work panicked.
    pub async fn compute_for_all<T: Send + 'static>(
        &self,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, SchoolError> {
        on_a_thread(&self.compute.marking, work).await
    }

    /// Looks at a password.
    ///
    /// # Errors
    /// [`SchoolError::Busy`] where too many wait already.
    pub async fn compute_password<T: Send + 'static>(
        &self,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, SchoolError> {
        let _place = self
            .compute
            .signing_in
            .try_acquire()
            .map_err(|_| SchoolError::Busy)?;
        on_a_thread(&self.compute.passwords, work).await
    }

    pub(crate) fn held(&self) -> &Held {
        &self.held
    }
}
