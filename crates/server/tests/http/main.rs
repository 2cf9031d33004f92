//! The real router over a real PostgreSQL: what students can and cannot do by any request.

mod basics;
mod client;
mod corrections;
mod every_route;
mod goals;
mod help;
mod order;
mod pages;
mod practice;
mod results;
mod review;
mod skills;
mod slips;
mod time_up;
mod typing;
mod week;
mod workings;
