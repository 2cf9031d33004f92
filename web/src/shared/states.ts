import type { Schemas } from "../api/client";

/** The words of an assignment's state. */
export const stateWords: Record<Schemas["StateView"], string> = {
  not_opened: "Not opened",
  under_way: "Under way",
  handed_in: "Handed in",
  with_the_teacher: "With the teacher",
  marked: "Marked",
  closed_nothing_handed_in: "Closed, nothing handed in",
};

export const kindWords: Record<Schemas["KindView"], string> = {
  homework: "Homework",
  quiz: "Quiz",
  practice: "Practice",
  reading: "Reading",
};

/** What each stone of the ledge says. */
export const stoneWords: Record<Schemas["Stone"], string> = {
  untouched: "not begun",
  typed: "typed, not checked",
  not_yet: "not right yet",
  partly: "partly right",
  right: "right",
  for_the_teacher: "written, for the teacher",
  no_tries_left: "no tries left",
  locked: "not reached yet",
};

/** How far a skill has come. */
export const levelWords: Record<Schemas["LevelView"], string> = {
  new: "new",
  growing: "growing",
  steady: "steady",
  solid: "solid",
  fading: "fading",
};
