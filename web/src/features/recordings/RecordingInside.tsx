import { Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Trouble } from "../../shared/Trouble";
import { Player } from "./Player";
import { recordingQuery } from "./queries";
import classes from "./Recordings.module.css";
import { RecordingWords } from "./RecordingWords";

/** A recording with stops within a page or beside a question, by its name or id. */
export default function RecordingInside({ name, heading }: { name: string; heading: boolean }) {
  const recording = useQuery(recordingQuery(name));
  if (recording.error && !recording.data) return <Trouble error={recording.error} />;
  if (!recording.data) return <Skeleton height={220} aria-label="Loading the recording" />;
  return (
    <>
      {heading && <h3>{recording.data.title}</h3>}
      <Player key={recording.data.id} recording={recording.data} inside />
      <div className={classes.onPaper}>
        <RecordingWords name={name} />
      </div>
    </>
  );
}
