import { memo } from "react";
import { ink } from "../theme";
import { type View, useViews } from "./outlines";

/** A vehicle as a thing, in the tones of one light, on its ground. */
export const Body = memo(function Body({ view }: { view: View }) {
  const [from = 0, to = 560] = view.reach;
  return (
    <g aria-hidden>
      {view.ground != null && <ellipse cx={(from + to) / 2} cy={view.ground} rx={(to - from) / 2} ry="6" fill={ink.shadow} />}
      {view.tones.map((tone, index) => (
        <path key={index} d={tone} fill={ink.tones[index]} fillRule="evenodd" />
      ))}
    </g>
  );
});

/** A small picture of a form, where nothing shines. */
export function Icon({ kind, variant, height }: Parameters<typeof useViews>[0] & { height: string }) {
  const view = useViews({ kind, variant })[0];
  return (
    <svg viewBox="0 0 560 300" aria-hidden style={{ display: "block", width: "100%", height }}>
      {view && <Body view={view} />}
    </svg>
  );
}
