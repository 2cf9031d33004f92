/// Refusals: a name, a stable code, and the words for the student.
macro_rules! refusals {
    ($($name:ident $code:literal $words:literal)*) => {
        /// Why nothing was done. The words are for the student.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
        pub enum Refusal {
            $(#[error($words)] $name,)*
        }

        impl Refusal {
            pub const ALL: &[Refusal] = &[$(Refusal::$name),*];

            /// A stable name for the refusal.
            pub fn code(self) -> &'static str {
                match self {
                    $(Refusal::$name => $code,)*
                }
            }
        }
    };
}

refusals! {
    NotOpenYet "not_open_yet"
        "This assignment is not open yet."
    Closed "closed"
        "This assignment has closed. What you have done is kept, but nothing can be added."
    TimeUp "time_up"
        "Your time is up. What you had entered by then was handed in for you."
    ResultsOut "results_out"
        "The results are out, so this can't be changed any more."
    NotOpened "not_opened"
        "Open the assignment first."
    NoSuchQuestion "no_such_question"
        "There is no such question in this assignment."
    NoSuchPart "no_such_part"
        "There is no such part in this question."
    NotReached "not_reached"
        "This question has not been reached yet. Here questions are worked in order."
    LeftBehind "left_behind"
        "You have moved on from this question, and there is no going back here."
    AnswerFirst "answer_first"
        "Answer this question before you move on. In this assignment none may be left out."
    AnyOrder "any_order"
        "The questions of this assignment can be worked in any order."
    CheckedAtHandIn "checked_at_hand_in"
        "Answers in this assignment are checked when you hand in."
    NoTriesLeft "no_tries_left"
        "No tries are left on this set."
    SetEnded "set_ended"
        "You have seen the working of this set, so it can't be checked any more. Fresh numbers start a new one."
    OldSet "old_set"
        "This question has fresh numbers now. Load the page again to see them."
    AllRight "all_right"
        "Every part of this question is right already."
    NothingEntered "nothing_entered"
        "Nothing is entered yet, so nothing was checked. No try was used."
    MarkedByTeacher "marked_by_teacher"
        "Your teacher marks this. It is kept as you write, and goes in when you hand in."
    NumbersStay "numbers_stay"
        "Your teacher marks this question, so its numbers stay."
    Incomplete "incomplete"
        "Every part of this question has to be filled in before it can be checked. No try was used."
    AlreadyTried "already_tried"
        "You have tried this one. No try was used."
    TooManyUnjudged "too_many_unjudged"
        "A hundred entries on this set could not be judged. Look at how your answer reads before you check it again; no try was used."
    SetNotEnded "set_not_ended"
        "There are still tries on this set. Use them first, or show the working to end it."
    NoSetsLeft "no_sets_left"
        "No more sets of fresh numbers are left for this question."
    NoFreshNumbers "no_fresh_numbers"
        "There are no fresh numbers in this assignment."
    HintsOff "hints_off"
        "Hints are switched off in this assignment."
    NoMoreHints "no_more_hints"
        "There are no more hints for this question."
    NoExample "no_example"
        "There is no worked example for this question."
    NoSolution "no_solution"
        "Your teacher does not show the working in this assignment."
    SolutionAfterTries "solution_after_tries"
        "The working can be seen when no tries are left on this set."
    SolutionAfterCredit "solution_after_credit"
        "The working can be seen once every part of this question is right."
    SolutionAfterDue "solution_after_due"
        "The working can be seen after the due time."
    NoCalculator "no_calculator"
        "The calculator is switched off here."
    LateNotAccepted "late_not_accepted"
        "The due date has passed, and late work is not accepted."
    NoHandInsLeft "no_hand_ins_left"
        "No hand-ins are left."
    QuestionsLeft "questions_left"
        "Every question has to be attempted before you can hand in."
    NothingToTakeBack "nothing_to_take_back"
        "There is no hand-in to take back."
    ResultsSeen "results_seen"
        "You have seen the results of this hand-in, so it stays."
    TimeNotUp "time_not_up"
        "Your time is not up yet."
    SkillLocked "skill_locked"
        "This skill is not open yet: what it stands on has to be at least steady first."
    NothingToPractise "nothing_to_practise"
        "No question practises this."
    NoOtherNumbers "no_other_numbers"
        "This question has no other numbers, and its homework is still open. It can be tried here once that has closed."
    KeptForQuiz "kept_for_quiz"
        "The questions on this are kept for a quiz that is still open. They can be practised once its results are out."
    NothingDrawn "nothing_drawn"
        "Answer this question first, or go on to another one."
    Answered "answered"
        "This question has been answered, here or in another window. Go on to the next one."
    NoGoal "no_goal"
        "This assignment has questions, not a goal to work towards."
    OnlyReading "only_reading"
        "This assignment asks for reading; there is nothing to practise in it."
    NotClosedYet "not_closed_yet"
        "This can be practised once the assignment has closed."
}
