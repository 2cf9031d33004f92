import { Checkbox } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { suggestionsQuery } from "../course/queries";
import classes from "./SkillsPage.module.css";

/** What one would like to work on; teachers see by how many a skill is wished for. */
export function Wish({ skill }: { skill: string }) {
  const queryClient = useQueryClient();
  const { data } = useQuery(suggestionsQuery());
  const wish = useMutation({
    mutationFn: (on: boolean) =>
      ask(api.PUT("/api/skills/{skill}/wish", { params: { path: { skill } }, body: { on } })),
    onSuccess: () => queryClient.invalidateQueries({ queryKey: ["suggestions"] }),
  });
  if (!data) return null;
  return (
    <>
      <Checkbox
        className={classes.wish}
        label="I’d like to work on this in class"
        description="Your teachers see it."
        checked={wish.isPending ? wish.variables : data.wished.includes(skill)}
        onChange={(e) => wish.mutate(e.currentTarget.checked)}
      />
      {wish.error && <Trouble error={wish.error} />}
    </>
  );
}

/** A teacher's word on a skill that is suggested and not reached yet. */
export function Suggestion({ skill }: { skill: string }) {
  const { data } = useQuery(suggestionsQuery());
  const mine = data?.suggested.filter((s) => s.skill.id === skill) ?? [];
  return mine.map((s: Schemas["SuggestedSkill"]) => (
    <p key={s.id} className={classes.suggestion}>
      {s.by} suggests it{s.why ? `: “${s.why}”` : "."}
    </p>
  ));
}
