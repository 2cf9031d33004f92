import { Button, Tooltip, UnstyledButton } from "@mantine/core";
import { useNavigate } from "@tanstack/react-router";
import { useEffect, useRef } from "react";
import type { Schemas } from "../../../api/client";
import { stoneWords } from "../../../shared/states";
import { percent } from "../../../shared/when";
import type { Keeper } from "../keeper";
import classes from "./Ledge.module.css";
import { Stone } from "./Stone";

type Props = {
  board: Schemas["BoardView"];
  /** From 0. */
  current: number;
  /** To a question, from 1. */
  onGo: (number: number) => void;
  onPutAside: () => void;
  keeper: Keeper;
};

function words(board: Schemas["BoardView"], q: Schemas["QuestionView"]): string {
  if (q.locked && q.stone !== "locked") return "left behind";
  return q.stone === "typed" && !board.verdicts ? "answered" : stoneWords[q.stone];
}

/** The wooden ledge: one stone a question, the score, and the two ways out. */
export function Ledge({ board, current, onGo, onPutAside, keeper }: Props) {
  const navigate = useNavigate();
  const here = useRef<HTMLButtonElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the stone to show is another one when the question is
  useEffect(() => {
    // Sideways only: the page stays where it is.
    const stone = here.current;
    const row = stone?.closest("ol");
    if (stone && row) {
      const within = stone.getBoundingClientRect().left - row.getBoundingClientRect().left;
      row.scrollLeft += within - (row.clientWidth - stone.clientWidth) / 2;
    }
  }, [current]);
  // They keep the focus when there is no way on: only what is said of them changes.
  const isFirst = current === 0 || board.questions[current - 1]?.locked != null;
  const isLast = current === board.questions.length - 1 || board.questions[current + 1]?.locked != null;
  const handIn = async () => {
    await keeper.flush();
    await navigate({ to: "/work/$id/hand-in", params: { id: board.id } });
  };
  return (
    <footer className={classes.ledge}>
      <nav aria-label="Questions" className={classes.stones}>
        <UnstyledButton
          className={classes.step}
          aria-label="Previous question"
          aria-disabled={isFirst}
          onClick={() => !isFirst && onGo(current)}
        >
          ‹
        </UnstyledButton>
        <ol>
          {board.questions.map((q) => (
            <li key={q.question} className={q.question % 10 === 9 ? classes.ten : undefined}>
              <Tooltip
                label={`Question ${q.question + 1}: ${words(board, q)}`}
                events={{ hover: true, focus: true, touch: false }}
              >
                <UnstyledButton
                  ref={q.question === current ? here : undefined}
                  className={classes.stone}
                  data-stone={q.stone}
                  aria-current={q.question === current ? "step" : undefined}
                  aria-label={`Question ${q.question + 1}: ${words(board, q)}`}
                  disabled={q.locked != null}
                  onClick={() => onGo(q.question + 1)}
                >
                  <Stone stone={q.stone} />
                  <span aria-hidden="true">{q.question + 1}</span>
                </UnstyledButton>
              </Tooltip>
            </li>
          ))}
        </ol>
        <UnstyledButton
          className={classes.step}
          aria-label="Next question"
          aria-disabled={isLast}
          onClick={() => !isLast && onGo(current + 2)}
        >
          ›
        </UnstyledButton>
      </nav>
      <span className={classes.score} data-testid="score-so-far">
        {board.score ? (
          <>
            Score so far <strong>{percent(board.score.percent)}</strong>
          </>
        ) : (
          <>
            <strong>{board.questions.filter((q) => q.stone === "typed").length}</strong> of{" "}
            {board.questions.length} answered
          </>
        )}
      </span>
      <Button variant="outline" color="gray.3" onClick={onPutAside}>
        Put aside
      </Button>
      <Button variant="outline" color="gray.3" onClick={handIn} disabled={!board.is_open}>
        Hand in
      </Button>
    </footer>
  );
}
