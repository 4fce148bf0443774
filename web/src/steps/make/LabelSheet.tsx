import "../../paper.css";
import { createPortal } from "react-dom";
import type { Build, WireLabel } from "../../api/client";
import { headOf, usePageHead } from "./pageHead";

/** What labels are printed on, mm. A flag is folded around its wire in the middle, so it says everything twice. */
export const SIZES = {
  small: { words: "small, 40 × 8 mm", width: 40, height: 8, font: 6.5 },
  medium: { words: "medium, 60 × 12 mm", width: 60, height: 12, font: 8.5 },
  large: { words: "large, 86 × 18 mm", width: 86, height: 18, font: 11 },
} as const;
export type Size = keyof typeof SIZES;

/** The labels on paper, in rows to be cut. On the screen they are not there. */
export function LabelSheet({ build, revision, labels, size }: { build: Build; revision?: number; labels: readonly WireLabel[]; size: Size }) {
  usePageHead(headOf(build, revision));
  return createPortal(
    <div className="on-paper">
      <p>{labels.length} labels. Cut along the lines; fold a flag around its wire at the dots.</p>
      <LabelRows labels={labels} size={size} />
    </div>,
    document.body,
  );
}

/** Labels side by side. */
export function LabelRows({ labels, size }: { labels: readonly WireLabel[]; size: Size }) {
  const { width, height, font } = SIZES[size];
  const text = (label: WireLabel) => (
    <span className="label-half">
      <b>{label.title}</b>
      <small>{label.line}</small>
    </span>
  );
  return (
    <div className="label-rows">
      {labels.map((label, index) => (
        <div key={index} className="paper-label" style={{ width: `${width}mm`, height: `${height}mm`, fontSize: `${font}pt` }}>
          {text(label)}
          {label.kind === "wire" && (
            <>
              <span className="label-fold" />
              {text(label)}
            </>
          )}
        </div>
      ))}
    </div>
  );
}
