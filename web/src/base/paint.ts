import { startTransition, useEffect, useRef, useState } from "react";

/** Does something once the next frame is on the screen. */
export function afterPaint(then: () => void) {
  requestAnimationFrame(() => {
    // A task of its own: the frame that this callback belongs to is painted before it.
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = then;
    port2.postMessage(null);
  });
}

/**
 * A value that follows once what was drawn of it first is on the screen: the verdict is painted, then the drawings are
 * worked at. While values come faster than that, it takes the newest each time.
 */
export function useAfterPaint<T>(value: T | undefined): T | undefined {
  const [shown, setShown] = useState(value);
  const newest = useRef(value);
  const waiting = useRef(false);
  useEffect(() => {
    newest.current = value;
    if (waiting.current) return;
    waiting.current = true;
    afterPaint(() => {
      waiting.current = false;
      startTransition(() => setShown(newest.current));
    });
  }, [value]);
  return shown ?? value;
}
