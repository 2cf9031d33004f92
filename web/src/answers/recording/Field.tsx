import { Button } from "@mantine/core";
import { useRef, useState } from "react";
import { Sound } from "../../shared/Sound";
import { dropFile, fileTrouble, keepFile, LARGEST } from "../attached/Files";
import type { FieldProps } from "../kinds";
import { clockOf, withWritten, writtenOf } from "../written";
import classes from "./Field.module.css";
import { type Recorded, useRecorder } from "./useRecorder";

/** A recording by microphone: its length while it runs, then to be played or made again. Without one, a file. */
export default function Field(props: FieldProps<"recording">) {
  const { assignment, question, part, name = part, entry, value, disabled, onChange } = props;
  const kept = writtenOf(value).files?.[0];
  const [held, setHeld] = useState<Recorded | null>(null);
  const [trouble, setTrouble] = useState("");
  const [sending, setSending] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const keep = async (sound: Blob, called: string, seconds: number | undefined) => {
    if (sound.size > LARGEST) {
      setTrouble(`${called} is larger than 8 MB. A shorter or smaller one fits.`);
      return;
    }
    setSending(true);
    setTrouble("");
    try {
      const file = await keepFile(assignment, question, sound, called);
      if (!file.media_type.startsWith("audio/")) {
        setTrouble(`${called} is not a sound file.`);
        void dropFile(assignment, file.id);
      } else {
        onChange(withWritten({}, { files: [{ ...file, ...(seconds ? { seconds } : {}) }] }));
        if (kept) void dropFile(assignment, kept.id);
        setHeld(null);
      }
    } catch (error) {
      setTrouble(fileTrouble(error, called));
    }
    setSending(false);
  };
  const { state, start, stop } = useRecorder(entry.most_seconds, (recorded) => {
    // It stays here until the server has it.
    setHeld(recorded);
    void keep(recorded.sound, recorded.name, recorded.seconds);
  });
  const recording = state.kind === "recording";
  return (
    // biome-ignore lint/a11y/useSemanticElements: a recorder is no set of form fields with a legend
    <div role="group" aria-label={entry.label} className={classes.recorder} data-part={name}>
      <p className={classes.label}>{entry.label}</p>
      {kept && !recording && (
        <Sound
          key={kept.id}
          title={`Your recording${kept.seconds ? `, ${clockOf(kept.seconds)}` : ""}`}
          address={`/api/files/${kept.id}`}
          seconds={kept.seconds ?? undefined}
        />
      )}
      {recording && (
        <p className={classes.running} role="timer" data-testid={`recording-${name}`}>
          Recording: {clockOf(state.seconds)} of {clockOf(entry.most_seconds)}
        </p>
      )}
      {state.kind === "none" && !kept && (
        <p className={classes.trouble} role="status">
          {state.words}
        </p>
      )}
      {sending && <p role="status">Sending the recording…</p>}
      {trouble && (
        <p className={classes.trouble} role="alert">
          {trouble}
        </p>
      )}
      {!disabled && (
        <div className={classes.keys}>
          {recording ? (
            <Button size="sm" onClick={stop}>
              Stop
            </Button>
          ) : (
            <Button
              size="sm"
              variant="default"
              loading={state.kind === "asking"}
              disabled={sending}
              onClick={() => void start()}
            >
              {kept ? "Record again" : "Record"}
            </Button>
          )}
          {held && !sending && (
            <Button
              size="sm"
              variant="default"
              onClick={() => void keep(held.sound, held.name, held.seconds)}
            >
              Send the recording again
            </Button>
          )}
          {!recording && (
            <>
              <input
                ref={input}
                type="file"
                accept="audio/*"
                className={classes.hidden}
                aria-label="Attach a sound file"
                tabIndex={-1}
                data-testid="attach"
                onChange={(e) => {
                  const file = e.currentTarget.files?.[0];
                  if (file) void keep(file, file.name, undefined);
                  e.currentTarget.value = "";
                }}
              />
              <Button size="sm" variant="subtle" disabled={sending} onClick={() => input.current?.click()}>
                Attach a sound file
              </Button>
            </>
          )}
          <span className={classes.most}>{clockOf(entry.most_seconds)} at most</span>
        </div>
      )}
    </div>
  );
}
