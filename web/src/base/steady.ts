import { useCallback, useRef } from "react";

/** Always the newest handler behind a function that never changes, so that an untouched part is not drawn again. */
export function useSteady<T>(handler: (value: T) => void): (value: T) => void {
  const newest = useRef(handler);
  newest.current = handler;
  return useCallback((value: T) => newest.current(value), []);
}
