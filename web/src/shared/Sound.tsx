import { NativeSelect } from "@mantine/core";
import { type ReactNode, useEffect, useId, useRef, useState } from "react";
import classes from "./Sound.module.css";

type Props = {
  title: string;
  address: string;
  /** Where the file itself does not say how long it is. */
  seconds?: number | undefined;
  transcript?: ReactNode;
  /** It was played to its end. */
  onEnd?: () => void;
};

const speeds = ["0.5", "0.75", "1", "1.25", "1.5"];
const jump = 5;

const clock = (seconds: number) => {
  const whole = Math.max(0, Math.floor(seconds));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
};

/** Something to listen to: play, jump, slower and faster, and all of it in words. */
export function Sound({ title, address, seconds, transcript, onEnd }: Props) {
  const audio = useRef<HTMLAudioElement>(null);
  const [playing, setPlaying] = useState(false);
  const [at, setAt] = useState(0);
  const [length, setLength] = useState(seconds ?? 0);
  const [speed, setSpeed] = useState("1");
  const [lost, setLost] = useState(false);
  const name = useId();
  useEffect(() => {
    if (audio.current) audio.current.playbackRate = Number(speed);
  }, [speed]);
  const go = (to: number) => {
    const player = audio.current;
    if (!player) return;
    player.currentTime = Math.min(Math.max(to, 0), length || to);
    setAt(player.currentTime);
  };
  const toggle = () => {
    const player = audio.current;
    if (!player) return;
    if (playing) player.pause();
    else player.play().catch(() => setLost(true));
  };
  // A recorder's file does not say how long it is.
  const onLength = (player: HTMLAudioElement) => {
    if (Number.isFinite(player.duration)) setLength(player.duration);
  };
  return (
    <section className={classes.sound} aria-labelledby={name} data-testid="sound">
      {/* biome-ignore lint/a11y/useMediaCaption: the transcript below says all of it */}
      <audio
        ref={audio}
        src={address}
        preload="metadata"
        onLoadedMetadata={(e) => onLength(e.currentTarget)}
        onDurationChange={(e) => onLength(e.currentTarget)}
        onTimeUpdate={(e) => setAt(e.currentTarget.currentTime)}
        onPlay={() => {
          setLost(false);
          setPlaying(true);
        }}
        onPause={() => setPlaying(false)}
        onEnded={() => {
          setPlaying(false);
          onEnd?.();
        }}
        onError={() => setLost(true)}
      />
      <p className={classes.title} id={name}>
        {title}
      </p>
      <div className={classes.keys}>
        <button type="button" className={classes.play} onClick={toggle} data-playing={playing}>
          <svg viewBox="0 0 20 20" width="18" height="18" aria-hidden="true">
            <path
              d={playing ? "M5 3h3.5v14H5zM11.5 3H15v14h-3.5z" : "M5 2.5v15l12.5-7.5z"}
              fill="currentColor"
            />
          </svg>
          {playing ? "Pause" : "Play"}
        </button>
        <button type="button" onClick={() => go(at - jump)} aria-label="−5 s, back">
          −5 s
        </button>
        <button type="button" onClick={() => go(at + jump)} aria-label="+5 s, on">
          +5 s
        </button>
        <input
          type="range"
          aria-label="Place in the recording"
          aria-valuetext={`${clock(at)} of ${clock(length)}`}
          min={0}
          max={Math.max(length, 0.1)}
          step={0.1}
          value={Math.min(at, Math.max(length, 0.1))}
          onChange={(e) => go(Number(e.currentTarget.value))}
        />
        <span className={classes.time}>
          {clock(at)} / {clock(length)}
        </span>
        <NativeSelect
          aria-label="Speed"
          className={classes.speed}
          value={speed}
          onChange={(e) => setSpeed(e.currentTarget.value)}
          data={speeds.map((s) => ({ value: s, label: `${s} ×` }))}
        />
      </div>
      {lost && (
        <p className={classes.lost} role="status">
          It can't be played just now.{" "}
          {transcript ? "Its transcript says all of it." : "Try again in a moment."}
        </p>
      )}
      {transcript && (
        <details className={classes.transcript}>
          <summary>Transcript</summary>
          {transcript}
        </details>
      )}
    </section>
  );
}
