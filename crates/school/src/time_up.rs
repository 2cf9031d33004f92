//! Ends timed work when its time is up, whether or not a browser is open. Any number of servers may do this side by side:
//! each takes other works, and what is taken is decided anew, so it happens once.

use futures_util::StreamExt;
use futures_util::stream;
use store::Ending;
use time::Duration;

use crate::School;
use crate::desk::Desk;
use crate::error::SchoolError;

/// Checks that came in before the end may still be on their way to the database.
const GRACE: Duration = Duration::seconds(2);
/// Until one that could not be ended is tried again.
const AGAIN: Duration = Duration::seconds(30);
/// Works ended side by side.
const AT_ONCE: usize = 4;

/// Ends everything that is over, and goes on doing so.
pub async fn keep_ending(school: School) {
    let mut every_second = tokio::time::interval(std::time::Duration::from_secs(1));
    loop {
        every_second.tick().await;
        if let Err(error) = end_all(&school).await {
            tracing::error!(cause = %error, "ending timed work");
        }
    }
}

/// Ends what is over now.
///
/// # Errors
/// If what is over cannot be asked for.
pub async fn end_all(school: &School) -> Result<(), SchoolError> {
    loop {
        let now = school.now() - GRACE;
        let taken = store::take_ended(&school.pool, now, now + AGAIN).await?;
        let some = !taken.is_empty();
        stream::iter(taken)
            .for_each_concurrent(AT_ONCE, |ending| end(school, ending))
            .await;
        if !some {
            return Ok(());
        }
    }
}

/// Finding the work ends it; one that cannot be ended must not hold up the others.
async fn end(school: &School, ending: Ending) {
    if let Err(error) = Desk::load(school, ending.assignment, ending.student).await {
        tracing::error!(cause = %error, work = %ending.work.0, "ending timed work");
    }
}
