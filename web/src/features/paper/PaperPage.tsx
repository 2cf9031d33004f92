import { Button, Checkbox, Skeleton } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useMemo, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import { boardQuery } from "../board/queries";
import { meQuery } from "../sign-in/queries";
import { InkLayer, type Mark, type Tool } from "./InkLayer";
import { type Block, Pages } from "./Pages";
import classes from "./Paper.module.css";
import { Choice, LayoutChoices, useLayout } from "./PaperControls";
import { type OnSheet, questionBlocks, type Room } from "./PaperQuestion";
import { ownPaperQuery } from "./queries";
import { usePaperInk } from "./usePaperInk";

type Writing = {
  marks: (question: number) => Mark[];
  tool?: Tool | undefined;
  change?: (question: number, marks: Mark[]) => void;
};

/** What stands at the top of each page. */
export function PageHead({ title, of, due, name }: { title: string; of: string; due: string; name: string }) {
  return (
    <>
      <span>
        <strong>{title}</strong> · {of} · due {moment(due)}
      </span>
      <span>{name || "Name: ____________________"}</span>
    </>
  );
}

/** A copy's questions in pieces, with what is written on them. */
export function copyBlocks(
  copy: { code: string; questions: OnSheet[] },
  head: Block["starts"],
  room: Room,
  writing?: Writing,
): Block[] {
  return copy.questions.flatMap((q, first) =>
    questionBlocks(q, room).map((node, block) => {
      const marks = writing?.marks(q.question) ?? [];
      const starts = first === 0 && block === 0 ? head : undefined;
      return {
        key: `${copy.code}/${q.question}/${block}`,
        ...(starts ? { starts } : {}),
        node: (tall) => (
          <>
            {node}
            {writing && tall > 0 && (
              <InkLayer
                label={`Written on question ${q.question + 1}`}
                block={block}
                tall={tall}
                marks={marks}
                tool={writing.tool}
                onAdd={(mark) => writing.change?.(q.question, [...marks, mark])}
                onDrop={(gone) =>
                  writing.change?.(
                    q.question,
                    marks.filter((m) => !gone.includes(m)),
                  )
                }
              />
            )}
          </>
        ),
      };
    }),
  );
}

/** One's own paper copy: to print, or to write on with a pen. */
export function PaperPage() {
  const { id } = useParams({ from: "/signed-in/work/$id/paper" });
  const board = useQuery(boardQuery(id));
  const paper = useQuery(ownPaperQuery(id));
  const me = useQuery(meQuery());
  if (board.data && paper.data && me.data) {
    return <Paper board={board.data} paper={paper.data} me={me.data} />;
  }
  const error = board.error ?? paper.error;
  return (
    <Frame trail={[{ label: "Paper copy" }]}>
      {error ? (
        <Trouble heading="Paper copy" error={error}>
          <Link to="/work/$id" params={{ id }}>
            Go to the cover sheet
          </Link>
        </Trouble>
      ) : (
        <Skeleton height={480} aria-label="Loading the paper copy" />
      )}
    </Frame>
  );
}

type Props = { board: Schemas["BoardView"]; paper: Schemas["OwnPaperView"]; me: Schemas["Me"] };

function Paper({ board, paper, me }: Props) {
  const { id } = board;
  const queryClient = useQueryClient();
  const [layout, setLayout] = useLayout();
  const [tool, setTool] = useState<Tool | "none">("none");
  const [page, setPage] = useState(0);
  const [pages, setPages] = useState(1);
  const ink = usePaperInk(id, me.user_name, paper.ink);
  const writes = tool !== "none";
  const share = useMutation({
    mutationFn: (shared: boolean) =>
      ask(api.PUT("/api/assignments/{id}/workings-shared", { params: { path: { id } }, body: { shared } })),
    onSuccess: ({ shared }) =>
      queryClient.setQueryData(ownPaperQuery(id).queryKey, { ...paper, shared, ink: paper.ink }),
  });
  const blocks = useMemo(() => {
    const questions = board.questions.filter((q) => !q.locked);
    const head = (
      <PageHead title={board.title} of={board.class_title} due={board.due} name={me.display_name} />
    );
    const writing = { marks: ink.marks, change: ink.change, tool: writes ? tool : undefined };
    return copyBlocks({ code: paper.code, questions }, { code: paper.code, head }, layout.room, writing);
  }, [board, me, paper.code, layout.room, ink.marks, ink.change, tool, writes]);
  const at = Math.min(page, pages - 1);
  const undo = () => {
    const last = board.questions.findLast((q) => ink.marks(q.question).length > 0);
    if (last) ink.change(last.question, ink.marks(last.question).slice(0, -1));
  };
  return (
    <Frame
      wide
      trail={[{ label: board.title, to: `/work/${id}` }, { label: "Paper copy" }]}
      saved={
        <span role="status" className={classes.saved}>
          {ink.trouble || (ink.saved ? "" : "Keeping…")}
        </span>
      }
    >
      <div className={classes.controls}>
        <Button onClick={() => window.print()}>Print</Button>
        <LayoutChoices layout={layout} onLayout={setLayout} />
        <Choice
          label="Write on it"
          value={tool}
          onChange={setTool}
          data={[
            { value: "none", label: "No" },
            { value: "pen", label: "Pen" },
            { value: "text", label: "Text" },
            { value: "eraser", label: "Eraser" },
          ]}
        />
        {writes && (
          <>
            <Button size="xs" variant="default" onClick={undo}>
              Undo
            </Button>
            <Button size="xs" variant="default" disabled={at === 0} onClick={() => setPage(at - 1)}>
              Previous page
            </Button>
            <Button size="xs" variant="default" disabled={at + 1 >= pages} onClick={() => setPage(at + 1)}>
              Next page
            </Button>
          </>
        )}
        <Checkbox
          label="My teacher may see my workings and what I write here"
          checked={paper.shared}
          disabled={share.isPending}
          onChange={(e) => share.mutate(e.currentTarget.checked)}
        />
        {share.error && <Trouble error={share.error} />}
        <p className={classes.hint}>
          What is written here is kept like workings: it is not marked. Answers count once they are entered on
          the screen.
        </p>
        {ink.elsewhere && (
          <div role="alert" className={classes.elsewhere}>
            <p>
              Another window has written on question {ink.elsewhere.question + 1}. Which version do you want
              to keep?
            </p>
            <Button size="xs" variant="default" onClick={() => ink.settle(true)}>
              What is written here
            </Button>{" "}
            <Button size="xs" variant="default" onClick={() => ink.settle(false)}>
              The other version
            </Button>
          </div>
        )}
      </div>
      <Pages blocks={blocks} format={layout.format} only={writes ? at : undefined} onPages={setPages} />
    </Frame>
  );
}
