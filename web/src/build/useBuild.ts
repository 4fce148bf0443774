import { replaceEqualDeep } from "@tanstack/react-query";
import { useCallback, useEffect, useReducer, useRef, useState } from "react";
import { type Build, type Problem, type StoredBuild, answer, api, problemOf } from "../api/client";
import { begin, reduce } from "./history";

/** Pause after the last edit before it is saved, ms. */
const PAUSE = 300;
/** Pause before a failed save is tried again, ms. */
const AGAIN = 3000;

export type SaveState =
  | { kind: "saved" }
  | { kind: "unsaved" }
  | { kind: "saving" }
  | { kind: "refused"; problem: Problem }
  | { kind: "failed"; problem: Problem }
  | { kind: "stale"; theirs: StoredBuild };

const UNSAVED: SaveState = { kind: "unsaved" };

interface Draft {
  revision: number;
  document: Build;
}

const draftKey = (id: number) => `orthavis.draft.${id}`;

function readDraft(stored: StoredBuild): Draft | null {
  try {
    const text = localStorage.getItem(draftKey(stored.id));
    const draft = text ? (JSON.parse(text) as Draft) : null;
    return draft && JSON.stringify(draft.document) !== JSON.stringify(stored.document) ? draft : null;
  } catch {
    return null;
  }
}

/**
 * One build being edited: its history, and a copy that is saved by itself. What has not reached the server yet is
 * also kept in the browser, so that neither a reload nor a stopped server loses it. `onEdit` hears of an edit before
 * it is drawn.
 */
export function useBuild(stored: StoredBuild, onEdit: (build: Build) => void) {
  const [recovered] = useState(() => readDraft(stored));
  const [history, dispatch] = useReducer(reduce<Build>, null, () => begin(recovered?.document ?? stored.document));
  const [revision, setRevision] = useState(stored.revision);
  const [savedAt, setSavedAt] = useState(stored.saved_at);
  const [save, setSave] = useState<SaveState>(() => {
    if (!recovered) return { kind: "saved" };
    return recovered.revision === stored.revision ? { kind: "unsaved" } : { kind: "stale", theirs: stored };
  });
  const build = history.now;
  const latest = useRef(build);
  latest.current = build;
  const [kept, setKept] = useState<Build | null>(recovered ? null : stored.document);

  const edit = useCallback(
    (change: (draft: Build) => void, touched = "") => {
      const copy = structuredClone(latest.current);
      change(copy);
      // What the edit left alone stays the same object, so that it is not drawn again.
      const draft = replaceEqualDeep(latest.current, copy);
      if (draft === latest.current) return;
      latest.current = draft;
      onEdit(draft);
      dispatch({ kind: "edit", build: draft, touched, at: Date.now() });
    },
    [onEdit],
  );

  const push = useCallback(
    async (document: Build, on: number) => {
      setSave({ kind: "saving" });
      try {
        const call = api.PUT("/api/v1/builds/{id}", { params: { path: { id: stored.id }, header: { "If-Match": `"${on}"` } }, body: document });
        const next = await answer(call);
        setKept(document);
        setRevision(next.revision);
        setSavedAt(next.saved_at);
        if (latest.current === document) {
          localStorage.removeItem(draftKey(stored.id));
          setSave({ kind: "saved" });
        } else setSave({ kind: "unsaved" });
      } catch (error) {
        const problem = problemOf(error);
        if (problem.current) setSave({ kind: "stale", theirs: problem.current });
        else setSave({ kind: problem.status >= 400 && problem.status < 500 ? "refused" : "failed", problem });
      }
    },
    [stored.id],
  );

  useEffect(() => {
    if (build === kept) return;
    localStorage.setItem(draftKey(stored.id), JSON.stringify({ revision, document: build } satisfies Draft));
    // A refused document is tried again once it was edited; a stale one waits for the person.
    setSave((state) => (state.kind === "saved" || state.kind === "refused" ? { kind: "unsaved" } : state));
  }, [build, kept, revision, stored.id]);

  useEffect(() => {
    if (save.kind !== "unsaved" && save.kind !== "failed") return;
    const timer = setTimeout(() => void push(latest.current, revision), save.kind === "failed" ? AGAIN : PAUSE);
    return () => clearTimeout(timer);
  }, [save, build, revision, push]);

  return {
    build,
    edit,
    /** Puts a whole other document in place; can be undone. */
    replace: useCallback((document: Build) => dispatch({ kind: "replace", build: document }), []),
    undo: useCallback(() => dispatch({ kind: "undo" }), []),
    redo: useCallback(() => dispatch({ kind: "redo" }), []),
    canUndo: history.past.length > 0,
    canRedo: history.future.length > 0,
    revision,
    savedAt,
    // An edit is unsaved from the moment it is drawn, not only once the state has followed.
    save: save.kind === "saved" && build !== kept ? UNSAVED : save,
    /** Saves what is here on top of what was saved elsewhere. */
    keepMine: () => {
      if (save.kind === "stale") void push(latest.current, save.theirs.revision);
    },
    /** Takes a version that is already stored. */
    adopt: (theirs: StoredBuild) => {
      setKept(theirs.document);
      setRevision(theirs.revision);
      setSavedAt(theirs.saved_at);
      localStorage.removeItem(draftKey(stored.id));
      dispatch({ kind: "replace", build: theirs.document });
      setSave({ kind: "saved" });
    },
  };
}

export type Edit = ReturnType<typeof useBuild>["edit"];
