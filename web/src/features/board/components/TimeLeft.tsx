import { useEffect, useRef, useState } from "react";
import classes from "./TimeLeft.module.css";

type Props = {
  ends: string;
  /** Milliseconds that this computer's clock is ahead of the server's. */
  clockAhead: number;
  onEnd: () => void;
};

const announced = [10, 5, 1];

/** Time left by the server's clock; said aloud at ten, five and one minutes. */
export function TimeLeft({ ends, clockAhead, onEnd }: Props) {
  const left = () => Math.max(0, Math.ceil((new Date(ends).getTime() - (Date.now() - clockAhead)) / 1000));
  const [seconds, setSeconds] = useState(left);
  const [spoken, setSpoken] = useState("");
  const before = useRef(seconds);
  const asked = useRef(0);
  useEffect(() => {
    const timer = window.setInterval(() => {
      const now = left();
      for (const minutes of announced) {
        if (before.current > minutes * 60 && now <= minutes * 60) {
          setSpoken(minutes === 1 ? "One minute left." : `${minutes} minutes left.`);
        }
      }
      before.current = now;
      setSeconds(now);
      // The server decides that it is over: asked until it says so.
      if (now === 0 && Date.now() - asked.current > 3000) {
        asked.current = Date.now();
        setSpoken("Time is up.");
        onEnd();
      }
    }, 500);
    return () => window.clearInterval(timer);
  });
  const minutes = Math.floor(seconds / 60);
  const rest = String(seconds % 60).padStart(2, "0");
  return (
    <span className={classes.time} data-short={seconds <= 300} data-testid="time-left">
      {seconds === 0 ? "Time is up" : `${minutes}:${rest} left`}
      <span className="only-spoken" aria-live="assertive">
        {spoken}
      </span>
      {spoken && seconds > 0 && (
        <span className={classes.said} aria-hidden="true">
          {spoken}
        </span>
      )}
    </span>
  );
}
