import { Button } from "@mantine/core";
import type { Schemas } from "../../api/client";
import classes from "./Desk.module.css";
import { linkOf } from "./queries";

/** Who came in, with the links that sign them in once; and which lines did not. */
export function LinkList({ added }: { added: Schemas["AddedView"] }) {
  const withLink = added.added.filter((a) => a.link);
  const without = added.added.filter((a) => !a.link);
  return (
    <div role="status">
      {withLink.length > 0 && (
        <div className={classes.links}>
          <p>
            Each link signs in once, within 14 days, and lets its student choose a password. They are shown
            only now: copy them, or print this page and cut it up.
          </p>
          {withLink.map((a) => (
            <p key={a.id} data-testid="link">
              <b>{a.name}</b> ({a.user_name})
              <br />
              <code>{linkOf(a.link ?? "")}</code>
            </p>
          ))}
          <div className={classes.actions}>
            <Button
              size="xs"
              variant="default"
              onClick={() => {
                const lines = withLink.map((a) => `${a.name}\t${a.user_name}\t${linkOf(a.link ?? "")}`);
                void navigator.clipboard?.writeText(lines.join("\n"));
              }}
            >
              Copy as a table
            </Button>
            <Button size="xs" variant="default" onClick={() => window.print()}>
              Print
            </Button>
          </div>
        </div>
      )}
      {without.length > 0 && (
        <p className={classes.links}>
          {without.map((a) => a.name).join(", ")} had an account already, and{" "}
          {without.length === 1 ? "is" : "are"} in the class now.
        </p>
      )}
      {added.refused.length > 0 && (
        <div className={classes.refused}>
          <p>
            {added.refused.length === 1 ? "One line was" : `${added.refused.length} lines were`} not taken:
          </p>
          <ul>
            {added.refused.map((r) => (
              <li key={r.line}>
                Line {r.line}
                {r.text && `, “${r.text}”`}: {r.why}
              </li>
            ))}
          </ul>
        </div>
      )}
    </div>
  );
}
