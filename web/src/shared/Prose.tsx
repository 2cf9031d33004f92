import { createContext, type ReactNode, useContext } from "react";
import type { Schemas } from "../api/client";
import { Figure } from "./Figure";
import { Maths } from "./Maths";
import classes from "./Prose.module.css";
import { Sound } from "./Sound";

type Inline = Schemas["InlineView"];
type Block = Schemas["BlockView"];

/** What stands in the gaps of a passage. */
export const Gaps = createContext<((gap: Schemas["GapView"]) => ReactNode) | null>(null);

function Gap({ gap }: { gap: Schemas["GapView"] }) {
  const fill = useContext(Gaps);
  return fill ? fill(gap) : <Line content={gap.content} />;
}

/** One line of a question's text. */
export function Line({ content }: { content: Inline[] }) {
  return content.map((piece, i) => {
    const key = i;
    switch (piece.type) {
      case "text":
        return <span key={key}>{piece.value}</span>;
      case "strong":
        return <strong key={key}>{piece.value}</strong>;
      case "emphasis":
        return <em key={key}>{piece.value}</em>;
      case "code":
        return <code key={key}>{piece.value}</code>;
      case "math":
        return <Maths key={key} latex={piece.value} />;
      case "gap":
        return <Gap key={key} gap={piece.value} />;
      default:
        return <Maths key={key} latex={piece.value} display />;
    }
  });
}

/** A question's text. */
export function Prose({ blocks }: { blocks: Block[] }) {
  return (
    <div className={classes.prose}>
      {blocks.map((block, i) => {
        // biome-ignore lint/suspicious/noArrayIndexKey: the blocks of a question never change places
        return <OneBlock key={i} block={block} />;
      })}
    </div>
  );
}

function OneBlock({ block }: { block: Block }) {
  if (block.type === "figure") return <Figure drawing={block.drawing} />;
  if (block.type === "sound") {
    const { title, address, transcript } = block.recording;
    return <Sound title={title} address={address} transcript={<Prose blocks={transcript} />} />;
  }
  if (block.type === "code") {
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what is wide is scrolled by keyboard too
    return <pre tabIndex={0}>{block.text}</pre>;
  }
  if (block.type === "paragraph") {
    return (
      <p>
        <Line content={block.content} />
      </p>
    );
  }
  if (block.type === "list") {
    const items = block.items.map((item, i) => (
      // biome-ignore lint/suspicious/noArrayIndexKey: as above
      <li key={i}>
        <Line content={item} />
      </li>
    ));
    return block.ordered ? <ol>{items}</ol> : <ul>{items}</ul>;
  }
  return (
    <table>
      {block.head.some((cell) => cell.length > 0) && (
        <thead>
          <tr>
            {block.head.map((cell, i) =>
              cell.length > 0 ? (
                // biome-ignore lint/suspicious/noArrayIndexKey: as above
                <th key={i}>
                  <Line content={cell} />
                </th>
              ) : (
                // biome-ignore lint/suspicious/noArrayIndexKey: as above
                <td key={i} />
              ),
            )}
          </tr>
        </thead>
      )}
      <tbody>
        {block.rows.map((row, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: as above
          <tr key={i}>
            {row.map((cell, j) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: as above
              <td key={j}>
                <Line content={cell} />
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
