import { useQuery } from "@tanstack/react-query";
import { MathfieldElement } from "mathlive";
import "mathlive/fonts.css";
import { useContext, useEffect, useRef, useState } from "react";
import { api, ask } from "../../api/client";
import { readQuery } from "../../features/board/queries";
import classes from "./Field.module.css";
import { ReadFrom } from "./ReadsAs";

// Fonts come with the application, and nothing clicks.
MathfieldElement.fontsDirectory = null;
MathfieldElement.soundsDirectory = null;

type Props = {
  assignment: string;
  question: number;
  part: string;
  label: string;
  /** What stands in the line when the field is opened. */
  entry: string;
  onChange: (entry: string) => void;
};

/** Maths built up with a keyboard on the screen. The line below keeps what it comes to; what cannot be typed is said. */
export default function Built({ assignment, question, part, label, entry, onChange }: Props) {
  const place = useRef<HTMLDivElement>(null);
  const field = useRef<MathfieldElement | null>(null);
  const [first] = useState(entry);
  const [problem, setProblem] = useState("");
  const from = useContext(ReadFrom);
  const read = useQuery({
    ...(from
      ? {
          queryKey: ["read", from.key, part, first],
          queryFn: () => from.read(part, first),
          staleTime: Number.POSITIVE_INFINITY,
        }
      : readQuery(assignment, question, part, first)),
    enabled: first.trim() !== "",
  });
  const start = first.trim() === "" ? "" : read.data?.reads_as;
  const change = useRef(onChange);
  change.current = onChange;
  const turn = useRef(0);
  useEffect(() => {
    const home = place.current;
    if (!home || start === undefined || field.current) return;
    const made = new MathfieldElement();
    made.smartSuperscript = false;
    made.mathVirtualKeyboardPolicy = "auto";
    made.setAttribute("aria-label", label);
    made.value = start;
    made.addEventListener("input", () => {
      turn.current += 1;
      const mine = turn.current;
      const latex = made.value;
      ask(api.POST("/api/built", { body: { latex } }))
        .then((said) => {
          // An older answer than what stands there now says nothing.
          if (mine !== turn.current) return;
          setProblem(said.problem ?? "");
          if (said.entry != null) change.current(said.entry);
        })
        .catch(() => setProblem("The server can't be reached. What stands in the line is kept."));
    });
    home.replaceChildren(made);
    field.current = made;
    // Whoever went on to another gap with it open stays there.
    if (!(document.activeElement instanceof HTMLInputElement)) made.focus();
  }, [start, label]);
  return (
    <div className={classes.built} data-testid={`built-${part}`}>
      <div ref={place} />
      {first.trim() !== "" && read.data?.problem && (
        <p className={classes.problem}>
          What you typed can’t be read yet. It is kept until you build something.
        </p>
      )}
      <p className={classes.problem} aria-live="polite">
        {problem}
      </p>
    </div>
  );
}
