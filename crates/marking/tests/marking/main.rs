//! What marking promises: the contract line by line, families of answers, every kind and what each must hold to, and entries that mean harm.

mod blocks;
mod contract;
mod corpus;
mod families;
mod figures;
mod hostile;
mod kinds;
mod parts;
