import { useCallback, useState } from "react";
import type { Build } from "../../api/client";
import { type Said, useArrived, usePlayer, useShowView } from "./useShow";

/** What editor and stage of a show share: its inputs, the player, and pieces that are being put in order. */
export function useShowState(build: Build, scene: string, on: boolean) {
  const [inputs, setInputs] = useState<Said>({});
  const [speed, setSpeed] = useState(1);
  const [arrives, setArrives] = useState(true);
  const [order, setOrder] = useState<string[] | null>(null);
  // Nothing is asked while nobody looks.
  const shown = on && build.lights.some((light) => light.load.kind === "pixels") ? scene : "";
  const view = useShowView(build, shown, inputs);
  const player = usePlayer(build, shown, inputs, speed, view.data?.most_speed ?? 1, arrives);
  const arrived = useArrived(build, shown, inputs, player.playing ? (view.data?.power.worst.t_s ?? 0) : player.time);
  return {
    view,
    player,
    arrived,
    inputs,
    say: useCallback((input: string, says: number | string) => setInputs((old) => ({ ...old, [input]: says })), []),
    speed,
    setSpeed,
    arrives,
    setArrives,
    order,
    setOrder,
    onPiece: useCallback((light: string) => setOrder((old) => (old && !old.includes(light) ? [...old, light] : old)), []),
  };
}

export type ShowState = ReturnType<typeof useShowState>;
