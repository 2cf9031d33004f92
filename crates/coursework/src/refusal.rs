/// Why nothing was done. The words are for the student.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum Refusal {
    #[error("This assignment is not open yet.")]
    NotOpenYet,
    #[error("This assignment has closed. What you have done is kept, but nothing can be added.")]
    Closed,
    #[error("Your time is up. What you had entered by then was handed in for you.")]
    TimeUp,
    #[error("The results are out, so this can't be changed any more.")]
    ResultsOut,
    #[error("Open the assignment first.")]
    NotOpened,
    #[error("There is no such question in this assignment.")]
    NoSuchQuestion,
    #[error("There is no such part in this question.")]
    NoSuchPart,
    #[error("This question has not been reached yet. Here questions are worked in order.")]
    NotReached,
    #[error("You have moved on from this question, and there is no going back here.")]
    LeftBehind,
    #[error("Answer this question before you move on. In this assignment none may be left out.")]
    AnswerFirst,
    #[error("The questions of this assignment can be worked in any order.")]
    AnyOrder,
    #[error("Answers in this assignment are checked when you hand in.")]
    CheckedAtHandIn,
    #[error("No tries are left on this set.")]
    NoTriesLeft,
    #[error(
        "You have seen the working of this set, so it can't be checked any more. Fresh numbers start a new one."
    )]
    SetEnded,
    #[error("This question has fresh numbers now. Load the page again to see them.")]
    OldSet,
    #[error("Every part of this question is right already.")]
    AllRight,
    #[error("Nothing is entered yet, so nothing was checked. No try was used.")]
    NothingEntered,
    #[error("Every part of this question has to be filled in before it can be checked. No try was used.")]
    Incomplete,
    #[error("You have tried this one. No try was used.")]
    AlreadyTried,
    #[error(
        "A hundred entries on this set could not be judged. Look at how your answer reads before you check it again; no try was used."
    )]
    TooManyUnjudged,
    #[error("There are still tries on this set. Use them first, or show the working to end it.")]
    SetNotEnded,
    #[error("No more sets of fresh numbers are left for this question.")]
    NoSetsLeft,
    #[error("There are no fresh numbers in this assignment.")]
    NoFreshNumbers,
    #[error("Hints are switched off in this assignment.")]
    HintsOff,
    #[error("There are no more hints for this question.")]
    NoMoreHints,
    #[error("There is no worked example for this question.")]
    NoExample,
    #[error("Your teacher does not show the working in this assignment.")]
    NoSolution,
    #[error("The working can be seen when no tries are left on this set.")]
    SolutionAfterTries,
    #[error("The working can be seen once every part of this question is right.")]
    SolutionAfterCredit,
    #[error("The working can be seen after the due time.")]
    SolutionAfterDue,
    #[error("The calculator is switched off here.")]
    NoCalculator,
    #[error("The due date has passed, and late work is not accepted.")]
    LateNotAccepted,
    #[error("No hand-ins are left.")]
    NoHandInsLeft,
    #[error("Every question has to be attempted before you can hand in.")]
    QuestionsLeft,
    #[error("There is no hand-in to take back.")]
    NothingToTakeBack,
    #[error("You have seen the results of this hand-in, so it stays.")]
    ResultsSeen,
    #[error("Your time is not up yet.")]
    TimeNotUp,
    #[error("The results will show later.")]
    ResultsLater,
    #[error("This skill is not open yet: what it stands on has to be at least steady first.")]
    SkillLocked,
    #[error("No question practises this.")]
    NothingToPractise,
    #[error(
        "This question has no other numbers, and its homework is still open. It can be tried here once that has closed."
    )]
    NoOtherNumbers,
    #[error(
        "The questions on this are kept for a quiz that is still open. They can be practised once its results are out."
    )]
    KeptForQuiz,
    #[error("Answer this question first, or go on to another one.")]
    NothingDrawn,
    #[error("This question has been answered, here or in another window. Go on to the next one.")]
    Answered,
    #[error("This assignment has questions, not a goal to work towards.")]
    NoGoal,
    #[error("This assignment asks for reading; there is nothing to practise in it.")]
    OnlyReading,
    #[error("This can be practised once the assignment has closed.")]
    NotClosedYet,
}

impl Refusal {
    /// A stable name for the refusal.
    pub fn code(self) -> &'static str {
        match self {
            Refusal::NotOpenYet => "not_open_yet",
            Refusal::Closed => "closed",
            Refusal::TimeUp => "time_up",
            Refusal::ResultsOut => "results_out",
            Refusal::NotOpened => "not_opened",
            Refusal::NoSuchQuestion => "no_such_question",
            Refusal::NoSuchPart => "no_such_part",
            Refusal::NotReached => "not_reached",
            Refusal::LeftBehind => "left_behind",
            Refusal::AnswerFirst => "answer_first",
            Refusal::AnyOrder => "any_order",
            Refusal::CheckedAtHandIn => "checked_at_hand_in",
            Refusal::NoTriesLeft => "no_tries_left",
            Refusal::SetEnded => "set_ended",
            Refusal::OldSet => "old_set",
            Refusal::AllRight => "all_right",
            Refusal::NothingEntered => "nothing_entered",
            Refusal::Incomplete => "incomplete",
            Refusal::AlreadyTried => "already_tried",
            Refusal::TooManyUnjudged => "too_many_unjudged",
            Refusal::SetNotEnded => "set_not_ended",
            Refusal::NoSetsLeft => "no_sets_left",
            Refusal::NoFreshNumbers => "no_fresh_numbers",
            Refusal::HintsOff => "hints_off",
            Refusal::NoMoreHints => "no_more_hints",
            Refusal::NoExample => "no_example",
            Refusal::NoSolution => "no_solution",
            Refusal::SolutionAfterTries => "solution_after_tries",
            Refusal::SolutionAfterCredit => "solution_after_credit",
            Refusal::SolutionAfterDue => "solution_after_due",
            Refusal::NoCalculator => "no_calculator",
            Refusal::LateNotAccepted => "late_not_accepted",
            Refusal::NoHandInsLeft => "no_hand_ins_left",
            Refusal::QuestionsLeft => "questions_left",
            Refusal::NothingToTakeBack => "nothing_to_take_back",
            Refusal::ResultsSeen => "results_seen",
            Refusal::TimeNotUp => "time_not_up",
            Refusal::ResultsLater => "results_later",
            Refusal::SkillLocked => "skill_locked",
            Refusal::NothingToPractise => "nothing_to_practise",
            Refusal::NoOtherNumbers => "no_other_numbers",
            Refusal::KeptForQuiz => "kept_for_quiz",
            Refusal::NothingDrawn => "nothing_drawn",
            Refusal::Answered => "answered",
            Refusal::NoGoal => "no_goal",
            Refusal::OnlyReading => "only_reading",
            Refusal::NotClosedYet => "not_closed_yet",
        }
    }
}
