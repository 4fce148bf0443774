import { useEffect, useRef, useState } from "react";
import { kept } from "../base/kept";

const KEY = "orthavis.verdict";

/** Whether the verdict is folded to its headline, which is remembered; it opens by itself only for a danger that is new. */
export function useFold(dangers: readonly string[] | undefined): [folded: boolean, fold: (folded: boolean) => void] {
  const [folded, setFolded] = useState(() => kept.get(KEY) === "folded");
  const known = useRef<ReadonlySet<string>>(undefined);
  const fold = (next: boolean) => {
    setFolded(next);
    if (next) kept.set(KEY, "folded");
    else kept.drop(KEY);
  };
  const key = dangers?.join("\n");
  useEffect(() => {
    if (key === undefined) return;
    const now = new Set(key === "" ? [] : key.split("\n"));
    const before = known.current;
    known.current = now;
    // What was there when the build was opened is not new.
    if (before && [...now].some((danger) => !before.has(danger))) setFolded(false);
  }, [key]);
  return [folded, fold];
}
