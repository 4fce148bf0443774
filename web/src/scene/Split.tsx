import { Box } from "@chakra-ui/react";
import { type ReactNode, useRef, useState } from "react";
import { kept } from "../base/kept";

const KEY = "orthavis.split";
/** Share of the pane that the upper part has, before anyone drags, and at most and at least. */
const USUAL = 0.56;
const LIMITS = [0.25, 0.8] as const;
const STEP = 0.04;

const within = (share: number) => Math.min(LIMITS[1], Math.max(LIMITS[0], share));
const remembered = () => {
  const share = Number(kept.get(KEY) ?? "");
  return share > 0 ? within(share) : USUAL;
};

/** Two pictures one above the other, with a line between them that is dragged, by hand or by keys, and remembered. */
export function Split({ upper, lower }: { upper: ReactNode; lower: ReactNode }) {
  const [share, setShare] = useState(remembered);
  const pane = useRef<HTMLDivElement>(null);
  const put = (next: number) => {
    const share = Math.round(100 * within(next)) / 100;
    setShare(share);
    kept.set(KEY, String(share));
  };
  const drag = (event: React.PointerEvent) => {
    const box = pane.current?.getBoundingClientRect();
    if (box && event.currentTarget.hasPointerCapture(event.pointerId)) put((event.clientY - box.top) / box.height);
  };
  return (
    <Box ref={pane} className="split" style={{ "--upper": share, "--lower": 1 - share } as React.CSSProperties}>
      <div className="upper">{upper}</div>
      <div
        role="separator"
        aria-orientation="horizontal"
        aria-label="Line between the vehicle and the river: drag it, or use the arrow keys"
        aria-valuenow={Math.round(100 * share)}
        aria-valuemin={100 * LIMITS[0]}
        aria-valuemax={100 * LIMITS[1]}
        tabIndex={0}
        className="line"
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={drag}
        onDoubleClick={() => put(USUAL)}
        onKeyDown={(event) => {
          if (event.key !== "ArrowUp" && event.key !== "ArrowDown") return;
          event.preventDefault();
          put(share + (event.key === "ArrowDown" ? STEP : -STEP));
        }}
      />
      <div className="river">{lower}</div>
    </Box>
  );
}
