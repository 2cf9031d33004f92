//! A share for each person of everything that costs: marking, what authors check, packing, large bodies, passwords. Turns go
//! round between people, so that nobody's load makes the others wait, and what can't wait is refused as busy before anything
//! of it is held.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError, Weak};

use marking::program::{Reports, with_reports, with_runs};
use store::PersonId;
use tokio::sync::{OwnedSemaphorePermit, Semaphore};
use uuid::Uuid;

use crate::error::SchoolError;
use crate::{Held, School};

/// What costs.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Cost {
    /// Reading, marking and drawing: some milliseconds of a core.
    Marking,
    /// Checking a question that is written: seconds of a core.
    Authoring,
    /// An export: the disk, a core, a connection for as long as it takes.
    Packing,
    /// Taking in a large body: memory, and a connection to the database.
    Writing,
    /// A password, of somebody who comes from an address: the turn is the address's.
    SigningIn,
    /// A password, in a browser in which this name was in before.
    SigningInAgain,
}

/// Whose turn it is.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum Whose {
    Person(Uuid),
    /// Somebody who is not signed in: where from, or by what name.
    Stranger(String),
}

impl From<PersonId> for Whose {
    fn from(person: PersonId) -> Self {
        Whose::Person(person.0)
    }
}

/// Bounds of one kind of cost.
struct Lane {
    at_once: Arc<Semaphore>,
    /// Of all people.
    places: Arc<Semaphore>,
    /// Of one, with the one that is under way.
    places_of_one: usize,
    shares: Mutex<HashMap<Whose, Weak<Share>>>,
}

/// One thing of a person at a time, and a bounded number waiting.
struct Share {
    running: Arc<Semaphore>,
    places: Arc<Semaphore>,
}

impl Lane {
    fn new(at_once: usize, places: usize, places_of_one: usize) -> Self {
        Lane {
            at_once: Arc::new(Semaphore::new(at_once)),
            places: Arc::new(Semaphore::new(places)),
            places_of_one,
            shares: Mutex::new(HashMap::new()),
        }
    }

    fn share(&self, whose: Whose) -> Arc<Share> {
        let mut shares = self.shares.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(share) = shares.get(&whose).and_then(Weak::upgrade) {
            return share;
        }
        // Those who are gone are dropped when someone new comes.
        if shares.len() > 4_096 {
            shares.retain(|_, share| share.strong_count() > 0);
        }
        let share = Arc::new(Share {
            running: Arc::new(Semaphore::new(1)),
            places: Arc::new(Semaphore::new(self.places_of_one)),
        });
        shares.insert(whose, Arc::downgrade(&share));
        share
    }

    async fn turn(&self, whose: Whose) -> Result<Turn, SchoolError> {
        let share = self.share(whose);
        let busy = |_| SchoolError::Busy;
        let ended = |_| SchoolError::Inside("no turns are given any more".into());
        let place = share.places.clone().try_acquire_owned().map_err(busy)?;
        let any_place = self.places.clone().try_acquire_owned().map_err(busy)?;
        // First among what is one's own: whoever has much under way stands in the queue of all only once.
        let running = share.running.clone().acquire_owned().await.map_err(ended)?;
        let at_once = self.at_once.clone().acquire_owned().await.map_err(ended)?;
        Ok(Turn {
            _held: [place, any_place, running, at_once],
            _share: share,
        })
    }
}

/// A turn that was had; it ends when this is dropped, and goes along with the work.
pub struct Turn {
    _held: [OwnedSemaphorePermit; 4],
    _share: Arc<Share>,
}

pub(crate) struct Compute {
    marking: Lane,
    authoring: Lane,
    packing: Lane,
    writing: Lane,
    signing_in: Lane,
    signing_in_again: Lane,
}

impl Compute {
    pub fn new() -> Self {
        let cores = std::thread::available_parallelism().map_or(2, usize::from);
        Compute {
            // A browser has one or two readings under way.
            marking: Lane::new(cores, 4_000, 12),
            authoring: Lane::new(1, 40, 3),
            // A second export is refused while the first one runs.
            packing: Lane::new(2, 40, 1),
            // A slow line holds its turn while it sends: there are more of them than connections to the database.
            writing: Lane::new(32, 400, 4),
            // A large school at once, at some 60 ms each; of one address a few classes.
            signing_in: Lane::new((cores / 2).max(1), 600, 200),
            signing_in_again: Lane::new(1, 600, 3),
        }
    }

    fn lane(&self, cost: Cost) -> &Lane {
        match cost {
            Cost::Marking => &self.marking,
            Cost::Authoring => &self.authoring,
            Cost::Packing => &self.packing,
            Cost::Writing => &self.writing,
            Cost::SigningIn => &self.signing_in,
            Cost::SigningInAgain => &self.signing_in_again,
        }
    }
}

/// Runs on a blocking thread. The turn goes with the work: it ends when the work is done, whoever still waits for it.
pub(crate) async fn on_a_thread<T: Send + 'static>(
    turn: impl Send + 'static,
    work: impl FnOnce() -> T + Send + 'static,
) -> Result<T, SchoolError> {
    let run = move || {
        let _turn = turn;
        work()
    };
    tokio::task::spawn_blocking(run)
        .await
        .map_err(|e| SchoolError::Inside(e.to_string()))
}

/// Counts something that a person does so many times in a while. Gives in how many seconds it may be done again, where it
/// was done too often; then it is not counted.
///
/// # Errors
/// What the database said.
pub async fn share_of(
    school: &School,
    what: &str,
    person: PersonId,
    most: i32,
    lasts: time::Duration,
) -> Result<Option<i64>, SchoolError> {
    let key = format!("{what} {}", person.0);
    let limit = store::TryLimit {
        key: &key,
        most,
        lasts,
    };
    let now = school.now();
    let free = store::count_try(&school.pool, &[limit], now).await?;
    Ok(free.map(|at| (at - now).whole_seconds().saturating_add(1).max(1)))
}

impl School {
    /// Waits for a turn.
    ///
    /// # Errors
    /// [`SchoolError::Busy`] where too much of theirs, or of all, waits already.
    pub async fn turn(&self, cost: Cost, whose: impl Into<Whose>) -> Result<Turn, SchoolError> {
        self.compute.lane(cost).turn(whose.into()).await
    }

    /// Computes for a person: one thing at a time. No program is started there.
    ///
    /// # Errors
    /// [`SchoolError::Busy`] where too much of theirs waits already.
    pub async fn compute<T: Send + 'static>(
        &self,
        person: PersonId,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, SchoolError> {
        self.compute_beside(person, Reports::default(), work).await
    }

    /// Computes for a person, with what came of the programs among it.
    ///
    /// # Errors
    /// [`SchoolError::Busy`] where too much of theirs waits already.
    pub async fn compute_beside<T: Send + 'static>(
        &self,
        person: PersonId,
        reports: Reports,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, SchoolError> {
        let turn = self.turn(Cost::Marking, person).await?;
        on_a_thread(turn, move || with_reports(reports, work)).await
    }

    /// Computes for nobody in particular: the clock, corrections.
    ///
    /// # Errors
    /// If the work panicked.
    pub async fn compute_for_all<T: Send + 'static>(
        &self,
        reports: Reports,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, SchoolError> {
        let ended = |_| SchoolError::Inside("no turns are given any more".into());
        let at_once = self.compute.marking.at_once.clone();
        let permit = at_once.acquire_owned().await.map_err(ended)?;
        on_a_thread(permit, move || with_reports(reports, work)).await
    }

    /// Checks what somebody writes, programs of it too: these wait for their own turns, and nobody's marking for them.
    ///
    /// # Errors
    /// [`SchoolError::Busy`] where too much of theirs waits already.
    pub async fn check_for_author<T: Send + 'static>(
        &self,
        person: PersonId,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, SchoolError> {
        let turn = self.turn(Cost::Authoring, person).await?;
        let whose = person.0;
        on_a_thread(turn, move || {
            with_runs(move |job| runner::run_as(job, whose), work)
        })
        .await
    }

    /// Looks at a password, or makes one, in a turn for that.
    ///
    /// # Errors
    /// [`SchoolError::Busy`] where too many wait already.
    pub async fn compute_password<T: Send + 'static>(
        &self,
        turn: PasswordTurn,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, SchoolError> {
        let turn = match turn {
            PasswordTurn::Stranger { address } => {
                self.turn(Cost::SigningIn, Whose::Stranger(address)).await?
            }
            PasswordTurn::KnownHere { name } => {
                self.turn(Cost::SigningInAgain, Whose::Stranger(name)).await?
            }
            PasswordTurn::SignedIn(person) => self.turn(Cost::SigningInAgain, person).await?,
        };
        on_a_thread(turn, work).await
    }

    pub(crate) fn held(&self) -> &Held {
        &self.held
    }
}

/// Whose turn a password is looked at in.
#[derive(Clone, Debug)]
pub enum PasswordTurn {
    /// Nobody knows them: the turn is their address's.
    Stranger {
        address: String,
    },
    /// This browser was in under this name before.
    KnownHere {
        name: String,
    },
    SignedIn(PersonId),
}

#[cfg(test)]
mod tests {
    use super::*;

    fn stranger(name: &str) -> Whose {
        Whose::Stranger(name.to_owned())
    }

    #[tokio::test]
    async fn whoever_has_much_under_way_waits_for_themselves_alone() {
        let lane = Arc::new(Lane::new(2, 100, 50));
        let first = lane.turn(stranger("a")).await.unwrap();
        // Forty more of the same person: none of them has a turn while the first one runs.
        let mut others = Vec::new();
        for _ in 0..40 {
            let lane = lane.clone();
            others.push(tokio::spawn(async move { drop(lane.turn(stranger("a")).await) }));
        }
        tokio::task::yield_now().await;
        let another = tokio::time::timeout(std::time::Duration::from_secs(5), lane.turn(stranger("b"))).await;
        drop(another.expect("a turn at once").unwrap());
        drop(first);
        for other in others {
            other.await.unwrap();
        }
    }

    #[tokio::test]
    async fn what_can_not_wait_is_busy() {
        let lane = Lane::new(1, 3, 2);
        let _one = lane.turn(stranger("a")).await.unwrap();
        let share = lane.share(stranger("a"));
        let _waiting = share.places.clone().try_acquire_owned().unwrap();
        assert!(matches!(lane.turn(stranger("a")).await, Err(SchoolError::Busy)));
        let _all = lane.places.clone().try_acquire_many_owned(2).unwrap();
        assert!(matches!(lane.turn(stranger("b")).await, Err(SchoolError::Busy)));
    }
}
