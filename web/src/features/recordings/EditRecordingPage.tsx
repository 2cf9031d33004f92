import { Button, MultiSelect, Skeleton, Textarea, TextInput } from "@mantine/core";
import "@mantine/core/styles/Pill.css";
import "@mantine/core/styles/PillsInput.css";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { useRef, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import { bankQuery } from "../bank/queries";
import { bankRecordingQuery, clockOf } from "./queries";
import classes from "./Recordings.module.css";

type Edit = Schemas["EditRecording"];

/** A recording's stops, placed by watching; its captions; and how it went. */
export function EditRecordingPage() {
  const { id } = useParams({ from: "/signed-in/bank-recordings/$id" });
  const recording = useQuery(bankRecordingQuery(id));
  return (
    <Frame
      trail={[
        { label: "Bank", to: "/bank" },
        { label: "Recordings", to: "/bank-recordings" },
        { label: recording.data?.title ?? "Recording" },
      ]}
    >
      {recording.error && (
        <Trouble heading={recording.data ? undefined : "Recording"} error={recording.error} />
      )}
      {recording.isPending && <Skeleton height={420} aria-label="Loading the recording" />}
      {recording.data && <Loaded key={recording.data.version} recording={recording.data} />}
    </Frame>
  );
}

function Loaded({ recording }: { recording: Edit }) {
  const queryClient = useQueryClient();
  const media = useRef<HTMLVideoElement>(null);
  const bank = useQuery(bankQuery());
  const [title, setTitle] = useState(recording.title);
  const [captions, setCaptions] = useState(recording.captions);
  const [stops, setStops] = useState(recording.stops);
  const save = useMutation({
    mutationFn: () =>
      ask(
        api.PUT("/api/bank-recordings/{id}", {
          params: { path: { id: recording.id } },
          body: { version: recording.version, title, captions, stops },
        }),
      ),
    onSuccess: () => queryClient.invalidateQueries({ queryKey: ["bank-recordings"] }),
  });
  const questions = (bank.data?.questions ?? []).filter((q) => !q.by_hand);
  const add = () => {
    const at = Math.round((media.current?.currentTime ?? 0) * 10) / 10;
    media.current?.pause();
    const names = new Set(stops.map((s) => s.id));
    let n = stops.length + 1;
    while (names.has(`stop-${n}`)) n += 1;
    setStops([...stops, { id: `stop-${n}`, at, questions: [] }].sort((a, b) => a.at - b.at));
  };
  return (
    <>
      <h1>{recording.title}</h1>
      <div className={classes.screen} data-pictures={recording.pictures}>
        {/* biome-ignore lint/a11y/useMediaCaption: its captions are being written here */}
        <video ref={media} src={recording.address} controls preload="metadata" />
      </div>
      <div className={classes.keys}>
        <Button variant="default" onClick={add}>
          Add a stop here
        </Button>
        <span className={classes.dim}>Watch it, and press this where it is to halt.</span>
      </div>
      {stops.length === 0 && <p>No stops yet: it can be seen through without a question.</p>}
      {stops.map((stop) => (
        <div key={stop.id} className={classes.stopRow}>
          <Button
            variant="default"
            size="sm"
            onClick={() => {
              if (media.current) media.current.currentTime = stop.at;
            }}
          >
            {clockOf(stop.at)}
          </Button>
          <MultiSelect
            label={`Questions at ${clockOf(stop.at)}`}
            searchable
            className={classes.asked}
            placeholder={stop.questions.length === 0 ? "Choose one to five" : undefined}
            maxValues={5}
            data={questions.map((q) => ({ value: q.id, label: q.title }))}
            value={stop.questions}
            onChange={(chosen) =>
              setStops(stops.map((s) => (s.id === stop.id ? { ...s, questions: chosen } : s)))
            }
          />
          <Button
            variant="subtle"
            size="compact-sm"
            aria-label={`Remove the stop at ${clockOf(stop.at)}`}
            onClick={() => setStops(stops.filter((s) => s.id !== stop.id))}
          >
            Remove
          </Button>
        </div>
      ))}
      <TextInput
        mt={12}
        label="Title"
        value={title}
        maxLength={120}
        onChange={(e) => setTitle(e.currentTarget.value)}
      />
      <Textarea
        mt={8}
        label="Captions"
        description="WebVTT. They are also the transcript: not everybody can hear."
        autosize
        minRows={4}
        maxRows={16}
        value={captions}
        onChange={(e) => setCaptions(e.currentTarget.value)}
      />
      <Button mt={12} loading={save.isPending} onClick={() => save.mutate()}>
        Save
      </Button>
      {save.isSuccess && <p role="status">Saved. What students have seen stays.</p>}
      {save.error && <Trouble error={save.error} />}
      <section aria-label="In a page or beside a question">
        <h2>In a page or beside a question</h2>
        <p>
          In the text of a reading page it stands between <code>```recording</code> and <code>```</code>, in
          that of a question among its <code>exhibits</code> as <code>recording:</code>. Its name there:{" "}
          <code data-testid="recording-name">{recording.name}</code>
        </p>
      </section>
      <Went recording={recording} />
    </>
  );
}

/** Where students of one's classes stopped, went back, gave up. */
function Went({ recording }: { recording: Edit }) {
  const { students, stretches } = recording.went;
  if (students.length === 0) {
    return (
      <section aria-label="How it went">
        <h2>How it went</h2>
        <p className={classes.dim}>None of your students has begun it yet.</p>
      </section>
    );
  }
  return (
    <section aria-label="How it went">
      <h2>How it went</h2>
      <table className={classes.table}>
        <thead>
          <tr>
            <th scope="col">From</th>
            <th scope="col">Saw it</th>
            <th scope="col">Paused</th>
            <th scope="col">Went back</th>
            <th scope="col">Stopped here so far</th>
          </tr>
        </thead>
        <tbody>
          {stretches
            .filter((s) => s.saw + s.paused + s.back + s.left > 0)
            .map((s) => (
              <tr key={s.from}>
                <th scope="row">{clockOf(s.from)}</th>
                <td>{s.saw}</td>
                <td>{s.paused}</td>
                <td>{s.back}</td>
                <td>{s.left}</td>
              </tr>
            ))}
        </tbody>
      </table>
      <table className={classes.table}>
        <thead>
          <tr>
            <th scope="col">Student</th>
            <th scope="col">Seen</th>
            <th scope="col">Stops answered</th>
            <th scope="col">At</th>
            <th scope="col">Last</th>
          </tr>
        </thead>
        <tbody>
          {students.map((s) => (
            <tr key={s.name}>
              <th scope="row">{s.name}</th>
              <td>
                {s.percent} %{s.done && ", done"}
              </td>
              <td>
                {s.stops_answered} of {recording.stops.length}
              </td>
              <td>{clockOf(s.at)}</td>
              <td>{moment(s.changed_at)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
