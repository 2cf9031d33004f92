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

/** The wooden ledge: one stone a question, the score, and the two ways out. */
export function Ledge({ board, current, onGo, onPutAside, keeper }: Props) {
  const navigate = useNavigate();
  const here = useRef<HTMLButtonElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the stone to show is another one when the question is
  useEffect(() => {
    here.current?.scrollIntoView({ block: "nearest", inline: "center" });
  }, [current]);
  const handIn = async () => {
    await keeper.flush();
    await navigate({ to: "/work/$id/hand-in", params: { id: board.id } });
  };
  return (
    <footer className={classes.ledge}>
      <nav aria-label="Questions" className={classes.stones}>
        <UnstyledButton
          className={classes.step}
          aria-label="Question before"
          disabled={current === 0}
          onClick={() => onGo(current)}
        >
          ‹
        </UnstyledButton>
        <ol>
          {board.questions.map((q) => (
            <li key={q.question} className={q.question % 10 === 9 ? classes.ten : undefined}>
              <Tooltip
                label={`Question ${q.question + 1}: ${stoneWords[q.stone]}`}
                events={{ hover: true, focus: true, touch: false }}
              >
                <UnstyledButton
                  ref={q.question === current ? here : undefined}
                  className={classes.stone}
                  data-stone={q.stone}
                  aria-current={q.question === current ? "step" : undefined}
                  aria-label={`Question ${q.question + 1}: ${stoneWords[q.stone]}`}
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
          disabled={current === board.questions.length - 1}
          onClick={() => onGo(current + 2)}
        >
          ›
        </UnstyledButton>
      </nav>
      <span className={classes.score} data-testid="score-so-far">
        Score so far <strong>{percent(board.score.percent)}</strong>
      </span>
      <Button variant="outline" color="gray.3" onClick={onPutAside}>
        Put aside
      </Button>
      <Button variant="outline" color="gray.3" onClick={handIn}>
        Hand in
      </Button>
    </footer>
  );
}
