//! The real router over a real PostgreSQL: what students can and cannot do by any request.

mod basics;
mod client;
mod corrections;
mod help;
mod order;
mod practice;
mod results;
mod skills;
mod slips;
mod time_up;
mod workings;
