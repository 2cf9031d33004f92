import { Button, Skeleton } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { api, ask, type Schemas } from "../../api/client";
import { ClassForm } from "./ClassForm";
import { ClassFrame } from "./ClassFrame";
import classes from "./Desk.module.css";
import { classQuery } from "./queries";

export function ClassSettingsPage() {
  const { id } = useParams({ from: "/signed-in/classes/$id/settings" });
  const queryClient = useQueryClient();
  const found = useQuery(classQuery(id));
  const save = useMutation({
    mutationFn: (body: Schemas["ClassSettings"]) =>
      ask(api.PUT("/api/classes/{id}", { params: { path: { id } }, body })),
    onSuccess: (now) => queryClient.setQueryData(classQuery(id).queryKey, now),
  });
  return (
    <ClassFrame id={id} here="Settings">
      {found.isPending && <Skeleton height={320} aria-label="Loading the settings" />}
      {found.data && (
        <ClassForm
          stands={found.data}
          action="Save"
          pending={save.isPending}
          error={save.error}
          saved={save.isSuccess}
          onSubmit={save.mutate}
        />
      )}
      <section className={classes.section} aria-label="Export this class">
        <h2>Export this class</h2>
        <p>
          All that is kept of this class as a zip: people, assignments, work with its scores, and what was
          done when.
        </p>
        <Button component="a" variant="default" href={`/api/classes/${id}/everything.zip`} download>
          Download the class (zip)
        </Button>
      </section>
    </ClassFrame>
  );
}
