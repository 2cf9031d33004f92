import { Button, Skeleton } from "@mantine/core";
import { queryOptions, useMutation, useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Steps } from "../../shared/Steps";
import { Trouble } from "../../shared/Trouble";
import { LooseQuestion } from "../board/components/LooseQuestion";
import type { Given } from "../board/keeper";
import classes from "./PracticePage.module.css";

const practiceQuery = (id: string, question: number, round: number) =>
  queryOptions({
    queryKey: ["practice", id, question, round],
    queryFn: () =>
      ask(
        api.GET("/api/assignments/{id}/practice/{question}/{round}", {
          params: { path: { id, question, round } },
        }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
  });

/** Working on a closed assignment: checked, and nothing recorded. */
export function PracticePage() {
  const { id, number } = useParams({ from: "/signed-in/work/$id/practice/$number" });
  const { round = 1 } = useSearch({ from: "/signed-in/work/$id/practice/$number" });
  const question = Number(number) - 1;
  const practice = useQuery(practiceQuery(id, question, round - 1));
  return (
    <Frame
      trail={[
        { label: practice.data?.title ?? "Assignment", to: `/work/${id}` },
        { label: `Practice, question ${number}` },
      ]}
    >
      {practice.error && (
        <Trouble
          heading={practice.data ? undefined : `Practice, question ${number}`}
          error={practice.error}
        />
      )}
      {practice.isPending && <Skeleton height={320} aria-label="Loading the question" />}
      {practice.data && <Sheet key={`${question}/${round}`} id={id} round={round} practice={practice.data} />}
    </Frame>
  );
}

type SheetProps = { id: string; round: number; practice: Schemas["PracticeView"] };

function Sheet({ id, round, practice }: SheetProps) {
  const navigate = useNavigate();
  const { question } = practice.question;
  const check = useMutation({
    mutationFn: (body: { parts: { id: string; response: Given }[]; show_working: boolean }) =>
      ask(
        api.POST("/api/assignments/{id}/practice/{question}/{round}", {
          params: { path: { id, question, round: round - 1 } },
          body,
        }),
      ),
  });
  const shown = check.data?.question ?? practice.question;
  const go = (to: number, search: { round?: number }) =>
    navigate({ to: "/work/$id/practice/$number", params: { id, number: String(to) }, search });
  return (
    <article className={classes.sheet}>
      <h1>Question {question + 1}</h1>
      <p className={classes.dim}>Practice on fresh numbers. Nothing of it is recorded.</p>
      <LooseQuestion
        assignment={id}
        question={shown}
        prefix=""
        pending={check.isPending}
        onCheck={(parts) => check.mutate({ parts, show_working: false })}
      />
      {check.error && <Trouble error={check.error} />}
      {shown.help.working && (
        <>
          <h2>The working</h2>
          <Steps steps={shown.help.working} />
        </>
      )}
      <div className={classes.actions}>
        <Button variant="default" onClick={() => go(question + 1, { round: round + 1 })}>
          Fresh numbers
        </Button>
        {!shown.help.working && (
          <Button
            variant="default"
            onClick={() => check.mutate({ parts: check.variables?.parts ?? [], show_working: true })}
          >
            Show the working
          </Button>
        )}
        {question > 0 && (
          <Button variant="default" onClick={() => go(question, {})}>
            Previous question
          </Button>
        )}
        {question + 1 < practice.questions && (
          <Button variant="default" onClick={() => go(question + 2, {})}>
            Next question
          </Button>
        )}
        <Link to="/work/$id" params={{ id }}>
          Back to the cover sheet
        </Link>
      </div>
    </article>
  );
}
