import "@mantine/core/styles/Pill.css";
import "@mantine/core/styles/PillsInput.css";
import { MultiSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../../api/client";
import { bankQuery } from "../bank/queries";
import { bankRecordingsQuery } from "../recordings/queries";
import type { Settings } from "./queries";
import { Count, Pick, Sentence } from "./Sentence";
import classes from "./Sentence.module.css";

type Props = {
  settings: Settings;
  faults: Schemas["FaultView"][];
  onChange: (to: Partial<Settings>) => void;
};

/** What practice or reading asks for, where it has no questions of its own. */
export function GoalSentence({ settings: s, faults, onChange }: Props) {
  const bank = useQuery(bankQuery());
  const recordings = useQuery(bankRecordingsQuery());
  const reads = s.kind === "reading";
  const goal: Schemas["SetGoal"] = s.goal ?? {
    goal: reads ? "read" : "level",
    skills: [],
    score: 80,
    right: 10,
  };
  const set = (to: Partial<Schemas["SetGoal"]>) => onChange({ goal: { ...goal, ...to } });
  const skills = (bank.data?.skills ?? []).filter((k) => !reads || k.has_page);
  return (
    <section className={classes.group} aria-label="The goal">
      <h2>{reads ? "What is read" : "The goal"}</h2>
      {!reads && (
        <Sentence faults={faults} fields={["goal"]}>
          <Pick
            label="Goal"
            value={s.goal == null || s.goal.goal === "read" ? "" : s.goal.goal}
            choices={{
              "": "The questions below are done.",
              level: "Each skill reaches",
              right: "This many are right first time:",
              start: "The starting point of this class is done.",
              watch: "A recording is played to its end, its stops answered:",
            }}
            onChange={(to) =>
              to === ""
                ? onChange({ goal: null })
                : set({
                    goal: to,
                    score: goal.score || 80,
                    right: goal.right || 10,
                    skills: to === "start" || to === "watch" ? [] : goal.skills,
                  })
            }
          />
          {s.goal == null || goal.goal === "start" ? null : goal.goal === "watch" ? (
            <Pick
              label="Recording"
              value={goal.recording ?? ""}
              choices={Object.fromEntries([
                ["", "choose one"],
                ...(recordings.data?.recordings ?? []).map((r) => [r.id, r.title] as const),
              ])}
              onChange={(id) =>
                set({
                  recording: id || null,
                  title: recordings.data?.recordings.find((r) => r.id === id)?.title ?? "",
                })
              }
            />
          ) : goal.goal === "right" ? (
            <Count
              label="Right first time"
              value={goal.right}
              from={10}
              onChange={(n) => set({ right: n ?? 10 })}
            />
          ) : (
            <>
              <Count
                label="Score to reach"
                value={goal.score}
                from={80}
                onChange={(n) => set({ score: n ?? 80 })}
              />{" "}
              of 100.
            </>
          )}
        </Sentence>
      )}
      {(reads || (s.goal != null && goal.goal !== "start" && goal.goal !== "watch")) && (
        <MultiSelect
          label={reads ? "Pages" : "Skills"}
          searchable
          data={skills.map((k) => ({ value: k.id, label: k.title }))}
          value={goal.skills}
          onChange={(chosen) => set({ skills: chosen })}
        />
      )}
      {reads && (
        <Sentence faults={faults} fields={["goal"]}>
          {null}
        </Sentence>
      )}
    </section>
  );
}
