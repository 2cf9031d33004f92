import { sameResponse } from "../../answers/kinds";
import { api, ask, Failure, type Schemas } from "../../api/client";
import { dropSpare, findSpare, holdSpare } from "../../shared/spare";

export type Given = Schemas["ResponseView"];
export type Place = { question: number; set: number; part: string };

/** What stands in one field, and how far it is kept. */
export type Field = {
  place: Place;
  response: Given;
  revision: number;
  dirty: boolean;
  /** What another window wrote meanwhile. */
  elsewhere?: { revision: number; response: Given };
};

export type Standing =
  | { kind: "kept"; at: Date | null }
  | { kind: "keeping" }
  | { kind: "waiting"; words: string }
  | { kind: "refused"; words: string };

const PAUSE = 350;
const RETRY = 2_000;

const keyOf = (p: Place) => `${p.question}/${p.set}/${p.part}`;
const same = (a: Given, b: Given) => sameResponse(a, b);

/**
 * Keeps what is typed: on the server within a second, and in this browser until the server has it. A revision that
 * another window has passed is never overwritten unasked.
 */
export class Keeper {
  private fields = new Map<string, Field>();
  private timers = new Map<string, number>();
  private saving = new Set<string>();
  private listeners = new Set<() => void>();
  standing: Standing = { kind: "kept", at: null };
  version = 0;
  private readonly assignment: string;
  private readonly person: string;
  private readonly onStone: (question: number, stone: Schemas["Stone"]) => void;

  constructor(
    assignment: string,
    person: string,
    onStone: (question: number, stone: Schemas["Stone"]) => void,
  ) {
    this.assignment = assignment;
    this.person = person;
    this.onStone = onStone;
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
    };
  };

  snapshot = () => this.version;

  private changed(standing?: Standing) {
    if (standing) this.standing = standing;
    this.version += 1;
    for (const listener of this.listeners) listener();
  }

  /** Where this browser keeps a field: for one person, since others may sign in here. */
  private spare(key: string) {
    return `green-slate/${this.person}/${this.assignment}/${key}`;
  }

  /** Takes over what the server has, and what this browser still held back. */
  load(place: Place, draft: Schemas["DraftView"] | null | undefined, empty: Given) {
    const key = keyOf(place);
    if (this.fields.has(key)) return;
    const field: Field = {
      place,
      response: draft?.response ?? empty,
      revision: draft?.revision ?? 0,
      dirty: false,
    };
    this.fields.set(key, field);
    const held = findSpare<{ revision: number; response: Given }>(this.spare(key));
    if (!held) return;
    const { revision, response } = held;
    if (same(response, field.response)) {
      dropSpare(this.spare(key));
    } else if (revision === field.revision) {
      this.set(place, response);
    } else {
      field.elsewhere = { revision: field.revision, response: field.response };
      field.response = response;
    }
  }

  field(place: Place): Field | undefined {
    return this.fields.get(keyOf(place));
  }

  set(place: Place, response: Given) {
    const key = keyOf(place);
    const field = this.fields.get(key);
    if (!field) return;
    field.response = response;
    field.dirty = true;
    this.later(key, PAUSE);
    holdSpare(this.spare(key), { revision: field.revision, response });
    this.changed(this.standing.kind === "refused" ? undefined : { kind: "keeping" });
  }

  private later(key: string, pause: number) {
    window.clearTimeout(this.timers.get(key));
    this.timers.set(
      key,
      window.setTimeout(() => void this.save(key), pause),
    );
  }

  /** Settles a field that two windows wrote: with theirs, or with mine. */
  settle(place: Place, mine: boolean) {
    const field = this.field(place);
    if (!field?.elsewhere) return;
    const { revision, response } = field.elsewhere;
    field.revision = revision;
    field.elsewhere = undefined;
    if (mine) {
      this.set(place, field.response);
    } else {
      field.response = response;
      field.dirty = false;
      dropSpare(this.spare(keyOf(place)));
      this.changed({ kind: "kept", at: new Date() });
    }
  }

  /** Saves at once what still waits. Resolves when all of it is kept, or could not be. */
  async flush() {
    await Promise.all([...this.fields].filter(([, f]) => f.dirty).map(([key]) => this.save(key)));
  }

  get isKept() {
    return [...this.fields.values()].every((f) => !f.dirty);
  }

  /** As the page goes away: hands what waits to the browser to deliver. */
  leave = () => {
    for (const field of this.fields.values()) {
      if (field.dirty && !field.elsewhere) {
        void fetch(`/api/assignments/${this.assignment}/drafts`, {
          method: "PUT",
          keepalive: true,
          headers: { "content-type": "application/json" },
          body: JSON.stringify(this.body(field)),
        }).catch(() => undefined);
      }
    }
  };

  private body(field: Field) {
    const { question, set, part } = field.place;
    return { question, set_number: set, part, based_on: field.revision, response: field.response };
  }

  private async save(key: string): Promise<void> {
    const field = this.fields.get(key);
    if (!field?.dirty || field.elsewhere || this.saving.has(key)) return;
    window.clearTimeout(this.timers.get(key));
    this.saving.add(key);
    const sent = field.response;
    try {
      const answer = await ask(
        api.PUT("/api/assignments/{id}/drafts", {
          params: { path: { id: this.assignment } },
          body: this.body(field),
        }),
      );
      this.saving.delete(key);
      this.took(key, field, sent, answer);
    } catch (error) {
      this.saving.delete(key);
      const failure = error instanceof Failure ? error : new Failure(null, String(error), 0);
      if (failure.status === 401) {
        // The session ended; once signed in again, in whatever window, this goes on.
        this.later(key, RETRY * 2);
        this.changed({
          kind: "waiting",
          words: "You are signed out. Sign in again; what you typed is kept in this browser.",
        });
      } else if (failure.status >= 400 && failure.status < 500) {
        this.changed({ kind: "refused", words: failure.message });
      } else {
        this.later(key, RETRY);
        this.changed({ kind: "waiting", words: failure.message });
      }
    }
  }

  private took(key: string, field: Field, sent: Given, answer: Schemas["SaveView"]) {
    if (answer.type === "elsewhere" && !same(answer.response, sent)) {
      field.elsewhere = { revision: answer.revision, response: answer.response };
      this.changed({ kind: "waiting", words: "Another window changed this answer." });
      return;
    }
    field.revision = answer.revision;
    field.dirty = !same(field.response, sent);
    if (answer.type === "saved") this.onStone(field.place.question, answer.stone);
    if (field.dirty) {
      holdSpare(this.spare(key), { revision: field.revision, response: field.response });
      this.later(key, 0);
      this.changed();
    } else {
      dropSpare(this.spare(key));
      this.changed(
        this.isKept
          ? { kind: "kept", at: answer.type === "saved" ? new Date(answer.at) : new Date() }
          : undefined,
      );
    }
  }
}
