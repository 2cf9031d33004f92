import { Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { Player } from "./Player";
import { recordingQuery } from "./queries";

/** A recording with stops. */
export function RecordingPage() {
  const { id } = useParams({ from: "/signed-in/recording/$id" });
  const recording = useQuery(recordingQuery(id));
  return (
    <Frame trail={[{ label: recording.data?.title ?? "Recording" }]}>
      {recording.error && (
        <Trouble heading={recording.data ? undefined : "Recording"} error={recording.error} />
      )}
      {recording.isPending && <Skeleton height={420} aria-label="Loading the recording" />}
      {recording.data && <Player key={recording.data.id} recording={recording.data} />}
    </Frame>
  );
}
