//! What several rooms tell the browser. Keys, which choice is right, seeds and hints not taken never are told; nor is any
//! verdict before it is released.

pub(crate) mod answer;
pub(crate) mod given;
pub(crate) mod goal;
pub(crate) mod hand_in;
pub(crate) mod kind;
pub(crate) mod loose;
pub(crate) mod question;
pub(crate) mod question_view;
pub(crate) mod read;
pub(crate) mod run;
pub(crate) mod skill;
pub(crate) mod state;
pub(crate) mod table;
pub(crate) mod tools;
pub(crate) mod verdict;
