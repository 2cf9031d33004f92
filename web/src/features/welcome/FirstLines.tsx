import { Button } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../../api/client";
import { meQuery } from "../sign-in/queries";
import classes from "./FirstLines.module.css";

const student = [
  "Work each question out on paper, then type your answer: you see how it reads before you check it.",
  "Tries and sets of numbers are counted beside every question. What can’t be read costs nothing.",
  "Nothing is handed in until you press Hand in, and what you type is kept as you go.",
];

const teacher = [
  "Students come in by a list, by links that sign in once, or with a code.",
  "Work you set stays a draft until you give it out. You can try it first, as a student sees it.",
  "Classes shows who needs you, Marking what waits for you. Whatever you do to a score is recorded.",
];

/** Three short lines on what this is, at the first sign-in and never again. */
export function FirstLines({ me }: { me: Schemas["Me"] }) {
  const queryClient = useQueryClient();
  const read = useMutation({
    mutationFn: () => ask(api.POST("/api/me/welcomed")),
    onMutate: () => queryClient.setQueryData(meQuery().queryKey, { ...me, welcomed: true }),
  });
  if (me.welcomed) return null;
  return (
    <section className={classes.lines} aria-label="What this is">
      <ol>
        {(me.role === "teacher" ? teacher : student).map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ol>
      <Button size="sm" variant="default" onClick={() => read.mutate()}>
        I have read this
      </Button>
    </section>
  );
}
