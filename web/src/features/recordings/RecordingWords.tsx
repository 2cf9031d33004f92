import { useQuery } from "@tanstack/react-query";
import { recordingQuery } from "./queries";

/** What is said in a recording, for paper. */
export function RecordingWords({ name }: { name: string }) {
  const recording = useQuery(recordingQuery(name));
  if (!recording.data) return null;
  return (
    <div data-testid="recording-words">
      <p>
        <em>A recording; play it on the screen. What is said in it:</em>
      </p>
      {recording.data.cues.map((cue) => (
        <p key={cue.start}>{cue.text}</p>
      ))}
    </div>
  );
}
