import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useId, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { clockOf } from "./queries";
import classes from "./Recordings.module.css";
import { SetAs } from "./SetAs";
import { StopQuestions } from "./StopQuestions";
import { useLeaving, useWatching } from "./watching";

type Recording = Schemas["RecordingToWatch"];

const speeds = ["0.5", "0.75", "1", "1.25", "1.5", "1.75", "2"];
const jump = 5;
/** Seconds that are played while the server is away; then it halts, so that all of it can still be believed. */
const longestUntold = 20;

type Props = {
  recording: Recording;
  /** Within a page or beside a question: narrow, and with its transcript folded. */
  inside?: boolean;
};

/** Plays a recording up to its stops, and asks there. Back and speed are free; ahead of what was seen nobody goes at first. */
export function Player({ recording, inside = false }: Props) {
  const queryClient = useQueryClient();
  const media = useRef<HTMLVideoElement>(null);
  const { watched, setWatched, trouble, since, away, tell, send, every } = useWatching(recording);
  const [playing, setPlaying] = useState(false);
  const [at, setAt] = useState(recording.watched.at);
  const [speed, setSpeed] = useState("1");
  const [captions, setCaptions] = useState(true);
  const [lost, setLost] = useState(false);
  const bar = useId();
  const waiting = recording.stops.find((s) => s.id === watched.waiting);
  const halt = waiting && at >= waiting.at - 0.3;
  // How far one may play before the server has heard of it: to the next stop that waits.
  const next = recording.stops.find((s) => s.answered < s.questions);
  const limit = next ? next.at : recording.seconds;
  useEffect(() => {
    if (media.current) media.current.playbackRate = Number(speed);
  }, [speed]);
  useEffect(() => {
    if (!playing) return;
    const timer = window.setInterval(() => {
      const player = media.current;
      if (!player) return;
      const untold = player.currentTime - (since.current ?? player.currentTime);
      if (away.current && untold > longestUntold) player.pause();
      else void tell(player.currentTime);
    }, every);
    return () => window.clearInterval(timer);
  }, [playing, tell, every, away, since]);
  useLeaving(() => {
    const player = media.current;
    if (!player || player.paused) return;
    setWatched({ ...watched, at: player.currentTime });
    void tell(player.currentTime, "left");
  });
  const play = async () => {
    const player = media.current;
    if (!player) return;
    // What was played while the server was away is told first.
    const now = since.current === null ? watched : await tell(player.currentTime);
    if (!now) return;
    const from = Math.min(player.currentTime, now.may_go_to);
    if (Math.abs(from - player.currentTime) > 0.5) player.currentTime = from;
    if (!(await send(from, from, "went"))) return;
    since.current = player.currentTime;
    player.play().catch(() => setLost(true));
  };
  const pause = () => media.current?.pause();
  const goTo = async (to: number) => {
    const player = media.current;
    if (!player) return;
    const place = Math.min(Math.max(to, 0), Math.max(watched.may_go_to, player.currentTime));
    if (since.current !== null) await tell(player.currentTime);
    if (away.current) return;
    const back = place < player.currentTime - 1;
    since.current = null;
    const done = await send(place, place, back ? "back" : "went");
    if (!done) return;
    player.currentTime = place;
    setAt(place);
    if (!player.paused) since.current = place;
  };
  const onTime = () => {
    const player = media.current;
    if (!player) return;
    if (player.currentTime >= limit && !player.paused && next) {
      player.pause();
      player.currentTime = next.at;
    }
    setAt(player.currentTime);
  };
  const onPause = async () => {
    setPlaying(false);
    const player = media.current;
    if (!player) return;
    const ended = player.ended || player.currentTime >= limit - 0.05;
    await tell(Math.min(player.currentTime, limit), ended ? undefined : "paused");
    if (!away.current) since.current = null;
    void queryClient.invalidateQueries({ queryKey: ["week"] });
  };
  const cue = recording.cues.find((c) => c.start <= at && at < c.end);
  return (
    <div className={inside ? classes.inside : classes.columns}>
      <section aria-labelledby={inside ? undefined : bar}>
        {!inside && <h1 id={bar}>{recording.title}</h1>}
        <div className={recording.pictures ? classes.screen : classes.unseen}>
          {/* biome-ignore lint/a11y/useMediaCaption: the captions stand below it, and the transcript beside it */}
          <video
            ref={media}
            src={recording.address}
            preload="metadata"
            playsInline
            onLoadedMetadata={(e) => {
              e.currentTarget.currentTime = Math.min(recording.watched.at, limit);
            }}
            onTimeUpdate={onTime}
            onPlay={() => {
              setLost(false);
              setPlaying(true);
            }}
            onPause={() => void onPause()}
            onError={() => setLost(true)}
          />
        </div>
        {captions && recording.cues.length > 0 && (
          <p className={classes.caption} data-testid="caption">
            {cue?.text ?? " "}
          </p>
        )}
        {lost && <p role="alert">The recording can't be played just now. Reload the page to try again.</p>}
        <div className={classes.keys}>
          <Button
            onClick={() => (playing ? pause() : void play())}
            disabled={Boolean(halt)}
            data-testid="play"
          >
            {playing ? "Pause" : "Play"}
          </Button>
          <Button variant="default" onClick={() => void goTo(at - jump)}>
            {jump} s back
          </Button>
          <Button
            variant="default"
            disabled={at + jump > watched.may_go_to}
            onClick={() => void goTo(at + jump)}
          >
            {jump} s on
          </Button>
          <NativeSelect
            aria-label="Speed"
            size="sm"
            value={speed}
            data={speeds.map((s) => ({ value: s, label: `${s} × speed` }))}
            onChange={(e) => setSpeed(e.currentTarget.value)}
          />
          {recording.cues.length > 0 && (
            <Button variant="default" aria-pressed={captions} onClick={() => setCaptions(!captions)}>
              Captions
            </Button>
          )}
          <span className={classes.dim} data-testid="time">
            {clockOf(at)} of {clockOf(recording.seconds)} · {watched.percent} % seen
          </span>
        </div>
        <Timeline recording={recording} at={at} watched={watched} onGo={(to) => void goTo(to)} />
        {trouble && away.current && (
          <p role="alert" className={classes.away}>
            The server can't be reached just now. What you see meanwhile is kept and told to it later;
            {playing ? " if that takes long, the recording halts." : " press Play to try again."}
          </p>
        )}
        {trouble && !away.current && <Trouble error={trouble} />}
        {watched.done && (
          <p data-testid="done">
            You have been through all of it and answered every stop. Move about in it freely now.
          </p>
        )}
        {!inside && <SetAs recording={recording.id} done={watched.done} />}
        {halt && waiting && (
          <StopQuestions
            key={waiting.id}
            recording={recording.id}
            stop={waiting}
            prefix={inside ? `stop-${recording.id}-` : ""}
            onAnswered={async (now) => {
              setWatched(now);
              await queryClient.invalidateQueries({ queryKey: ["recording"] });
            }}
          />
        )}
      </section>
      <Transcript
        recording={recording}
        at={at}
        mayGoTo={watched.may_go_to}
        onGo={(to) => void goTo(to)}
        folded={inside}
      />
    </div>
  );
}

type TimelineProps = {
  recording: Recording;
  at: number;
  watched: Schemas["WatchedView"];
  onGo: (to: number) => void;
};

/** Where one is, what was seen, and where it halts. */
function Timeline({ recording, at, watched, onGo }: TimelineProps) {
  const share = (seconds: number) => (100 * seconds) / recording.seconds;
  return (
    <div className={classes.timeline}>
      <svg viewBox="0 0 100 12" preserveAspectRatio="none" aria-hidden="true">
        <rect y="4" width="100" height="4" className={classes.rail} />
        {watched.seen.map(([from = 0, to = 0]) => (
          <rect
            key={from}
            y="4"
            x={share(from)}
            width={share(to - from)}
            height="4"
            className={classes.seen}
          />
        ))}
        {recording.stops.map((s) => (
          <rect
            key={s.id}
            x={share(s.at) - 0.4}
            width="0.8"
            height="12"
            className={s.answered < s.questions ? classes.stop : classes.answered}
          />
        ))}
      </svg>
      <input
        type="range"
        aria-label="Place in the recording"
        aria-valuetext={`${clockOf(at)} of ${clockOf(recording.seconds)}`}
        min={0}
        max={Math.ceil(recording.seconds)}
        step={1}
        value={Math.floor(at)}
        onChange={(e) => onGo(Math.min(Number(e.currentTarget.value), Math.max(watched.may_go_to, at)))}
      />
    </div>
  );
}

type TranscriptProps = {
  recording: Recording;
  at: number;
  mayGoTo: number;
  onGo: (to: number) => void;
  folded: boolean;
};

/** All that is said: it follows, can be searched, and each line leads to its place. */
function Transcript({ recording, at, mayGoTo, onGo, folded }: TranscriptProps) {
  const [wanted, setWanted] = useState("");
  const list = useRef<HTMLOListElement>(null);
  const now = recording.cues.findIndex((c) => c.start <= at && at < c.end);
  useEffect(() => {
    const line = list.current?.children[now];
    // Only the list moves: the page stays where its reader has it.
    if (list.current && line instanceof HTMLElement && !wanted) {
      list.current.scrollTop = line.offsetTop - list.current.offsetTop - 60;
    }
  }, [now, wanted]);
  if (recording.cues.length === 0) return null;
  const fits = (text: string) => text.toLowerCase().includes(wanted.trim().toLowerCase());
  const shown = recording.cues.map((cue, n) => ({ cue, n })).filter(({ cue }) => fits(cue.text));
  const whole = (
    <>
      <TextInput
        size="sm"
        label="Search the transcript"
        value={wanted}
        onChange={(e) => setWanted(e.currentTarget.value)}
      />
      {shown.length === 0 && <p className={classes.dim}>Not found in the transcript.</p>}
      <ol ref={list}>
        {shown.map(({ cue, n }) => (
          <li key={cue.start} data-now={n === now || undefined}>
            <button
              type="button"
              disabled={cue.start > mayGoTo}
              aria-current={n === now || undefined}
              onClick={() => onGo(cue.start)}
            >
              <span>{clockOf(cue.start)}</span> {cue.text}
            </button>
          </li>
        ))}
      </ol>
    </>
  );
  if (folded) {
    return (
      <details className={classes.transcript}>
        <summary>Transcript</summary>
        {whole}
      </details>
    );
  }
  return (
    <aside className={classes.transcript} aria-label="Transcript">
      <h2>Transcript</h2>
      {whole}
    </aside>
  );
}
