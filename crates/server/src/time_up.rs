//! Ends timed work when its time is up, whether or not a browser is open. Any number of servers may do this side by
//! side: the work is locked and decided anew, so it happens once.

use time::Duration;

use crate::Site;
use crate::api::Desk;
use crate::error::ApiError;

/// Checks that came in before the end may still be on their way to the database.
const GRACE: Duration = Duration::seconds(2);

/// Ends everything that is over, and goes on doing so.
pub(crate) async fn keep_ending(site: Site) {
    let mut every_second = tokio::time::interval(std::time::Duration::from_secs(1));
    loop {
        every_second.tick().await;
        if let Err(error) = end_all(&site).await {
            tracing::error!(cause = %error, "ending timed work");
        }
    }
}

async fn end_all(site: &Site) -> Result<(), ApiError> {
    for ending in store::works_ended_by(&site.pool, site.now() - GRACE).await? {
        // Finding the work ends it; one that cannot be ended must not hold up the others.
        if let Err(error) = Desk::load(site, ending.assignment, ending.student).await {
            tracing::error!(cause = %error, work = %ending.work.0, "ending timed work");
        }
    }
    Ok(())
}
