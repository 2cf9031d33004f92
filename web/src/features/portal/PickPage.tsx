import { Button, Checkbox, Radio, Skeleton, Stack } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import { pickQuery } from "./queries";

/** A teacher picks assignments for the portal; the browser takes them there. */
export function PickPage() {
  const found = useQuery(pickQuery());
  return (
    <Frame trail={[{ label: "For the portal" }]}>
      <h1>Add assignments to the portal</h1>
      {found.error && <Trouble error={found.error} />}
      {found.isPending && <Skeleton height={240} aria-label="Loading the assignments" />}
      {found.data && <Pick found={found.data} />}
    </Frame>
  );
}

function Pick({ found }: { found: Schemas["PickingView"] }) {
  const [ticked, setTicked] = useState<string[]>([]);
  if (found.assignments.length === 0) {
    return (
      <p>
        Nothing has been given out in this class yet. Give an assignment out first, then come back from{" "}
        {found.portal}.
      </p>
    );
  }
  const label = (a: Schemas["PickableView"]) =>
    `${a.title}: due ${moment(a.due)}${a.points > 0 ? `, ${a.points} points` : ""}`;
  return (
    <form method="post" action="/lti/picked">
      <p>
        Each becomes a link in <strong>{found.course}</strong>, with a column in its grade book.
      </p>
      {found.several ? (
        <Checkbox.Group label="Assignments" value={ticked} onChange={setTicked}>
          <Stack gap="xs" my="sm">
            {found.assignments.map((a) => (
              <Checkbox key={a.id} value={a.id} label={label(a)} />
            ))}
          </Stack>
        </Checkbox.Group>
      ) : (
        <Radio.Group label="Assignment" value={ticked[0] ?? ""} onChange={(id) => setTicked([id])}>
          <Stack gap="xs" my="sm">
            {found.assignments.map((a) => (
              <Radio key={a.id} value={a.id} label={label(a)} />
            ))}
          </Stack>
        </Radio.Group>
      )}
      <input type="hidden" name="assignments" value={ticked.join(" ")} />
      <Button type="submit" disabled={ticked.length === 0}>
        {ticked.length > 1 ? `Add ${ticked.length} to the portal` : "Add to the portal"}
      </Button>
    </form>
  );
}
