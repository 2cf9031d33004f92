import { Button, NativeSelect, Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { useMemo, useState } from "react";
import type { Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Maths } from "../../shared/Maths";
import { Line } from "../../shared/Prose";
import { Steps } from "../../shared/Steps";
import { Trouble } from "../../shared/Trouble";
import { type Block, Pages } from "./Pages";
import classes from "./Paper.module.css";
import { Choice, LayoutChoices, useLayout } from "./PaperControls";
import { copyBlocks, PageHead } from "./PaperPage";
import { paperStackQuery } from "./queries";

type Stack = Schemas["PaperStackView"];
type Copy = Stack["copies"][number];

/** The paper copies of a class, a stack with names or without; and the sheet of keys. */
export function StackPage() {
  const { id, assignment } = useParams({ from: "/signed-in/classes/$id/work/$assignment/paper" });
  const stack = useQuery(paperStackQuery(id, assignment));
  if (stack.data) return <Stacked stack={stack.data} id={id} assignment={assignment} />;
  return (
    <Frame trail={[{ label: "Paper copies" }]}>
      {stack.error ? (
        <Trouble heading="Paper copies" error={stack.error} />
      ) : (
        <Skeleton height={480} aria-label="Drawing the paper copies" />
      )}
    </Frame>
  );
}

function Answer({ answer }: { answer: Schemas["RightAnswer"] }) {
  if (answer.latex) return <Maths latex={answer.latex} spoken={answer.speech} />;
  return answer.choices.map((choice, at) => (
    <span key={`${answer.part}${at.toString()}`}>
      {at > 0 && "; "}
      <Line content={choice} />
    </span>
  ));
}

function Keys({ copy, name }: { copy: Copy; name: string }) {
  return (
    <section className={classes.keys} aria-label={`Keys of ${copy.code}`}>
      <h2>
        <code>{copy.code}</code> {name}
      </h2>
      <ol>
        {copy.questions.map((q) => (
          <li key={q.question} value={q.question + 1}>
            {q.answers.map((a) => (
              <span key={a.part}>
                {q.answers.length > 1 && `(${a.part}) `}
                <Answer answer={a} />{" "}
              </span>
            ))}
          </li>
        ))}
      </ol>
    </section>
  );
}

function keyBlocks(stack: Stack, copies: Copy[], workings: Copy | undefined): Block[] {
  const head = (
    <>
      <span>
        <strong>{stack.title}</strong> · {stack.class_title}
      </span>
      <span>Keys, for the teacher</span>
    </>
  );
  const keys: Block[] = copies.map((copy, at) => ({
    key: `keys/${copy.code}`,
    ...(at === 0 ? { starts: { code: "", head } } : {}),
    node: () => <Keys copy={copy} name={copy.name} />,
  }));
  const worked = (workings?.questions ?? []).filter((q) => q.working.length > 0);
  return [
    ...keys,
    ...worked.map((q, at) => ({
      key: `working/${workings?.code}/${q.question}`,
      ...(at === 0
        ? {
            starts: {
              code: workings?.code ?? "",
              head: <span>Workings, with the numbers of {workings?.code}</span>,
            },
          }
        : {}),
      node: () => (
        <section className={classes.working}>
          <h2>Question {q.question + 1}</h2>
          <Steps steps={q.working} />
        </section>
      ),
    })),
  ];
}

function Stacked({ stack, id, assignment }: { stack: Stack; id: string; assignment: string }) {
  const [layout, setLayout] = useLayout();
  const [what, setWhat] = useState<"copies" | "keys">("copies");
  const [names, setNames] = useState<"names" | "blind">("names");
  const [worked, setWorked] = useState(stack.copies[0]?.code ?? "");
  const blocks = useMemo(() => {
    const blind = names === "blind";
    // By their codes nobody is told apart.
    const copies = blind ? [...stack.copies].sort((a, b) => (a.code < b.code ? -1 : 1)) : stack.copies;
    if (what === "keys")
      return keyBlocks(
        stack,
        copies,
        stack.copies.find((c) => c.code === worked),
      );
    return copies.flatMap((copy) => {
      const name = blind ? `Copy ${copy.code}` : copy.name;
      const head = <PageHead title={stack.title} of={stack.class_title} due={stack.due} name={name} />;
      return copyBlocks(copy, { code: copy.code, head }, layout.room);
    });
  }, [stack, what, names, worked, layout.room]);
  return (
    <Frame
      wide
      trail={[{ label: stack.title, to: `/classes/${id}/work/${assignment}` }, { label: "Paper copies" }]}
    >
      <div className={classes.controls}>
        <Button onClick={() => window.print()} disabled={stack.copies.length === 0}>
          Print
        </Button>
        <Choice
          label="What"
          value={what}
          onChange={setWhat}
          data={[
            { value: "copies", label: "Copies" },
            { value: "keys", label: "Keys and workings" },
          ]}
        />
        {what === "copies" ? (
          <Choice
            label="Names"
            value={names}
            onChange={setNames}
            data={[
              { value: "names", label: "With names" },
              { value: "blind", label: "Codes only" },
            ]}
          />
        ) : (
          <NativeSelect
            size="xs"
            label="Workings with the numbers of"
            value={worked}
            onChange={(e) => setWorked(e.currentTarget.value)}
            data={stack.copies.map((c) => ({ value: c.code, label: `${c.code} ${c.name}` }))}
          />
        )}
        <LayoutChoices layout={layout} onLayout={setLayout} />
        <p className={classes.hint}>
          {stack.copies.length === 0
            ? "Nobody has this work yet."
            : "Everybody has their own numbers, the same as on the screen. The code on each page says whose it is: the keys list them."}
        </p>
      </div>
      {blocks.length > 0 && <Pages blocks={blocks} format={layout.format} />}
    </Frame>
  );
}
