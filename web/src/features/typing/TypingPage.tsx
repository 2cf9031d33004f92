import { Button, Skeleton } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useMemo, useState } from "react";
import { AnswerField } from "../../answers";
import { ReadFrom } from "../../answers/typed/ReadsAs";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Maths } from "../../shared/Maths";
import { Trouble } from "../../shared/Trouble";
import { typingQuery } from "./queries";
import classes from "./TypingPage.module.css";

type Task = Schemas["TypingTaskView"];

/** Ten short tasks that teach how answers are typed. Nothing is scored. */
export function TypingPage() {
  const typing = useQuery(typingQuery());
  return (
    <Frame trail={[{ label: "Typing practice" }]}>
      <h1>Typing practice</h1>
      {typing.error && <Trouble error={typing.error} />}
      {typing.isPending && <Skeleton height={420} mt={20} aria-label="Loading the tasks" />}
      {typing.data && <Tasks view={typing.data} />}
    </Frame>
  );
}

function Tasks({ view }: { view: Schemas["TypingView"] }) {
  const { task: chosen } = useSearch({ from: "/signed-in/typing" });
  // The one to begin with stays until another is chosen, also once it is done.
  const [first] = useState(() => (view.tasks.find((t) => !t.done) ?? view.tasks[0])?.id);
  const task = view.tasks.find((t) => t.id === (chosen ?? first)) ?? view.tasks[0];
  if (!task) return null;
  const place = view.tasks.indexOf(task);
  const further = [...view.tasks.slice(place + 1), ...view.tasks.slice(0, place)];
  const next = further.find((t) => !t.done);
  return (
    <>
      <p className={classes.dim} data-testid="typing-done">
        {view.done === view.tasks.length
          ? "All ten are done. You can type any of them again."
          : `${view.done} of ${view.tasks.length} done. Nothing here is scored; stop whenever you like.`}
      </p>
      <div className={classes.columns}>
        <nav aria-label="Tasks">
          <ol className={classes.list}>
            {view.tasks.map((t) => (
              <li key={t.id}>
                <Link
                  to="/typing"
                  search={{ task: t.id }}
                  aria-current={t === task ? "step" : undefined}
                  className={classes.task}
                >
                  {t.title}
                </Link>
                {t.done && <span className={classes.done}>done</span>}
              </li>
            ))}
          </ol>
        </nav>
        <OneTask key={task.id} task={task} number={place + 1} next={next} />
      </div>
    </>
  );
}

type OneProps = { task: Task; number: number; next: Task | undefined };

function OneTask({ task, number, next }: OneProps) {
  const [entry, setEntry] = useState("");
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const path = { params: { path: { task: task.id } } };
  const look = useMutation({
    mutationFn: (typed: string) => ask(api.POST("/api/typing/{task}", { ...path, body: { entry: typed } })),
    onSuccess: ({ done }) => {
      if (done) void queryClient.invalidateQueries({ queryKey: typingQuery().queryKey });
    },
  });
  const reader = useMemo(
    () => ({
      key: `typing/${task.id}`,
      read: (_: string, typed: string) =>
        ask(
          api.POST("/api/typing/{task}/read", {
            params: { path: { task: task.id } },
            body: { entry: typed },
          }),
        ),
    }),
    [task.id],
  );
  const done = look.data?.done === true;
  return (
    <form
      className={classes.sheet}
      onSubmit={(e) => {
        e.preventDefault();
        if (done && next) void navigate({ to: "/typing", search: { task: next.id } });
        else look.mutate(entry);
      }}
    >
      <h2>
        {number}. {task.title}
      </h2>
      <p>{task.words}</p>
      <div className={classes.shown} data-testid="typing-shown">
        <Maths latex={task.shown} spoken={task.speech} />
      </div>
      <ReadFrom.Provider value={reader}>
        <AnswerField
          assignment=""
          question={0}
          part={task.id}
          entry={task.entry}
          value={entry}
          disabled={false}
          invalid={false}
          members={[]}
          wrongBefore={[]}
          onChange={(given) => {
            setEntry(String(given));
            look.reset();
          }}
        />
      </ReadFrom.Provider>
      {look.error && <Trouble error={look.error} />}
      <p role="status" className={done ? classes.right : classes.said} data-testid="typing-said">
        {look.data?.words}
      </p>
      {done && next && <Button type="submit">Next task</Button>}
      {done && !next && (
        <Button component={Link} to="/">
          Back to Week
        </Button>
      )}
      {!done && (
        <Button type="submit" loading={look.isPending}>
          Look at it
        </Button>
      )}
    </form>
  );
}
