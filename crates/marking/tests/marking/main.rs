//! What marking promises: the contract line by line, families of answers, every kind, and entries that mean harm.

mod corpus;
mod families;
mod hostile;
mod kinds;
