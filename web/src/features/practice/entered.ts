import { api, ask, Failure } from "../../api/client";
import { dropSpare, findSpare, holdSpare } from "../../shared/spare";
import type { Given } from "../board/keeper";

export type Entered = { id: string; response: Given }[];

export type Standing =
  | { kind: "kept" }
  | { kind: "keeping" }
  | { kind: "waiting"; words: string }
  | { kind: "refused"; words: string }
  /** Another window wrote meanwhile. */
  | { kind: "elsewhere"; parts: Entered; revision: number };

const PAUSE = 400;
const RETRY = 2_000;

/**
 * Keeps what stands in the fields of a run's question: on the server within a second, in this browser until the server has
 * it. One request at a time, so that an older text never comes after a newer one.
 */
/** Where a run's fields are kept. */
export type Home = "practice" | "start";

const puts = {
  practice: (id: string, body: Body, keepalive = false) =>
    api.PUT("/api/practice/{id}/entered", { params: { path: { id } }, body, keepalive }),
  start: (id: string, body: Body, keepalive = false) =>
    api.PUT("/api/class/{id}/start/entered", { params: { path: { id } }, body, keepalive }),
};

type Body = { number: number; based_on: number; parts: Entered };

export class EnteredKeeper {
  private parts: Entered | null = null;
  private timer = 0;
  private saving = false;
  private over = false;
  private listeners = new Set<() => void>();
  private revision: number;
  private readonly run: string;
  private readonly number: number;
  private readonly person: string;
  private readonly home: Home;
  standing: Standing = { kind: "kept" };

  constructor(home: Home, run: string, number: number, person: string, revision: number) {
    this.home = home;
    this.run = run;
    this.number = number;
    this.person = person;
    this.revision = revision;
  }

  private get spare() {
    return `green-slate/${this.person}/${this.home}/${this.run}/${this.number}`;
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
    };
  };

  snapshot = () => this.standing;

  private change(standing: Standing) {
    this.standing = standing;
    for (const listener of this.listeners) listener();
  }

  /** What this browser still held back from an earlier visit. */
  held(): Entered | null {
    const held = findSpare<{ revision: number; parts: Entered }>(this.spare);
    return held && held.revision === this.revision ? held.parts : null;
  }

  enter = (parts: Entered) => {
    this.parts = parts;
    holdSpare(this.spare, { revision: this.revision, parts });
    if (this.standing.kind === "elsewhere") return;
    this.change({ kind: "keeping" });
    this.later(PAUSE);
  };

  /** It is checked now: there is nothing to keep any more. */
  forget = () => {
    window.clearTimeout(this.timer);
    this.parts = null;
    this.over = true;
    dropSpare(this.spare);
    this.change({ kind: "kept" });
  };

  /** It could not be judged, so it goes on standing there. */
  resume = () => {
    this.over = false;
  };

  settle(mine: boolean) {
    if (this.standing.kind !== "elsewhere") return;
    this.revision = this.standing.revision;
    if (mine && this.parts) {
      this.change({ kind: "keeping" });
      this.later(0);
    } else {
      this.parts = null;
      dropSpare(this.spare);
      this.change({ kind: "kept" });
    }
  }

  private later(pause: number) {
    window.clearTimeout(this.timer);
    this.timer = window.setTimeout(() => void this.save(), pause);
  }

  flush = () => this.save();

  /** As the page goes away. */
  leave = () => {
    if (!this.parts || this.over || this.standing.kind === "elsewhere") return;
    const body = { number: this.number, based_on: this.revision, parts: this.parts };
    void puts[this.home](this.run, body, true).catch(() => undefined);
  };

  private async save(): Promise<void> {
    const sent = this.parts;
    if (!sent || this.saving || this.over || this.standing.kind === "elsewhere") return;
    window.clearTimeout(this.timer);
    this.saving = true;
    try {
      const answer = await ask(
        puts[this.home](this.run, { number: this.number, based_on: this.revision, parts: sent }),
      );
      this.saving = false;
      if (answer.type === "elsewhere") {
        const same = JSON.stringify(answer.parts) === JSON.stringify(sent);
        if (same) this.took(answer.revision, sent);
        else this.change({ kind: "elsewhere", parts: answer.parts, revision: answer.revision });
      } else if (answer.type === "saved") {
        this.took(answer.revision, sent);
      } else {
        this.forget();
      }
    } catch (error) {
      this.saving = false;
      const failure = error instanceof Failure ? error : new Failure(null, String(error), 0);
      const refused = failure.status >= 400 && failure.status < 500 && failure.status !== 401;
      this.change({ kind: refused ? "refused" : "waiting", words: failure.message });
      if (!refused) this.later(RETRY);
    }
  }

  private took(revision: number, sent: Entered) {
    this.revision = revision;
    if (this.parts === sent) {
      this.parts = null;
      dropSpare(this.spare);
      this.change({ kind: "kept" });
    } else if (this.parts) {
      holdSpare(this.spare, { revision, parts: this.parts });
      this.later(0);
    }
  }
}
