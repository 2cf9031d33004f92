import { Button, Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { ReadFrom } from "../../answers/typed/ReadsAs";
import { api, ask } from "../../api/client";
import { Steps } from "../../shared/Steps";
import { Trouble } from "../../shared/Trouble";
import { LooseQuestion } from "../board/components/LooseQuestion";
import { RightAnswers } from "../loose/RightAnswers";
import classes from "./Bank.module.css";
import { type Given, lookQuery } from "./queries";

/** A question with any numbers drawn: any answer can be typed, and the verdict seen. Nothing is recorded. */
export function Picture({ id }: { id: string }) {
  const [seed, setSeed] = useState(1);
  const [parts, setParts] = useState<Given[]>([]);
  const look = useQuery(lookQuery(id, seed, parts));
  const reader = useMemo(
    () => ({
      key: `bank/${id}`,
      read: (part: string, entry: string) =>
        ask(api.POST("/api/bank/{slug}/read", { params: { path: { slug: id } }, body: { part, entry } })),
    }),
    [id],
  );
  if (look.error) return <Trouble error={look.error} />;
  if (!look.data) return <Skeleton height={160} aria-label="Loading the question" />;
  const working = look.data.question.help.working;
  return (
    <div className={classes.picture}>
      <ReadFrom.Provider value={reader}>
        <LooseQuestion
          key={seed}
          assignment=""
          question={look.data.question}
          prefix={`look-${id}-`}
          pending={look.isFetching}
          forTeacher
          onCheck={setParts}
        />
      </ReadFrom.Provider>
      <div className={classes.buttons}>
        <Button
          size="xs"
          variant="default"
          onClick={() => {
            setParts([]);
            setSeed(seed + 1);
          }}
        >
          Other numbers
        </Button>
      </div>
      <details>
        <summary>Answers and working</summary>
        <RightAnswers answers={look.data.answers} parts={look.data.question.parts} />
        {working && <Steps steps={working} />}
      </details>
    </div>
  );
}
