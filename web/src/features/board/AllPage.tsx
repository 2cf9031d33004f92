import { Button, Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import { meQuery } from "../sign-in/queries";
import classes from "./BoardPage.module.css";
import { KeptBanner } from "./components/KeptBanner";
import { QuestionSheet } from "./components/QuestionSheet";
import { SavedState } from "./components/SavedState";
import { TimeLeft } from "./components/TimeLeft";
import { boardQuery } from "./queries";
import { useKeeper } from "./useKeeper";

type Board = Schemas["BoardView"] & { clockAhead: number };

/** All questions one below the other; printed, a paper to work on by hand. */
export function AllPage() {
  const { id } = useParams({ from: "/signed-in/work/$id/all" });
  const board = useQuery(boardQuery(id));
  const me = useQuery(meQuery());
  if (board.data && me.data) {
    return <All board={board.data} person={me.data.user_name} name={me.data.display_name} />;
  }
  return (
    <Frame trail={[{ label: "All on one page" }]}>
      {board.error ? (
        <Trouble heading="This assignment" error={board.error}>
          <Link to="/work/$id" params={{ id }}>
            Go to the cover sheet
          </Link>
        </Trouble>
      ) : (
        <Skeleton height={480} aria-label="Loading the questions" />
      )}
    </Frame>
  );
}

function All({ board, person, name }: { board: Board; person: string; name: string }) {
  const keeper = useKeeper(board, person);
  const navigate = useNavigate();
  const to = async (address: "/" | "/work/$id/hand-in" | "/work/$id/paper") => {
    await keeper.flush();
    await navigate({ to: address, params: { id: board.id } });
  };
  return (
    <Frame
      wide
      trail={[{ label: board.title, to: `/work/${board.id}` }, { label: "All on one page" }]}
      saved={
        <>
          {board.time_ends && board.is_open && (
            <TimeLeft ends={board.time_ends} clockAhead={board.clockAhead} onEnd={() => void to("/")} />
          )}
          <SavedState standing={keeper.standing} />
        </>
      }
    >
      <KeptBanner standing={keeper.standing} />
      <header className={classes.paperHead}>
        <p>
          {board.title} · {board.class_title} · due {moment(board.due)}
        </p>
        <p>{name}</p>
      </header>
      <div className={classes.tools}>
        <Button variant="default" onClick={() => to("/work/$id/paper")}>
          Paper copy
        </Button>
        <Button variant="default" onClick={() => to("/")}>
          Put aside
        </Button>
        <Button variant="default" onClick={() => to("/work/$id/hand-in")} disabled={!board.is_open}>
          Hand in
        </Button>
      </div>
      {!board.is_open && <p className={classes.ended}>{board.closed_because}</p>}
      <div className={classes.all}>
        {board.questions
          .filter((q) => !q.locked)
          .map((q) => (
            <div key={`${q.question}/${q.set_number}`}>
              <QuestionSheet board={board} question={q} keeper={keeper} />
            </div>
          ))}
      </div>
    </Frame>
  );
}
