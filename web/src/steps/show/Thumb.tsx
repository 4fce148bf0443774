import { useEffect, useRef } from "react";
import type { Thumbnail } from "../../api/client";
import { SCREEN, codes } from "../../base/linear";

/** A row of pixels that moves while it is pointed at, for those who want motion. */
export function Thumb({ thumbnail, moves }: { thumbnail: Thumbnail; moves: boolean }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!context) return;
    const { count, frames, step_s, codes: text } = thumbnail;
    const own = new Uint8Array(3 * count);
    const { width, height } = context.canvas;
    const draw = (frame: number) => {
      codes(text, 6 * count * frame, own.length, own);
      context.fillStyle = "#0b0e13";
      context.fillRect(0, 0, width, height);
      const step = width / count;
      for (let pixel = 0; pixel < count; pixel++) {
        const [red, green, blue] = [SCREEN[own[3 * pixel]!]!, SCREEN[own[3 * pixel + 1]!]!, SCREEN[own[3 * pixel + 2]!]!];
        context.fillStyle = `rgb(${red} ${green} ${blue})`;
        context.fillRect(pixel * step + step * 0.1, height * 0.2, step * 0.8, height * 0.6);
      }
    };
    if (!moves) {
      draw(brightest(thumbnail));
      return;
    }
    let asked = 0;
    const begun = performance.now();
    const next = () => {
      draw(Math.floor((performance.now() - begun) / 1000 / step_s) % frames);
      asked = requestAnimationFrame(next);
    };
    next();
    return () => cancelAnimationFrame(asked);
  }, [thumbnail, moves]);
  return <canvas ref={canvas} width={160} height={26} aria-hidden style={{ width: "100%", height: "1.6rem", borderRadius: 4, display: "block" }} />;
}

/** The frame that shows most. */
function brightest({ count, frames, codes: text }: Thumbnail): number {
  const own = new Uint8Array(3 * count);
  let [best, most] = [0, -1];
  for (let frame = 0; frame < frames; frame++) {
    codes(text, 6 * count * frame, own.length, own);
    const sum = own.reduce((total, code) => total + code, 0);
    if (sum > most) [best, most] = [frame, sum];
  }
  return best;
}
