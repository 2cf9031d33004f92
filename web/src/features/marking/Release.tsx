import { Button, SegmentedControl } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, ask } from "../../api/client";
import { findSpare, holdSpare } from "../../shared/spare";
import { Trouble } from "../../shared/Trouble";
import classes from "./Marking.module.css";

const place = (assignment: string) => `green-slate/release/${assignment}`;

/** Whether points are kept to be given out together; remembered an assignment. */
export const isKept = (assignment: string, kept: number) =>
  kept > 0 || findSpare<boolean>(place(assignment)) === true;

type Props = { assignment: string; kept: number; keep: boolean; onKeep: (keep: boolean) => void };

/** When students see their points: at once, or all together. */
export function Release({ assignment, kept, keep, onKeep }: Props) {
  const queryClient = useQueryClient();
  const release = useMutation({
    mutationFn: () => ask(api.POST("/api/marking/{id}/release", { params: { path: { id: assignment } } })),
    onSuccess: () => queryClient.invalidateQueries({ queryKey: ["marking"] }),
  });
  const left = release.data?.handed_in_since ?? [];
  return (
    <div className={classes.release}>
      <span id="release-when">Students see their points</span>
      <SegmentedControl
        aria-labelledby="release-when"
        size="sm"
        value={keep ? "together" : "once"}
        onChange={(value) => {
          holdSpare(place(assignment), value === "together");
          onKeep(value === "together");
        }}
        data={[
          { value: "once", label: "at once" },
          { value: "together", label: "all together" },
        ]}
      />
      {kept > 0 && (
        <>
          <span role="status">
            {kept === 1 ? "1 answer is held back." : `${kept} answers are held back.`}
          </span>
          <Button size="xs" variant="default" loading={release.isPending} onClick={() => release.mutate()}>
            {kept === 1 ? "Release it" : `Release all ${kept}`}
          </Button>
        </>
      )}
      {release.data && left.length === 0 && kept === 0 && <span role="status">Released.</span>}
      {left.length > 0 && (
        <p role="alert">
          Still kept, since they have handed in again: {left.join(", ")}. Look at them again.
        </p>
      )}
      {release.error && <Trouble error={release.error} />}
    </div>
  );
}
