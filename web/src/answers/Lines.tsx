import { Line } from "../shared/Prose";
import type { GivenProps } from "./kinds";

/** What was chosen, joined or put, line by line. */
export function Lines({ verdict }: GivenProps) {
  return verdict.given.map((line, i) => (
    // biome-ignore lint/suspicious/noArrayIndexKey: what was given never changes
    <div key={i}>
      <Line content={line} />
    </div>
  ));
}
