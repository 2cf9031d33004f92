import { Button, FileInput, Skeleton, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { api, ask } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { bankRecordingsQuery, clockOf } from "./queries";
import classes from "./Recordings.module.css";

/** How long a recording is, as the browser reads it. */
function secondsOf(file: File): Promise<number> {
  return new Promise((resolve, reject) => {
    const media = document.createElement("video");
    media.preload = "metadata";
    media.src = URL.createObjectURL(file);
    const end = () => URL.revokeObjectURL(media.src);
    media.ondurationchange = () => {
      if (Number.isFinite(media.duration)) {
        resolve(media.duration);
        end();
      } else {
        // A browser's own recorder does not write it down: the end of the file says it.
        media.currentTime = 1e9;
      }
    };
    media.onerror = () => {
      end();
      reject(new Error("This file can't be played here. Save it as WebM and try again."));
    };
  });
}

/** Recordings with stops: those there are, and another one. */
export function BankRecordingsPage() {
  const all = useQuery(bankRecordingsQuery());
  return (
    <Frame trail={[{ label: "Bank", to: "/bank" }, { label: "Recordings" }]}>
      <h1>Recordings</h1>
      <p className={classes.dim}>
        A recording halts at its stops and asks. It can be set as an assignment: practice, “a recording is
        played to its end, its stops answered”.
      </p>
      {all.error && <Trouble error={all.error} />}
      {all.isPending && <Skeleton height={200} aria-label="Loading the recordings" />}
      {all.data && (
        <table className={classes.table}>
          <thead>
            <tr>
              <th scope="col">Recording</th>
              <th scope="col">Length</th>
              <th scope="col">Stops</th>
            </tr>
          </thead>
          <tbody>
            {all.data.recordings.map((r) => (
              <tr key={r.id}>
                <th scope="row">
                  <Link to="/bank-recordings/$id" params={{ id: r.id }}>
                    {r.title}
                  </Link>
                </th>
                <td>{clockOf(r.seconds)}</td>
                <td>{r.stops}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Upload />
    </Frame>
  );
}

function Upload() {
  const navigate = useNavigate();
  const queryClient = useQueryClient();
  const [title, setTitle] = useState("");
  const [file, setFile] = useState<File | null>(null);
  const upload = useMutation({
    mutationFn: async (given: File) => {
      const seconds = await secondsOf(given);
      return ask(
        api.POST("/api/bank-recordings", {
          params: { query: { title, seconds } },
          body: given as unknown as never,
          bodySerializer: (b: unknown) => b as BodyInit,
          headers: { "content-type": "video/webm" },
        }),
      );
    },
    onSuccess: async ({ id }) => {
      await queryClient.invalidateQueries({ queryKey: ["bank-recordings"] });
      await navigate({ to: "/bank-recordings/$id", params: { id } });
    },
  });
  return (
    <section aria-label="Another recording">
      <h2>Another recording</h2>
      <TextInput
        label="Title"
        maxLength={120}
        value={title}
        onChange={(e) => setTitle(e.currentTarget.value)}
      />
      <FileInput
        label="File"
        placeholder="Choose a file"
        description="WebM with VP8, VP9 or AV1 and Opus, or sound alone; 200 MB at most."
        accept="video/webm,audio/webm,.webm"
        value={file}
        onChange={setFile}
      />
      <Button
        mt={12}
        disabled={!file || title.trim() === ""}
        loading={upload.isPending}
        onClick={() => file && upload.mutate(file)}
      >
        Upload
      </Button>
      {upload.error && <Trouble error={upload.error} />}
    </section>
  );
}
