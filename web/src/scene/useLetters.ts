import { useEffect, useState } from "react";

/** What a drawing shows across and down, in its own units. */
const SEEN = { width: 640, height: 320 };
/** Letters of a drawing in its own units, and on the screen at least, px. */
const OWN = 15;
const LEAST = 12;

/** How large letters must be in a drawing so that they can be read on the screen, in its own units, with what measures it. */
export function useLetters(): [measure: (element: SVGSVGElement | null) => void, size: number] {
  const [element, measure] = useState<SVGSVGElement | null>(null);
  const [size, setSize] = useState(OWN);
  useEffect(() => {
    if (!element) return;
    const watch = new ResizeObserver(() => {
      const { width, height } = element.getBoundingClientRect();
      if (width === 0 || height === 0) return;
      const unit = Math.max(SEEN.width / width, SEEN.height / height);
      setSize(Math.max(OWN, Math.ceil(LEAST * unit)));
    });
    watch.observe(element);
    return () => watch.disconnect();
  }, [element]);
  return [measure, size];
}
