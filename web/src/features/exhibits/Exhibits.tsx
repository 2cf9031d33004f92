import { createContext, type ReactNode, useContext, useEffect, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { Prose } from "../../shared/Prose";
import { RecordingWords } from "../recordings/RecordingWords";
import { BesideBox } from "./BesideBox";
import classes from "./Exhibits.module.css";
import { ExhibitText } from "./ExhibitText";
import { ExhibitWindow } from "./ExhibitWindow";
import { findPlaces, holdPlaces, isPhone, type Place, type Places } from "./places";
import { Sheet } from "./Sheet";

type Exhibit = Schemas["ExhibitView"];

/** Where exhibits that stand beside the question are shown; none where there is no room kept for them. */
const Beside = createContext<HTMLElement | null>(null);

/** Keeps room beside what it holds for exhibits that are opened side by side. */
export function BesideRoom({ children }: { children: ReactNode }) {
  const [room, setRoom] = useState<HTMLElement | null>(null);
  return (
    <Beside.Provider value={room}>
      <div className={classes.withRoom}>
        <div className={classes.question}>{children}</div>
        <div className={classes.room} ref={setRoom} />
      </div>
    </Beside.Provider>
  );
}

type Props = {
  exhibits: Exhibit[];
  /** Under which it is remembered what is open and where it was put. */
  place: string;
};

/** Documents beside a question: folded, side by side or as a window; on a phone a sheet that is pulled up. */
export function Exhibits({ exhibits, place }: Props) {
  const [places, setPlaces] = useState<Places>(() => findPlaces(place));
  const [phone, setPhone] = useState(isPhone);
  const room = useContext(Beside);
  const buttons = useRef(new Map<string, HTMLButtonElement>());
  useEffect(() => {
    const look = () => setPhone(isPhone());
    window.addEventListener("resize", look);
    return () => window.removeEventListener("resize", look);
  }, []);
  useEffect(() => holdPlaces(place, places), [place, places]);
  if (exhibits.length === 0) return null;
  const put = (id: string, to: Partial<Place>) =>
    setPlaces((all) => ({ ...all, [id]: { ...(all[id] ?? { look: "folded" }), ...to } as Place }));
  const close = (id: string) => {
    put(id, { look: "folded" });
    buttons.current.get(id)?.focus();
  };
  const lookOf = (id: string) => places[id]?.look ?? "folded";
  const openOnes = exhibits.filter((e) => lookOf(e.id) !== "folded");
  const first = room ? "beside" : "window";
  return (
    <>
      <fieldset className={classes.tabs} aria-label="Documents for this question" data-testid="exhibits">
        <span className={classes.dim}>To look things up in:</span>
        {exhibits.map((e) => (
          <button
            key={e.id}
            type="button"
            ref={(button) => {
              if (button) buttons.current.set(e.id, button);
            }}
            aria-expanded={lookOf(e.id) !== "folded"}
            onClick={() => (lookOf(e.id) === "folded" ? put(e.id, { look: first }) : close(e.id))}
          >
            {e.title}
          </button>
        ))}
      </fieldset>
      {phone ? (
        openOnes.length > 0 && <Sheet exhibits={openOnes} onClose={close} />
      ) : (
        <>
          {openOnes
            .filter((e) => lookOf(e.id) === "beside" && room)
            .map((e) => (
              <BesideBox key={e.id} room={room}>
                <ExhibitText
                  exhibit={e}
                  onClose={() => close(e.id)}
                  other={{ words: "As a window", onGo: () => put(e.id, { look: "window" }) }}
                />
              </BesideBox>
            ))}
          {openOnes
            .filter((e) => lookOf(e.id) === "window" || !room)
            .map((e, i) => (
              <ExhibitWindow
                key={e.id}
                title={e.title}
                number={i}
                place={places[e.id]}
                onPut={(to) => put(e.id, to)}
              >
                <ExhibitText
                  exhibit={e}
                  onClose={() => close(e.id)}
                  other={
                    room ? { words: "Side by side", onGo: () => put(e.id, { look: "beside" }) } : undefined
                  }
                />
              </ExhibitWindow>
            ))}
        </>
      )}
      <div className={classes.onPaper}>
        {exhibits.map((e) => (
          <section key={e.id}>
            <h2>{e.title}</h2>
            {e.recording && <RecordingWords name={e.recording} />}
            <Prose blocks={e.text} />
          </section>
        ))}
      </div>
    </>
  );
}
