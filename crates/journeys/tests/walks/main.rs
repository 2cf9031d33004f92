//! Walks through the interface as a student and a teacher take them, in one binary: what waits for a browser runs beside others.

mod access;
mod addresses;
mod by_hand;
mod cards;
mod clock;
mod course;
mod desk;
mod goals;
mod homework;
mod kinds;
mod marking;
mod network;
mod paper;
mod pictures;
mod portal;
mod practice;
mod programs;
mod reading;
mod recordings;
mod sets;
mod slips;
mod start;
