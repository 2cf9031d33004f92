import { Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import { ClassFrame } from "./ClassFrame";
import classes from "./Desk.module.css";
import { actsQuery } from "./queries";

/** What teachers did in a class that touches a student's work, score or account. */
export function ActsPage() {
  const { id } = useParams({ from: "/signed-in/classes/$id/acts" });
  const acts = useQuery(actsQuery(id));
  return (
    <ClassFrame id={id} here="Activity log">
      {acts.error && <Trouble error={acts.error} />}
      {acts.isPending && <Skeleton height={320} aria-label="Loading what was done" />}
      {acts.data && acts.data.acts.length === 0 && (
        <p>Nothing yet. Whatever a teacher does to a student’s work, score or account is listed here.</p>
      )}
      {acts.data && acts.data.acts.length > 0 && (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by keyboard
        <section className={classes.scroll} aria-label="Activity log" tabIndex={0}>
          <table className={classes.table}>
            <thead>
              <tr>
                <th scope="col">When</th>
                <th scope="col">Who</th>
                <th scope="col">What</th>
                <th scope="col">Student</th>
                <th scope="col">Assignment</th>
                <th scope="col">Why</th>
              </tr>
            </thead>
            <tbody>
              {acts.data.acts.map((act) => (
                <tr key={`${act.at}${act.did}${act.student}`}>
                  <td>{moment(act.at)}</td>
                  <td>{act.by}</td>
                  <td>{act.did}</td>
                  <td>{act.student}</td>
                  <td>{act.assignment}</td>
                  <td>{act.why}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
    </ClassFrame>
  );
}
