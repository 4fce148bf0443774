import { type Ref, useCallback, useEffect, useImperativeHandle, useRef } from "react";
import type { Falling } from "../../api/client";
import { type Planes, compose } from "./compose";
import { type Graphics, graphicsOf } from "./graphics";

/** Draws on a canvas: by its graphics card, or by the processor. */
class Painter {
  private card: Graphics | null | undefined;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    plain: boolean,
  ) {
    if (plain) this.card = null;
  }

  paint(planes: Planes, falling: Falling) {
    const begun = performance.now();
    if (this.card === undefined) this.card = graphicsOf(this.canvas);
    if (this.card) this.card.draw(planes, falling);
    else this.byProcessor(planes, falling);
    this.canvas.dataset.drawn = this.card ? "card" : "processor";
    this.canvas.dataset.took = (performance.now() - begun).toFixed(1);
  }

  private byProcessor(planes: Planes, falling: Falling) {
    const context = this.canvas.getContext("2d");
    if (this.canvas.width !== planes.wide) this.canvas.width = planes.wide;
    if (this.canvas.height !== planes.high) this.canvas.height = planes.high;
    context?.putImageData(new ImageData(compose(planes, falling), planes.wide, planes.high), 0, 0);
  }
}

/** What can be done with a picture that is drawn. */
export interface Painted {
  paint: (falling: Falling) => void;
  canvas: HTMLCanvasElement | null;
}

interface Props {
  planes: Planes;
  falling: Falling;
  /** What is seen in it; empty: nothing that is not said beside it. */
  label: string;
  /** Drawn by the processor: a browser has few graphics contexts, and a small picture needs none. */
  plain?: boolean;
  handle?: Ref<Painted>;
  style?: React.CSSProperties;
}

/** The night as an eye has it. */
export function NightPicture({ planes, falling, label, plain = false, handle, style }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const painter = useRef<Painter>(undefined);
  const paint = useCallback(
    (next: Falling) => {
      if (!canvas.current) return;
      painter.current ??= new Painter(canvas.current, plain);
      painter.current.paint(planes, next);
    },
    [planes, plain],
  );
  useImperativeHandle(handle, () => ({ paint, canvas: canvas.current }), [paint]);
  useEffect(() => {
    paint(falling);
  }, [paint, falling]);
  const named = label ? ({ role: "img", "aria-label": label } as const) : { "aria-hidden": true };
  return <canvas ref={canvas} {...named} width={planes.wide} height={planes.high} style={{ width: "100%", display: "block", ...style }} />;
}
