import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../../api/client";
import { clock, daysBetween, moment } from "../../shared/when";
import classes from "./InPortal.module.css";
import { portalScoresQuery } from "./queries";

type Score = Schemas["PortalScoreView"];

/** "10:42" where that was today. */
const at = (instant: string) =>
  daysBetween(instant, new Date().toISOString()) === 0 ? clock(instant) : moment(instant);

function words({ portal, state, since }: Score): string {
  switch (state) {
    case "there":
      return `In ${portal} since ${at(since)}`;
    case "held":
      return `${portal} gets it when the results are out`;
    case "given_up":
      return `Not in ${portal}: it was tried for a week. Tell your teacher.`;
    default:
      return `Waiting for ${portal} since ${at(since)}`;
  }
}

type Props = {
  assignment: string;
  /** Within a line, not one of its own. */
  inline?: boolean;
};

/** Where the recorded score of an assignment is on its way to the portal. Nothing where no portal wants it. */
export function InPortal({ assignment, inline = false }: Props) {
  const scores = useQuery(portalScoresQuery());
  const ours = scores.data?.scores.filter((s) => s.assignment === assignment) ?? [];
  const Tag = inline ? "span" : "p";
  return ours.map((s) => (
    <Tag key={s.portal} className={classes.line} data-testid="in-portal">
      {words(s)}
    </Tag>
  ));
}
