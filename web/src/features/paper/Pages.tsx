import { type ReactNode, useLayoutEffect, useRef, useState } from "react";
import classes from "./Paper.module.css";

export type Format = "a4" | "letter";

/** In millimetres. What is written on is as wide on both, so that ink stays where it was put. */
const formats = { a4: [210, 297, "A4"], letter: [215.9, 279.4, "letter"] } as const;
export const WIDE = 178;
const HEAD = 13;
const FOOT = 9;
const EDGE = 12;

export type Block = {
  key: string;
  /** It begins a page of its own, of this copy. */
  starts?: { code: string; head: ReactNode };
  node: (tall: number) => ReactNode;
};

type Page = { code: string; head: ReactNode; number: number; of: number; blocks: Block[] };

/** Puts blocks on pages, each where it still fits. */
export function paginate(blocks: Block[], tall: (key: string) => number, room: number): Page[] {
  const pages: Page[] = [];
  let left = 0;
  for (const block of blocks) {
    const height = Math.min(tall(block.key), room);
    const last = pages.at(-1);
    if (!last || block.starts || height > left) {
      const { code, head } = block.starts ?? last ?? { code: "", head: null };
      const number = block.starts || !last ? 1 : last.number + 1;
      pages.push({ code, head, number, of: 0, blocks: [block] });
      left = room - height;
    } else {
      last.blocks.push(block);
      left -= height;
    }
  }
  let of = 0;
  for (const page of [...pages].reverse()) {
    of = Math.max(of, page.number);
    page.of = of;
    if (page.number === 1) of = 0;
  }
  return pages;
}

type Props = {
  blocks: Block[];
  format: Format;
  /** Only this page, from 0. */
  only?: number | undefined;
  onPages?: (count: number) => void;
};

/** Pages as they are printed: each says whose it is and which of how many. */
export function Pages({ blocks, format, only, onPages }: Props) {
  const [width, height, name] = formats[format];
  const measured = useRef<HTMLDivElement>(null);
  const frame = useRef<HTMLDivElement>(null);
  const [tall, setTall] = useState<Record<string, number>>({});
  const [zoom, setZoom] = useState(1);
  // biome-ignore lint/correctness/useExhaustiveDependencies: other blocks are other elements to be measured
  useLayoutEffect(() => {
    const box = measured.current;
    if (!box) return;
    const look = () => {
      const scale = box.getBoundingClientRect().width / WIDE;
      const all: Record<string, number> = {};
      for (const child of box.children) {
        const key = child.getAttribute("data-block");
        if (key) all[key] = Math.ceil((child.getBoundingClientRect().height / scale) * 10) / 10;
      }
      setTall((old) => (JSON.stringify(old) === JSON.stringify(all) ? old : all));
      const wide = frame.current?.parentElement?.clientWidth ?? 0;
      setZoom(Math.min(1, wide / (width * scale)));
    };
    look();
    const observer = new ResizeObserver(look);
    observer.observe(box);
    for (const child of box.children) observer.observe(child);
    const parent = frame.current?.parentElement;
    if (parent) observer.observe(parent);
    return () => observer.disconnect();
  }, [blocks, width]);
  const room = height - 2 * EDGE - HEAD - FOOT;
  const pages = paginate(blocks, (key) => tall[key] ?? 0, room);
  const count = pages.length;
  useLayoutEffect(() => onPages?.(count), [count, onPages]);
  const ready = blocks.every((b) => tall[b.key] !== undefined);
  return (
    <div ref={frame} data-testid="pages" data-ready={ready}>
      <style>{`@page { size: ${name}; margin: 0 }`}</style>
      <div className={classes.measuring}>
        <div className={classes.measured} ref={measured} aria-hidden="true" inert>
          {blocks.map((b) => (
            <div key={b.key} data-block={b.key} className={classes.block}>
              {b.node(0)}
            </div>
          ))}
        </div>
      </div>
      {pages.map((page, at) => (
        <section
          key={page.blocks[0]?.key}
          className={classes.page}
          style={{
            width: `${width}mm`,
            height: `${height}mm`,
            padding: `${EDGE}mm ${(width - WIDE) / 2}mm`,
            zoom,
          }}
          hidden={only !== undefined && only !== at}
          data-page={at + 1}
          aria-label={`${page.code}, page ${page.number} of ${page.of}`}
        >
          <header className={classes.pageHead} style={{ height: `${HEAD}mm` }}>
            {page.head}
          </header>
          <div style={{ height: `${room}mm` }}>
            {page.blocks.map((b) => {
              const own = tall[b.key] ?? 0;
              return (
                <div
                  key={b.key}
                  className={classes.block}
                  style={own > room ? { zoom: room / own } : undefined}
                >
                  {b.node(own)}
                </div>
              );
            })}
          </div>
          <footer className={classes.pageFoot} style={{ height: `${FOOT}mm` }}>
            <code>
              {page.code}
              {page.code && `/${page.number}`}
            </code>
            <span>
              Page {page.number} of {page.of}
            </span>
          </footer>
        </section>
      ))}
    </div>
  );
}
