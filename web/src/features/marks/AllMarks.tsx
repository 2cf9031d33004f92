import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { MarkLine } from "./MarkLine";
import classes from "./Marks.module.css";
import { allMarksQuery } from "./queries";

/** All that was marked in pages, page by page. */
export function AllMarks() {
  const { data } = useQuery(allMarksQuery());
  if (!data || data.marks.length === 0) return null;
  const pages = [...new Map(data.marks.map((m) => [m.skill, m.title])).entries()];
  return (
    <section className={classes.all} aria-label="Marked in pages">
      <h2>Marked in pages</h2>
      <p>
        <a href="/api/marks.csv" download>
          Marks as CSV
        </a>
      </p>
      {pages.map(([skill, title]) => (
        <section key={skill} aria-label={title}>
          <h3>
            <Link to="/read/$skill" params={{ skill }} search={{ whole: true }}>
              {title}
            </Link>
          </h3>
          <ul className={classes.list}>
            {data.marks
              .filter((m) => m.skill === skill)
              .map((mark) => (
                <MarkLine key={mark.id} mark={mark} />
              ))}
          </ul>
        </section>
      ))}
    </section>
  );
}
