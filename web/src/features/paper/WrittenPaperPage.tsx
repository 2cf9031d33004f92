import { Button, Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { useMemo } from "react";
import type { Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { Pages } from "./Pages";
import classes from "./Paper.module.css";
import { LayoutChoices, useLayout } from "./PaperControls";
import { copyBlocks, PageHead } from "./PaperPage";
import { writtenPaperQuery } from "./queries";

/** What a student wrote on their paper copy, as their teacher sees it. */
export function WrittenPaperPage() {
  const { id, person, assignment } = useParams({
    from: "/signed-in/classes/$id/students/$person/$assignment/paper",
  });
  const found = useQuery(writtenPaperQuery(id, person, assignment));
  if (found.data) {
    return <Written written={found.data} back={`/classes/${id}/students/${person}/${assignment}`} />;
  }
  return (
    <Frame trail={[{ label: "Written on paper" }]}>
      {found.error ? (
        <Trouble heading="Written on paper" error={found.error} />
      ) : (
        <Skeleton height={480} aria-label="Loading what was written" />
      )}
    </Frame>
  );
}

function Written({ written, back }: { written: Schemas["WrittenPaperView"]; back: string }) {
  const [layout, setLayout] = useLayout();
  const blocks = useMemo(() => {
    const { copy, ink } = written;
    const head = (
      <PageHead title={written.title} of={written.class_title} due={written.due} name={copy.name} />
    );
    const marks = (question: number) => ink.find((i) => i.question === question)?.marks ?? [];
    return copyBlocks(copy, { code: copy.code, head }, layout.room, { marks });
  }, [written, layout.room]);
  return (
    <Frame
      wide
      trail={[{ label: `${written.copy.name}: ${written.title}`, to: back }, { label: "Written on paper" }]}
    >
      <div className={classes.controls}>
        <Button onClick={() => window.print()}>Print</Button>
        <LayoutChoices layout={layout} onLayout={setLayout} />
      </div>
      <Pages blocks={blocks} format={layout.format} />
    </Frame>
  );
}
