import "../../paper.css";
import { createPortal } from "react-dom";
import type { Build, WireLabel } from "../../api/client";
import { useSaving } from "../../workbench/Saving";

/** What labels are printed on, mm. A flag is folded around its wire in the middle, so it says everything twice. */
export const SIZES = {
  small: { words: "small, 40 × 8 mm", width: 40, height: 8, font: 6.5 },
  medium: { words: "medium, 60 × 12 mm", width: 60, height: 12, font: 8.5 },
  large: { words: "large, 86 × 18 mm", width: 86, height: 18, font: 11 },
} as const;
export type Size = keyof typeof SIZES;

/** The labels on paper, in rows to be cut. On the screen they are not there. */
export function LabelSheet({ build, labels, size }: { build: Build; labels: readonly WireLabel[]; size: Size }) {
  const { revision } = useSaving();
  const { width, height, font } = SIZES[size];
  const text = (label: WireLabel) => (
    <span style={{ flex: 1, overflow: "hidden", paddingInline: "1mm" }}>
      <b style={{ display: "block", whiteSpace: "nowrap" }}>{label.title}</b>
      <span style={{ display: "block", whiteSpace: "nowrap", fontSize: "0.72em" }}>{label.line}</span>
    </span>
  );
  return createPortal(
    <div className="on-paper">
      <p>
        {build.name}, revision {revision}: {labels.length} labels. Cut along the lines; fold a flag around its wire at the dots.
      </p>
      <div style={{ display: "flex", flexWrap: "wrap", gap: "2mm" }}>
        {labels.map((label, index) => (
          <div
            key={index}
            className="paper-label"
            style={{
              width: `${width}mm`,
              height: `${height}mm`,
              fontSize: `${font}pt`,
              lineHeight: 1.15,
              border: "0.2mm solid black",
              display: "flex",
              alignItems: "center",
              breakInside: "avoid",
            }}
          >
            {text(label)}
            {label.kind === "wire" && (
              <>
                <span style={{ borderLeft: "0.3mm dotted black", alignSelf: "stretch" }} />
                {text(label)}
              </>
            )}
          </div>
        ))}
      </div>
    </div>,
    document.body,
  );
}
