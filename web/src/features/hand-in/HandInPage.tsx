import { Button, Skeleton } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { GoalLines } from "../../shared/GoalLines";
import { stoneWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import { moment, percent, points } from "../../shared/when";
import { Stone } from "../board/components/Stone";
import classes from "./HandIn.module.css";
import { previewQuery } from "./queries";

type Preview = Schemas["PreviewView"];

export function HandInPage() {
  const { id } = useParams({ from: "/signed-in/work/$id/hand-in" });
  const preview = useQuery(previewQuery(id));
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const handIn = useMutation({
    mutationFn: () => ask(api.POST("/api/assignments/{id}/hand-in", { params: { path: { id } } })),
    onSuccess: async (receipt) => {
      await queryClient.invalidateQueries();
      await navigate({
        to: "/work/$id/receipt/$number",
        params: { id, number: String(receipt.number) },
        replace: true,
      });
    },
  });
  const data = preview.data;
  return (
    <Frame trail={[{ label: data?.title ?? "Assignment", to: `/work/${id}` }, { label: "Hand in" }]}>
      {preview.error && <Trouble heading={preview.data ? undefined : "Hand in"} error={preview.error} />}
      {preview.isPending && <Skeleton height={380} aria-label="Loading" />}
      {data && (
        <article className={classes.sheet}>
          <h1>Hand in {data.title}?</h1>
          <Warnings id={id} preview={data} />
          <p className={classes.record}>
            {data.would_record ? (
              <>
                Recorded now: <strong>{percent(data.would_record.percent)}</strong>
                {data.goal
                  ? " of the goal"
                  : ` (${points(data.would_record.points)} of ${data.would_record.of} points)`}
              </>
            ) : (
              <>What you have entered is checked when you hand in, and the score is recorded</>
            )}
            {data.late &&
              (data.taken_off > 0
                ? `, with ${data.taken_off} % taken off because it is late`
                : ", marked as late")}
            .{data.pass_mark != null && <> The pass mark is {data.pass_mark} %.</>}
          </p>
          <GoesIn preview={data} />
          <After preview={data} />
          {data.goal ? <GoalLines goal={data.goal} /> : <QuestionTable id={id} preview={data} />}
          {handIn.error && <Trouble error={handIn.error} />}
          {data.refusal && <Trouble error={new Error(data.refusal)} />}
          <div className={classes.actions}>
            <Button
              size="md"
              disabled={Boolean(data.refusal)}
              loading={handIn.isPending || handIn.isSuccess}
              onClick={() => handIn.mutate()}
            >
              Hand in
            </Button>
            <Button
              component={Link}
              to={data.goal ? `/work/${id}/goal` : `/work/${id}/question/1`}
              variant="default"
              size="md"
            >
              {backWords(data)}
            </Button>
          </div>
        </article>
      )}
    </Frame>
  );
}

function backWords(preview: Preview): string {
  if (!preview.goal) return "Back to the questions";
  return preview.goal.lines[0]?.line === "page" ? "Back to the reading" : "Back to the practice";
}

function Warnings({ id, preview }: { id: string; preview: Preview }) {
  const named = (q: Schemas["PreviewQuestion"], parts: string[]) =>
    q.parts > 1 && parts.length < q.parts ? ` (${parts.join(", ")})` : "";
  const list = (pick: (q: Schemas["PreviewQuestion"]) => string[]) =>
    preview.questions
      .filter((q) => pick(q).length > 0)
      .map((q) => (
        <Link
          key={q.question}
          to="/work/$id/question/$number"
          params={{ id, number: String(q.question + 1) }}
        >
          Question {q.question + 1}
          {named(q, pick(q))}
        </Link>
      ));
  const empty = list((q) => q.empty_parts);
  const unchecked = list((q) => q.unchecked_parts);
  const unreadable = list((q) => q.unreadable_parts);
  if (empty.length + unchecked.length + unreadable.length === 0) return null;
  return (
    <div className={classes.warnings} data-testid="unanswered">
      {empty.length > 0 && <p className={classes.links}>Nothing entered yet: {empty}</p>}
      {unreadable.length > 0 && (
        <p className={classes.links}>Can't be read as it stands, so it would earn nothing: {unreadable}</p>
      )}
      {unchecked.length > 0 && (
        <p className={classes.links}>Entered but not checked, so not counted: {unchecked}</p>
      )}
    </div>
  );
}

/** What goes to the teacher, and what is still short of what is asked for. */
function GoesIn({ preview }: { preview: Preview }) {
  const written = preview.questions.filter((q) => q.for_teacher.length > 0);
  const short = preview.questions.filter((q) => q.short.length > 0);
  const one = written.length === 1;
  return (
    <>
      {written.length > 0 && (
        <p data-testid="for-teacher">
          {one ? `Question ${(written[0]?.question ?? 0) + 1} goes` : `${written.length} questions go`} to
          your teacher; {one ? "its points are" : "their points are"} added once marked.
        </p>
      )}
      {short.flatMap((q) =>
        q.short.map((words) => (
          <p key={`${q.question}${words}`} className={classes.warnings}>
            Question {q.question + 1}: {words} It can be handed in as it is.
          </p>
        )),
      )}
    </>
  );
}

function After({ preview }: { preview: Preview }) {
  const used = preview.hand_ins_used;
  const allowed = preview.hand_ins_allowed;
  const last = allowed != null && used + 1 >= allowed;
  const again =
    allowed == null
      ? `You can work on and hand in again until ${moment(preview.closes)}`
      : `This is hand-in ${used + 1} of ${allowed}${last ? ", the last one" : `; you can hand in again until ${moment(preview.closes)}`}`;
  return (
    <>
      <p>
        {again}. The {preview.best_counts ? "best" : "last"} one counts, and the result shows{" "}
        {preview.results_at ? moment(preview.results_at) : "at once"}.{" "}
        {preview.can_take_back ? "You can take it back until then." : "It can't be taken back."}
        {preview.recorded && <> Recorded before: {percent(preview.recorded.percent)}.</>}
      </p>
      {preview.forecast && (
        <p>
          {preview.forecast.questions === 1 ? "One more right question" : "Two more right questions"} would
          make it {percent(preview.forecast.percent)}.
        </p>
      )}
    </>
  );
}

function QuestionTable({ id, preview }: { id: string; preview: Preview }) {
  return (
    <table className={classes.table}>
      <thead>
        <tr>
          <th>Question</th>
          <th>State</th>
          {preview.checks && <th>Score so far</th>}
        </tr>
      </thead>
      <tbody>
        {preview.questions.map((q) => (
          <tr key={q.question}>
            <td>
              <Link to="/work/$id/question/$number" params={{ id, number: String(q.question + 1) }}>
                Question {q.question + 1}
              </Link>
            </td>
            <td>
              <span className={classes.stone}>
                <Stone stone={q.stone} />{" "}
                {!preview.checks && q.stone === "typed" ? "answered" : stoneWords[q.stone]}
              </span>
            </td>
            {preview.checks && (
              <td>
                {points(q.points ?? 0)} of {q.of}
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
