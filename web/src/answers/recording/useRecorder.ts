import { useEffect, useRef, useState } from "react";

export type Recorded = { sound: Blob; seconds: number; name: string };

type State =
  | { kind: "idle" }
  | { kind: "asking" }
  | { kind: "recording"; seconds: number }
  | { kind: "none"; words: string };

const noMicrophone = "There is no microphone that can be used here. Attach a sound file instead.";

/** The microphone: asked for when it is first used, given back when a recording ends. */
export function useRecorder(mostSeconds: number, onDone: (recorded: Recorded) => void) {
  const [state, setState] = useState<State>({ kind: "idle" });
  const recorder = useRef<MediaRecorder | null>(null);
  const timer = useRef<number | undefined>(undefined);
  const gone = useRef(false);
  const stop = () => {
    window.clearInterval(timer.current);
    if (recorder.current?.state === "recording") recorder.current.stop();
  };
  useEffect(() => {
    gone.current = false;
    return () => {
      gone.current = true;
      window.clearInterval(timer.current);
      const stream = recorder.current?.stream;
      if (recorder.current?.state === "recording") recorder.current.stop();
      for (const track of stream?.getTracks() ?? []) track.stop();
    };
  }, []);
  const start = async () => {
    if (!navigator.mediaDevices || typeof MediaRecorder === "undefined") {
      setState({ kind: "none", words: noMicrophone });
      return;
    }
    setState({ kind: "asking" });
    let stream: MediaStream;
    try {
      stream = await navigator.mediaDevices.getUserMedia({ audio: true });
    } catch (error) {
      const refused = error instanceof DOMException && error.name === "NotAllowedError";
      setState({
        kind: "none",
        words: refused
          ? "The browser may not use the microphone. Allow it beside the address, or attach a sound file."
          : noMicrophone,
      });
      return;
    }
    const made = new MediaRecorder(stream);
    const pieces: Blob[] = [];
    const began = performance.now();
    const seconds = () => Math.min(mostSeconds, (performance.now() - began) / 1000);
    made.ondataavailable = (e) => pieces.push(e.data);
    made.onstop = () => {
      for (const track of stream.getTracks()) track.stop();
      if (gone.current) return;
      setState({ kind: "idle" });
      const type = made.mimeType || "audio/webm";
      const name = type.includes("mp4")
        ? "recording.m4a"
        : type.includes("ogg")
          ? "recording.ogg"
          : "recording.webm";
      onDone({ sound: new Blob(pieces, { type }), seconds: Math.max(1, Math.round(seconds())), name });
    };
    recorder.current = made;
    made.start(1_000);
    setState({ kind: "recording", seconds: 0 });
    timer.current = window.setInterval(() => {
      const now = seconds();
      setState({ kind: "recording", seconds: now });
      if (now >= mostSeconds) stop();
    }, 250);
  };
  return { state, start, stop };
}
