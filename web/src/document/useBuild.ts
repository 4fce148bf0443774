import { replaceEqualDeep } from "@tanstack/react-query";
import { startTransition, useCallback, useEffect, useRef, useState } from "react";
import type { Build, StoredBuild } from "../api/client";
import { type Action, begin, reduce } from "./history";
import { Saver } from "./saver";
import { afterPaint } from "../base/paint";

/**
 * One build being edited: its history, and what saves it. `onEdit` hears of an edit before it is drawn, and says whether its
 * verdict is there already; `null` is any other step. Who may not edit can try things, and they stay in this browser.
 */
export function useBuild(stored: StoredBuild, onEdit: (build: Build | null) => boolean, mayEdit: boolean) {
  const [saver] = useState(() => new Saver(stored));
  const [first] = useState(() => begin(saver.recovered ?? stored.document));
  /** What is drawn may lag a picture behind; every edit goes on from what was edited last. */
  const history = useRef(first);
  const [drawn, setDrawn] = useState(first);

  const act = useCallback(
    (action: Action<Build>) => {
      const next = reduce(history.current, action);
      if (next === history.current) return;
      const later = onEdit(action.kind === "edit" ? action.build : null) && action.kind === "edit" && action.shown;
      history.current = next;
      // With the edit: what is not saved is never on the screen as saved.
      saver.edited(next.now);
      if (later) afterPaint(() => startTransition(() => setDrawn(history.current)));
      else setDrawn(next);
    },
    [saver, onEdit],
  );

  const edit = useCallback(
    /** `shown` says that the field itself shows what was typed: where the verdict is there too, the rest may follow. */
    (change: (draft: Build) => void, touched = "", shown = false) => {
      const { now } = history.current;
      const copy = structuredClone(now);
      change(copy);
      // What the edit left alone stays the same object, so that it is not drawn again.
      const draft = replaceEqualDeep(now, copy);
      if (draft === now) return;
      act({ kind: "edit", build: draft, touched, at: Date.now(), shown });
    },
    [act],
  );

  useEffect(() => saver.start(mayEdit), [saver, mayEdit]);

  return {
    build: drawn.now,
    edit,
    saver,
    /** Puts a whole other document in place; can be undone. */
    replace: useCallback((document: Build) => act({ kind: "replace", build: document }), [act]),
    undo: useCallback(() => act({ kind: "undo" }), [act]),
    redo: useCallback(() => act({ kind: "redo" }), [act]),
    canUndo: drawn.past.length > 0,
    canRedo: drawn.future.length > 0,
    /** Takes a version that is already stored. */
    adopt: useCallback(
      (theirs: StoredBuild) => {
        saver.adopt(theirs);
        act({ kind: "replace", build: theirs.document });
      },
      [saver, act],
    ),
  };
}

export type Edit = ReturnType<typeof useBuild>["edit"];
