import type { ReactNode } from "react";
import { Figure } from "../../shared/Figure";
import { Gaps, Line, Prose } from "../../shared/Prose";
import { shapes } from "../counters/Field";
import type { Entry, Kind, Label } from "../kinds";
import { PictureArea } from "../picture/Picture";
import { plainOf } from "../written";
import classes from "./OnPaper.module.css";

type Of<K extends Kind> = Extract<Entry, { type: K }>;

const upper = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);

/** A, B, C… */
const letter = (i: number) => String.fromCharCode(65 + i);

function Do({ children }: { children: ReactNode }) {
  return <p className={classes.ask}>{children}</p>;
}

/** A line to write on, with what stands before and after it. */
type LineProps = {
  label: string;
  unit?: string | null | undefined;
  wanted?: string | null | undefined;
  short?: boolean;
};

function AnswerLine({ label, unit, wanted, short }: LineProps) {
  return (
    <p className={classes.answer} data-short={short}>
      <span>{label}</span>
      <span className={classes.line} />
      {unit && <span>{unit}</span>}
      {wanted && <em>({wanted})</em>}
    </p>
  );
}

function Lettered({ items }: { items: Label[] }) {
  return (
    <ul className={classes.lettered}>
      {items.map((item, i) => (
        <li key={item.id}>
          <b>{letter(i)}</b> <Line content={item.text} />
        </li>
      ))}
    </ul>
  );
}

function Ruled({ lines }: { lines: number }) {
  return (
    <div className={classes.ruled} aria-hidden="true">
      {Array.from({ length: lines }, (_, n) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines are all alike
        <div key={n} />
      ))}
    </div>
  );
}

function Inline({ entry }: { entry: Of<"inline"> }) {
  const lists = entry.gaps.filter((g) => !g.field);
  const number = (id: string) => lists.findIndex((g) => g.id === id) + 1;
  const fill = (at: { id: string }) => {
    const gap = entry.gaps.find((g) => g.id === at.id);
    return (
      <span className={classes.gap}>
        <span className={classes.line} />
        {gap?.field?.unit ?? (gap && !gap.field && lists.length > 1 ? <sub>{number(gap.id)}</sub> : "")}
      </span>
    );
  };
  return (
    <>
      <Gaps.Provider value={fill}>
        <Prose blocks={entry.passage} />
      </Gaps.Provider>
      {lists.map((gap) => (
        <p key={gap.id} className={classes.choices}>
          {lists.length > 1 && `Gap ${number(gap.id)}: `}one of
          {gap.choices.map((c, i) => (
            <span key={c.id}>
              {i > 0 && " · "}
              <Line content={c.text} />
            </span>
          ))}
        </p>
      ))}
    </>
  );
}

function Passage({ blocks }: { blocks: Of<"gap_match">["passage"] }) {
  const fill = () => (
    <span className={classes.gap}>
      <span className={classes.line} />
    </span>
  );
  return (
    <Gaps.Provider value={fill}>
      <Prose blocks={blocks} />
    </Gaps.Provider>
  );
}

function Grid({ rows, columns }: { rows: Label[]; columns: Label[] }) {
  return (
    <table className={classes.grid}>
      <thead>
        <tr>
          <td />
          {columns.map((c) => (
            <th key={c.id} scope="col">
              <Line content={c.text} />
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.id}>
            <th scope="row">
              <Line content={row.text} />
            </th>
            {columns.map((c) => (
              <td key={c.id} />
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Scale({ entry }: { entry: Of<"slider"> }) {
  return (
    <>
      <svg className={classes.scale} viewBox="0 0 440 34" aria-hidden="true">
        <path d="M20 10H420" stroke="#000" />
        {Array.from({ length: 11 }, (_, n) => {
          const x = 20 + n * 40;
          return <path key={x} d={`M${x} ${n % 5 ? 7 : 4}V${n % 5 ? 13 : 16}`} stroke="#000" />;
        })}
        {[0, 0.5, 1].map((t) => (
          <text key={t} x={20 + t * 400} y={30} textAnchor="middle" fontSize="12">
            {Number((entry.from + t * (entry.to - entry.from)).toFixed(6))}
          </text>
        ))}
      </svg>
      <AnswerLine label={entry.label} unit={entry.unit} short />
    </>
  );
}

function Matrix({ entry }: { entry: Of<"matrix"> }) {
  const { size } = entry;
  if (!size) {
    return (
      <>
        <AnswerLine label={entry.label} />
        <div className={classes.room} />
      </>
    );
  }
  const name = (names: string[], i: number) => names[i] ?? "";
  return (
    <table className={classes.matrix}>
      {entry.column_names.length > 0 && (
        <thead>
          <tr>
            {entry.row_names.length > 0 && <td />}
            {entry.column_names.map((c) => (
              <th key={c}>{c}</th>
            ))}
          </tr>
        </thead>
      )}
      <tbody>
        {Array.from({ length: size.rows }, (_, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: rows are all alike
          <tr key={i}>
            {entry.row_names.length > 0 && <th>{name(entry.row_names, i)}</th>}
            {Array.from({ length: size.columns }, (_, j) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: cells are all alike
              <td key={j} />
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Counters({ entry }: { entry: Of<"counters"> }) {
  const what = {
    cross_out: "Cross out.",
    take_away: "Cross out what is taken away.",
    add: "Draw what is added.",
    group: "Draw a ring round each group.",
  }[entry.action];
  return (
    <>
      <Do>
        {entry.label}: {what}
      </Do>
      <div className={classes.counters} aria-hidden="true">
        {Array.from({ length: entry.start }, (_, n) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: things are all alike
          <svg key={n} viewBox="0 0 40 40" width="34" height="34" aria-hidden="true">
            <path d={shapes[entry.thing]} fill="none" stroke="#000" strokeWidth="1.5" />
          </svg>
        ))}
      </div>
    </>
  );
}

function Fraction({ entry }: { entry: Of<"fraction"> }) {
  return (
    <p className={classes.answer}>
      <span>{entry.field.label}</span>
      {entry.mixed && <span className={classes.box} />}
      <span className={classes.fraction}>
        <span className={classes.box} />
        <span className={classes.box} />
      </span>
      {entry.field.unit && <span>{entry.field.unit}</span>}
    </p>
  );
}

const drawn: Record<string, string> = {
  point: "mark the point",
  line: "draw the line",
  segment: "draw the segment",
  circle: "draw the circle",
  parabola: "draw the parabola",
  half_plane: "shade the side",
  interval: "mark the interval, ends filled where they belong to it",
  sketch: "sketch the curve",
};

/** Where an answer is written on paper, whatever its kind. */
export function OnPaper({ entry }: { entry: Entry }) {
  switch (entry.type) {
    case "typed":
      return <AnswerLine label={entry.label} unit={entry.unit} wanted={entry.wanted} />;
    case "fraction":
      return <Fraction entry={entry} />;
    case "choice":
      return (
        <>
          <Do>{entry.several ? "Tick all that are right." : "Tick one."}</Do>
          <ul className={classes.ticks}>
            {entry.choices.map((c, i) => (
              <li key={c.id}>
                <span className={classes.tick} />
                <b>{letter(i)}</b>
                <span>
                  <Line content={c.text} />
                </span>
              </li>
            ))}
          </ul>
        </>
      );
    case "inline":
      return <Inline entry={entry} />;
    case "gap_match":
      return (
        <>
          <Do>Write the letters in the gaps{entry.reuse ? "; a letter may be used more than once" : ""}.</Do>
          <Lettered items={entry.tiles} />
          <Passage blocks={entry.passage} />
        </>
      );
    case "match":
      return (
        <>
          <Do>{entry.several ? "Tick all that go together." : "Tick one in each row."}</Do>
          <Grid rows={entry.rows} columns={entry.columns} />
        </>
      );
    case "associate":
      return (
        <>
          <Do>Write the letters that go together.</Do>
          <Lettered items={entry.items} />
          <p className={classes.answer}>
            {Array.from({ length: entry.pairs }, (_, n) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: pairs are all alike
              <span key={n} className={classes.pair}>
                <span className={classes.box} />–<span className={classes.box} />
              </span>
            ))}
          </p>
        </>
      );
    case "group":
      return (
        <>
          <Do>Write the letters in the groups.</Do>
          <Lettered items={entry.items} />
          {entry.groups.map((g) => (
            <p key={g.id} className={classes.answer}>
              <span>
                <Line content={g.text} />
              </span>
              <span className={classes.line} />
            </p>
          ))}
        </>
      );
    case "order":
      return (
        <>
          <Do>
            {entry.top && entry.bottom
              ? `Number them from ${entry.top} to ${entry.bottom}.`
              : "Number them in their order."}
          </Do>
          <ul className={classes.ticks}>
            {entry.steps.map((s) => (
              <li key={s.id}>
                <span className={classes.box} />
                <span>
                  <Line content={s.text} />
                </span>
              </li>
            ))}
          </ul>
        </>
      );
    case "hot_text":
      return (
        <>
          <Do>{entry.words ? "Underline each word." : "Underline what is asked for."}</Do>
          <Prose blocks={entry.passage} />
        </>
      );
    case "slider":
      return <Scale entry={entry} />;
    case "matrix":
      return <Matrix entry={entry} />;
    case "hotspot":
    case "graphic_order":
      return (
        <>
          <Do>
            {entry.type === "graphic_order"
              ? "Number the places in their order."
              : entry.several
                ? "Put a cross in every place asked for."
                : "Cross one place."}
          </Do>
          <PictureArea picture={entry.picture}>{() => <span className={classes.spot} />}</PictureArea>
        </>
      );
    case "graphic_gap_match":
      return (
        <>
          <Do>
            Write the letters at the places{entry.reuse ? "; a letter may be used more than once" : ""}.
          </Do>
          <Lettered items={entry.tiles} />
          <PictureArea picture={entry.picture}>{() => <span className={classes.spot} />}</PictureArea>
        </>
      );
    case "place":
      return (
        <>
          <Do>{entry.one_per_column ? "Mark one place in each column." : "Mark the places."}</Do>
          <Grid rows={entry.rows} columns={entry.columns} />
        </>
      );
    case "counters":
      return <Counters entry={entry} />;
    case "plane":
      return (
        <>
          <Do>{entry.objects.map((o) => `${upper(o.label)}: ${drawn[o.kind] ?? "draw it"}`).join("; ")}.</Do>
          <Figure drawing={entry.drawing} />
        </>
      );
    case "extended_text":
      return (
        <>
          <Do>
            {entry.label}
            {entry.least_words ? `, at least ${entry.least_words} words` : ""}
            {entry.most_words ? `, at most ${entry.most_words} words` : ""}
          </Do>
          {entry.start.length > 0 && plainOf(entry.start).trim() !== "" && <p>{plainOf(entry.start)}</p>}
          <Ruled lines={Math.min(24, Math.max(6, Math.ceil((entry.most_words ?? 80) / 10)))} />
        </>
      );
    case "program":
      return (
        <>
          <Do>
            {entry.label}, in JavaScript
            {Object.keys(entry.files).length > 0 ? "; the files it reads are printed here" : ""}.
          </Do>
          {Object.entries(entry.files).map(([name, text]) => (
            <figure key={name} className={classes.listing}>
              <figcaption>{name}</figcaption>
              <pre>{text}</pre>
            </figure>
          ))}
          {entry.start.trim() !== "" && <pre className={classes.listing}>{entry.start}</pre>}
          <Ruled lines={14} />
        </>
      );
    case "recording":
      return (
        <Do>
          {entry.label}: said to the teacher, at most {entry.most_seconds} seconds.
        </Do>
      );
  }
}
