//! The real router over a real PostgreSQL: what students can and cannot do by any request.

mod basics;
mod bounds;
mod client;
mod corrections;
mod digests;
mod every_route;
mod goals;
mod held;
mod help;
mod hidden;
mod kinds;
mod order;
mod pages;
mod practice;
mod races;
mod refusals;
mod results;
mod review;
mod signing_in;
mod skills;
mod slips;
mod standing;
mod time_up;
mod typing;
mod week;
mod workings;
