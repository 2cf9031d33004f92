import { useCallback, useEffect, useRef, useState } from "react";

export type Spoken = { key: string; text: string };

/** How long a voice may take to begin before the reader is told that none answers. */
const patience = 4_000;

/**
 * Reads pieces of text aloud, one after the other, with the browser's own voice. `at` is the key of the piece that is
 * being read.
 */
export function useReadAloud() {
  const [at, setAt] = useState<string | null>(null);
  const [paused, setPaused] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [pace, setPace] = useState(1);
  /** Goes up with every start and stop: what an earlier one still reports is not listened to. */
  const round = useRef(0);
  const timer = useRef(0);

  const stop = useCallback(() => {
    round.current += 1;
    window.clearTimeout(timer.current);
    window.speechSynthesis?.cancel();
    setAt(null);
    setPaused(false);
  }, []);

  const start = useCallback(
    (pieces: Spoken[]) => {
      stop();
      setTrouble(null);
      if (!("speechSynthesis" in window)) {
        setTrouble("This browser has no voice to read aloud with.");
        return;
      }
      const mine = round.current;
      const current = () => mine === round.current;
      const fail = () => {
        if (!current()) return;
        stop();
        setTrouble("No voice answers in this browser. The system may have none installed.");
      };
      const say = (n: number) => {
        const piece = pieces[n];
        if (!current()) return;
        if (!piece) {
          stop();
          return;
        }
        const words = new SpeechSynthesisUtterance(piece.text);
        words.lang = "en-GB";
        words.rate = pace;
        words.onstart = () => window.clearTimeout(timer.current);
        words.onend = () => say(n + 1);
        words.onerror = fail;
        setAt(piece.key);
        window.clearTimeout(timer.current);
        timer.current = window.setTimeout(fail, patience);
        window.speechSynthesis.speak(words);
      };
      say(0);
    },
    [pace, stop],
  );

  const hold = useCallback(() => {
    window.clearTimeout(timer.current);
    window.speechSynthesis.pause();
    setPaused(true);
  }, []);
  const goOn = useCallback(() => {
    window.speechSynthesis.resume();
    setPaused(false);
  }, []);

  // Leaving the page ends it.
  useEffect(() => stop, [stop]);
  return { at, paused, trouble, pace, setPace, start, stop, hold, goOn };
}
