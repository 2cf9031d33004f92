import { lazy, Suspense, useRef } from "react";
import type { Schemas } from "../../api/client";
import { Prose } from "../../shared/Prose";
import classes from "./Exhibits.module.css";
import { Search } from "./Search";

const RecordingInside = lazy(() => import("../recordings/RecordingInside"));

type Exhibit = Schemas["ExhibitView"];

type Props = {
  exhibit: Exhibit;
  onClose: () => void;
  other: { words: string; onGo: () => void } | undefined;
};

/** A document with its search. */
export function ExhibitText({ exhibit, onClose, other }: Props) {
  const text = useRef<HTMLElement>(null);
  return (
    <section className={classes.document} aria-label={exhibit.title} data-exhibit={exhibit.id}>
      <header>
        <h2>{exhibit.title}</h2>
        {other && (
          <button type="button" onClick={other.onGo}>
            {other.words}
          </button>
        )}
        <button type="button" onClick={onClose} aria-label={`Collapse ${exhibit.title}`}>
          Collapse
        </button>
      </header>
      {exhibit.text.length > 0 && <Search within={text} name={exhibit.title} />}
      <section
        className={classes.text}
        ref={text}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls can be scrolled by key
        tabIndex={0}
        aria-label={`${exhibit.title}, text`}
      >
        {exhibit.recording && (
          <Suspense fallback={<p>One moment…</p>}>
            <RecordingInside name={exhibit.recording} heading={false} />
          </Suspense>
        )}
        <Prose blocks={exhibit.text} />
      </section>
    </section>
  );
}
