import { replaceEqualDeep } from "@tanstack/react-query";
import { useCallback, useEffect, useLayoutEffect, useReducer, useRef, useState } from "react";
import type { Build, StoredBuild } from "../api/client";
import { begin, reduce } from "./history";
import { Saver } from "./saver";

/**
 * One build being edited: its history, and what saves it. `onEdit` hears of an edit before it is drawn. Who may not edit
 * can try things, and they stay in this browser.
 */
export function useBuild(stored: StoredBuild, onEdit: (build: Build) => void, mayEdit: boolean) {
  const [saver] = useState(() => new Saver(stored));
  const [history, dispatch] = useReducer(reduce<Build>, null, () => begin(saver.recovered ?? stored.document));
  const build = history.now;
  const latest = useRef(build);
  latest.current = build;

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

  // Before it is painted: an edit is never on the screen as saved.
  useLayoutEffect(() => saver.edited(build), [saver, build]);
  useEffect(() => saver.start(mayEdit), [saver, mayEdit]);

  return {
    build,
    edit,
    saver,
    /** Puts a whole other document in place; can be undone. */
    replace: useCallback((document: Build) => dispatch({ kind: "replace", build: document }), []),
    undo: useCallback(() => dispatch({ kind: "undo" }), []),
    redo: useCallback(() => dispatch({ kind: "redo" }), []),
    canUndo: history.past.length > 0,
    canRedo: history.future.length > 0,
    /** Takes a version that is already stored. */
    adopt: useCallback(
      (theirs: StoredBuild) => {
        saver.adopt(theirs);
        dispatch({ kind: "replace", build: theirs.document });
      },
      [saver],
    ),
  };
}

export type Edit = ReturnType<typeof useBuild>["edit"];
