import type { Schemas } from "../api/client";
import { Line } from "./Prose";
import { spoken } from "./spoken";

/** What a button shows and what it is called: maths is put in words, for a name is text. */
export function Name({ content }: { content: Schemas["InlineView"][] }) {
  const words = spoken(content);
  if (!words) return <Line content={content} />;
  return (
    <>
      <span className="only-spoken">{words}</span>
      <span aria-hidden="true">
        <Line content={content} />
      </span>
    </>
  );
}
