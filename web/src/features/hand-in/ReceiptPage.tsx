import { Button, Skeleton } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { api, ask } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { moment, percent, points } from "../../shared/when";
import { InPortal } from "../portal/InPortal";
import classes from "./HandIn.module.css";
import { receiptQuery } from "./queries";

export function ReceiptPage() {
  const { id, number } = useParams({ from: "/signed-in/work/$id/receipt/$number" });
  const receipt = useQuery(receiptQuery(id, Number(number)));
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const takeBack = useMutation({
    mutationFn: () => ask(api.POST("/api/assignments/{id}/take-back", { params: { path: { id } } })),
    onSuccess: async () => {
      await queryClient.invalidateQueries();
      await navigate({ to: "/work/$id", params: { id } });
    },
  });
  const data = receipt.data;
  return (
    <Frame
      trail={[{ label: data?.title ?? "Assignment", to: `/work/${id}` }, { label: `Receipt ${number}` }]}
    >
      {receipt.error && <Trouble heading={receipt.data ? undefined : "This receipt"} error={receipt.error} />}
      {receipt.isPending && <Skeleton height={240} aria-label="Loading the receipt" />}
      {data && (
        <article className={classes.sheet}>
          <p className={classes.dim}>
            {data.class_title} · receipt {data.hand_in.number}
          </p>
          <h1>{data.taken_back ? "Taken back" : "Handed in"}</h1>
          <p className={classes.record}>
            {data.title}, {moment(data.hand_in.at)}
            {data.hand_in.late ? ", late" : ""}
            {data.hand_in.by_time ? ", when time ran out" : ""}
            {data.hand_in.score && (
              <>
                : <strong>{percent(data.hand_in.score.percent)}</strong>
                {data.towards_goal
                  ? " of the goal"
                  : ` (${points(data.hand_in.score.points)} of ${data.hand_in.score.of} points)`}
              </>
            )}
          </p>
          {!data.hand_in.score && data.results_at && (
            <p>
              Results show {moment(data.results_at)}. You will find them here, and Week will say when they are
              out.
            </p>
          )}
          {data.recorded && (
            <p>
              Your recorded score is {percent(data.recorded.percent)}; the{" "}
              {data.best_counts ? "best" : "last"} hand-in counts.{" "}
              {data.can_carry_on &&
                data.hand_ins_left !== 0 &&
                `You can work on and hand in again until ${moment(data.closes)}.`}
            </p>
          )}
          <InPortal assignment={id} />
          {data.hand_in.score && data.hand_in.score.waiting > 0 && (
            <p>
              {points(data.hand_in.score.waiting)} of these points wait for your teacher. Week will say when
              they are marked.
            </p>
          )}
          {takeBack.error && <Trouble error={takeBack.error} />}
          <div className={classes.actions}>
            <Button component={Link} to="/">
              Back to Week
            </Button>
            {data.hand_in.score && !data.taken_back && (
              <Button component={Link} to={`/work/${id}/result`} variant="default">
                See the result
              </Button>
            )}
            {data.can_take_back && !data.taken_back && (
              <Button variant="default" loading={takeBack.isPending} onClick={() => takeBack.mutate()}>
                Take back
              </Button>
            )}
          </div>
        </article>
      )}
    </Frame>
  );
}
