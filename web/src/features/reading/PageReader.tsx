import { Button, NativeSelect, SegmentedControl } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect, useRef } from "react";
import type { Schemas } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { Terms } from "../cards/Terms";
import { PageMarks } from "../marks/PageMarks";
import { PageBlocks, spokenPieces } from "./PageBlocks";
import { keepPlace, pageQuery } from "./queries";
import classes from "./Reading.module.css";
import { useReadAloud } from "./useReadAloud";

type Page = Schemas["PageView"];

type Props = {
  page: Page;
  step: number;
  whole: boolean;
  onStep: (step: number) => void;
  onWhole: (whole: boolean) => void;
  /** In the margin of a board: narrow, and without what leads away. */
  beside?: boolean;
};

/** A page, step by step or whole. */
export function PageReader({ page, step, whole, onStep, onWhole, beside = false }: Props) {
  const last = page.steps.length - 1;
  const shown = whole ? page.steps.map((_, n) => n) : [Math.min(step, last)];
  const aloud = useReadAloud();
  const { stop } = aloud;
  const keep = useKeep(page);
  const { mutate } = keep;
  const head = useRef<HTMLHeadingElement>(null);
  const moved = useRef(false);
  const root = useRef<HTMLDivElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another step is another text
  useEffect(() => {
    stop();
    if (moved.current) head.current?.focus();
  }, [step, whole, stop]);
  const to = (next: number) => {
    moved.current = true;
    mutate({ step: next, read: false });
    onStep(next);
  };
  const atEnd = whole || shown[0] === last;
  return (
    <div ref={root} className={classes.reader} data-beside={beside}>
      <div className={classes.tools}>
        <SegmentedControl
          aria-label="How to read"
          size="xs"
          value={whole ? "whole" : "steps"}
          onChange={(value) => onWhole(value === "whole")}
          data={[
            { value: "steps", label: "In steps" },
            { value: "whole", label: "Whole page" },
          ]}
        />
        <Aloud
          aloud={aloud}
          start={() => aloud.start(shown.flatMap((n) => spokenPieces(page.steps[n], n)))}
        />
      </div>
      {aloud.trouble && (
        <p className={classes.caution} role="status">
          {aloud.trouble}
        </p>
      )}
      {shown.map((n) => {
        const one = page.steps[n];
        if (!one) return null;
        return (
          <section key={n} aria-label={one.title} className={classes.step} data-recap={n === last}>
            <p className={classes.dim}>
              Step {n + 1} of {page.steps.length}
            </p>
            <h2 ref={whole ? undefined : head} tabIndex={-1} data-aloud={aloud.at === `${n}/title`}>
              {one.title}
            </h2>
            <PageBlocks skill={page.skill.id} step={one} number={n} aloud={aloud.at} beside={beside} />
          </section>
        );
      })}
      {atEnd && !beside && <Terms skill={page.skill.id} terms={page.terms} />}
      {keep.error && <Trouble error={keep.error} />}
      <div className={classes.ways}>
        {!whole && step > 0 && (
          <Button variant="default" onClick={() => to(step - 1)}>
            Back
          </Button>
        )}
        {!atEnd && (
          <Button variant={beside ? "default" : "filled"} onClick={() => to(step + 1)}>
            Next step
          </Button>
        )}
        {atEnd && !page.read_at && (
          <Button
            variant={beside ? "default" : "filled"}
            loading={keep.isPending}
            onClick={() => mutate({ step: last, read: true })}
          >
            I have read it
          </Button>
        )}
      </div>
      {!beside && <PageMarks skill={page.skill.id} shown={shown.join()} root={root} />}
      {atEnd && page.read_at && !beside && <After page={page} />}
      {atEnd && page.read_at && beside && <p className={classes.dim}>Read to the end.</p>}
    </div>
  );
}

/** Keeps where the page was left. */
function useKeep(page: Page) {
  const queryClient = useQueryClient();
  const skill = page.skill.id;
  return useMutation({
    mutationFn: ({ step, read }: { step: number; read: boolean }) => keepPlace(skill, step, read),
    retry: 5,
    onSuccess: async (_, { read }) => {
      if (!read) return;
      await queryClient.invalidateQueries({ queryKey: pageQuery(skill).queryKey });
      for (const key of ["week", "skills", "cover"]) void queryClient.invalidateQueries({ queryKey: [key] });
    },
  });
}

type AloudProps = { aloud: ReturnType<typeof useReadAloud>; start: () => void };

function Aloud({ aloud, start }: AloudProps) {
  return (
    <fieldset className={classes.aloud}>
      <legend className="only-spoken">Reading aloud</legend>
      {aloud.at === null ? (
        <Button size="compact-sm" variant="default" onClick={start}>
          Read aloud
        </Button>
      ) : (
        <>
          <Button size="compact-sm" variant="default" onClick={aloud.paused ? aloud.goOn : aloud.hold}>
            {aloud.paused ? "Resume" : "Pause"}
          </Button>
          <Button size="compact-sm" variant="default" onClick={aloud.stop}>
            Stop reading
          </Button>
        </>
      )}
      <NativeSelect
        aria-label="Pace of reading aloud"
        size="xs"
        value={String(aloud.pace)}
        onChange={(e) => aloud.setPace(Number(e.currentTarget.value))}
        data={[
          { value: "0.8", label: "slower" },
          { value: "1", label: "usual pace" },
          { value: "1.25", label: "faster" },
        ]}
      />
    </fieldset>
  );
}

/** Where to go from a page that was read. */
function After({ page }: { page: Page }) {
  return (
    <div className={classes.after} data-testid="after-reading">
      <p>
        <strong>Read to the end.</strong> It can be opened again at any time.
      </p>
      {page.set_by.map((set) => (
        <p key={set.assignment}>
          {set.title}: {set.pages_read} of {set.pages} {set.pages === 1 ? "page" : "pages"} read.{" "}
          {set.next ? (
            <Link to="/read/$skill" params={{ skill: set.next }} search={{}}>
              Next page
            </Link>
          ) : (
            !set.handed_in && (
              <Link to="/work/$id/hand-in" params={{ id: set.assignment }}>
                Hand in the reading
              </Link>
            )
          )}
        </p>
      ))}
      <p>
        <Link to="/skills" search={{ skill: page.skill.id }}>
          {page.skill.title} among your skills, and practice on it
        </Link>
      </p>
    </div>
  );
}
