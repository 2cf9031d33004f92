import { Button, Skeleton } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
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
      {preview.error && <Trouble error={preview.error} />}
      {preview.isPending && <Skeleton height={380} aria-label="Loading" />}
      {data && (
        <article className={classes.sheet}>
          <h1>Hand in {data.title}?</h1>
          <Warnings id={id} preview={data} />
          <p className={classes.record}>
            Recorded now: <strong>{percent(data.would_record.percent)}</strong> (
            {points(data.would_record.points)} of {data.would_record.of} points)
            {data.late &&
              (data.taken_off > 0
                ? `, with ${data.taken_off} % taken off because it is late`
                : ", marked as late")}
            .
          </p>
          <After preview={data} />
          <QuestionTable id={id} preview={data} />
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
            <Button component={Link} to={`/work/${id}/question/1`} variant="default" size="md">
              Back to the questions
            </Button>
          </div>
        </article>
      )}
    </Frame>
  );
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
  if (empty.length === 0 && unchecked.length === 0) return null;
  return (
    <div className={classes.warnings} data-testid="unanswered">
      {empty.length > 0 && <p className={classes.links}>Nothing entered yet: {empty}</p>}
      {unchecked.length > 0 && (
        <p className={classes.links}>Entered but not checked, so not counted: {unchecked}</p>
      )}
    </div>
  );
}

function After({ preview }: { preview: Preview }) {
  const used = preview.hand_ins_used;
  const allowed = preview.hand_ins_allowed;
  const again =
    allowed == null
      ? `You can work on and hand in again until ${moment(preview.closes)}`
      : `This is hand-in ${used + 1} of ${allowed}; it stays open until ${moment(preview.closes)}`;
  return (
    <>
      <p>
        {again}. The {preview.best_counts ? "best" : "last"} one counts, and the result shows at once.
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
          <th>Score so far</th>
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
                <Stone stone={q.stone} /> {stoneWords[q.stone]}
              </span>
            </td>
            <td>
              {points(q.points)} of {q.of}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
