import { type Build, type Problem, type StoredBuild, answer, api, problemOf } from "../api/client";
import { kept } from "../base/kept";

/** Pause after the last edit before it is saved, ms. */
const PAUSE = 300;
/** Pause before a failed save is tried again, ms. */
const AGAIN = 3000;
/** Pause before an edit is written into the browser: after the frame that it is drawn in, ms. */
const WRITE = 30;

export type SaveState =
  | { kind: "saved" }
  | { kind: "unsaved" }
  | { kind: "saving" }
  | { kind: "refused"; problem: Problem }
  | { kind: "failed"; problem: Problem }
  /** The server is not answering: what is here is kept in the browser, and tried again. */
  | { kind: "away" }
  /** This device may only look: what is here stays here. */
  | { kind: "local" }
  | { kind: "stale"; theirs: StoredBuild };

/** What is saved, where, and since when. */
export interface Saving {
  save: SaveState;
  savedAt: string;
  revision: number;
}

interface Draft {
  revision: number;
  document: Build;
}

const draftKey = (id: number) => `orthavis.draft.${id}`;

function readDraft(stored: StoredBuild): Draft | null {
  try {
    const text = kept.get(draftKey(stored.id));
    const draft = text ? (JSON.parse(text) as Draft) : null;
    return draft && JSON.stringify(draft.document) !== JSON.stringify(stored.document) ? draft : null;
  } catch {
    return null;
  }
}

/**
 * Saves one build by itself. What has not reached the server yet is also kept in the browser, so that neither a reload
 * nor a stopped server loses it. Stands beside the page, which is not drawn again for each step of saving.
 */
export class Saver {
  /** What was typed before and never reached the server. */
  readonly recovered: Build | null;
  private readonly id: number;
  private state: Saving;
  private document: Build;
  /** What the server holds; another object than the document's once that was edited. */
  private held: Build | null;
  private mayEdit = true;
  private saveTimer: ReturnType<typeof setTimeout> | undefined;
  private writeTimer: ReturnType<typeof setTimeout> | undefined;
  private readonly listeners = new Set<() => void>();

  constructor(stored: StoredBuild) {
    const draft = readDraft(stored);
    this.id = stored.id;
    this.recovered = draft?.document ?? null;
    this.document = draft?.document ?? stored.document;
    this.held = draft ? null : stored.document;
    const save: SaveState = !draft ? { kind: "saved" } : draft.revision === stored.revision ? { kind: "unsaved" } : { kind: "stale", theirs: stored };
    this.state = { save, savedAt: stored.saved_at, revision: stored.revision };
  }

  readonly now = (): Saving => this.state;

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  private set(change: Partial<Saving>) {
    this.state = { ...this.state, ...change };
    for (const listener of this.listeners) listener();
  }

  /** Begins, or goes on after the page was away; returns what stops it. */
  start(mayEdit: boolean): () => void {
    this.mayEdit = mayEdit;
    this.follow();
    addEventListener("pagehide", this.write);
    return () => {
      this.write();
      removeEventListener("pagehide", this.write);
      clearTimeout(this.saveTimer);
    };
  }

  /** The document as it is now. */
  edited(document: Build) {
    this.document = document;
    this.follow();
  }

  private follow() {
    if (this.document === this.held) return;
    const { kind } = this.state.save;
    if (!this.mayEdit) {
      if (kind !== "local") this.set({ save: { kind: "local" } });
      // A refused document is tried again once it was edited; a stale one waits for the person.
    } else if (kind === "saved" || kind === "refused" || kind === "local") this.set({ save: { kind: "unsaved" } });
    clearTimeout(this.writeTimer);
    this.writeTimer = setTimeout(this.write, WRITE);
    this.soon(PAUSE);
  }

  private readonly write = () => {
    clearTimeout(this.writeTimer);
    if (this.document === this.held) return;
    kept.set(draftKey(this.id), JSON.stringify({ revision: this.state.revision, document: this.document } satisfies Draft));
  };

  private soon(pause: number) {
    clearTimeout(this.saveTimer);
    if (this.mayEdit && ["unsaved", "failed", "away"].includes(this.state.save.kind))
      this.saveTimer = setTimeout(() => void this.push(this.document, this.state.revision), pause);
  }

  private async push(document: Build, on: number): Promise<void> {
    this.set({ save: { kind: "saving" } });
    try {
      const call = api.PUT("/api/v1/builds/{id}", { params: { path: { id: this.id }, header: { "If-Match": `"${on}"` } }, body: document });
      const next = await answer(call);
      this.take(next, document);
    } catch (error) {
      const problem = problemOf(error);
      if (problem.current) this.set({ save: { kind: "stale", theirs: problem.current } });
      else if (problem.status === 0) this.set({ save: { kind: "away" } });
      else if (problem.status < 400 || problem.status >= 500) this.set({ save: { kind: "failed", problem } });
      else if (this.document === document) this.set({ save: { kind: "refused", problem } });
      else {
        // What was refused is not what is here any more.
        this.set({ save: { kind: "unsaved" } });
        return this.soon(PAUSE);
      }
      this.soon(AGAIN);
    }
  }

  /** The server holds this document as this revision. */
  private take(stored: StoredBuild, document: Build) {
    this.held = document;
    const done = this.document === document;
    if (done) {
      clearTimeout(this.writeTimer);
      kept.drop(draftKey(this.id));
    }
    this.set({ revision: stored.revision, savedAt: stored.saved_at, save: { kind: done ? "saved" : "unsaved" } });
    if (!done) this.soon(PAUSE);
  }

  /** Saves what is here on top of what was saved elsewhere. */
  readonly keepMine = () => {
    const { save } = this.state;
    if (save.kind === "stale") void this.push(this.document, save.theirs.revision);
  };

  /** A version that is already stored takes the place of what is here. */
  adopt(theirs: StoredBuild) {
    clearTimeout(this.saveTimer);
    this.document = theirs.document;
    this.take(theirs, theirs.document);
  }
}
