import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { type Build, type ControllerHeard, type Played, answer, api, problemOf } from "../../api/client";
import { numberOf } from "../../document/useSolved";

/** What inputs say: a share or a word, by name. */
export type Said = Record<string, number | string>;

const ask = (build: Build, scene: string, inputs: Said) => ({ document: build, scene, inputs });

/** Chains of a build, what a scene takes, how fast it may be shown. */
export function useShowView(build: Build, scene: string, inputs: Said) {
  return useQuery({
    queryKey: ["show", numberOf(build), scene, JSON.stringify(inputs)],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/show", { body: ask(build, scene, inputs), signal })),
    placeholderData: keepPreviousData,
    enabled: scene !== "",
  });
}

/** Each light of pixels at a moment, asked and delivered, with what a second feed would do. */
export function useArrived(build: Build, scene: string, inputs: Said, from_s: number) {
  return useQuery({
    queryKey: ["show arrives", numberOf(build), scene, JSON.stringify(inputs), from_s],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/show/arrives", { body: { ...ask(build, scene, inputs), from_s }, signal })),
    placeholderData: keepPreviousData,
    enabled: scene !== "",
  });
}

/** Effects and ready shows to pick from. */
export function useCards(build: Build) {
  return useQuery({
    queryKey: ["show cards", numberOf(build)],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/show/cards", { body: { document: build }, signal })),
    placeholderData: keepPreviousData,
  });
}

/** Frames a second that are asked of the core in the page, and how many at a time. */
export const RATE = 60;
const CHUNK = 30;

/** What is drawn: which answer, and which frame in it. */
export interface Drawn {
  played: Played;
  frame: number;
}

/** A show in hand: a moment that stands or moves, drawn by whoever listens. */
export interface Player {
  playing: boolean;
  time: number;
  /** Where frames come from while it plays. */
  through: "controller" | "page" | null;
  heard: ControllerHeard | null;
  trouble: string | null;
  play: () => void;
  stop: () => void;
  seek: (time: number) => void;
  /** Called with every new frame. */
  listen: (draw: (drawn: Drawn) => void) => () => void;
}

/**
 * Plays a scene through the simulated controller, so that what is seen went over the protocol; where the workshop is away,
 * by the core in the page. Standing still it shows single frames.
 */
export function usePlayer(build: Build, scene: string, inputs: Said, speed: number, mostSpeed: number, arrives: boolean): Player {
  const [playing, setPlaying] = useState(false);
  const [time, setTime] = useState(0);
  const [heard, setHeard] = useState<ControllerHeard | null>(null);
  const [through, setThrough] = useState<Player["through"]>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const listeners = useRef(new Set<(drawn: Drawn) => void>());
  const last = useRef<Drawn | null>(null);
  const now = useRef({ time: 0, since: 0 });
  const shownSpeed = Math.min(speed, mostSpeed);
  const draw = useCallback((drawn: Drawn) => {
    last.current = drawn;
    for (const listener of listeners.current) listener(drawn);
  }, []);
  const listen = useCallback((listener: (drawn: Drawn) => void) => {
    listeners.current.add(listener);
    if (last.current) listener(last.current);
    return () => void listeners.current.delete(listener);
  }, []);
  const said = JSON.stringify(inputs);
  const body = useMemo(() => ({ document: build, scene, inputs: JSON.parse(said) as Said }), [build, scene, said]);

  // Standing still: one frame.
  useEffect(() => {
    if (playing || scene === "") return;
    const asked = new AbortController();
    answer(api.POST("/api/v1/show/frames", { body: { ...body, from_s: time, frames: 1, delivered: arrives }, signal: asked.signal }))
      .then((played) => {
        setTrouble(null);
        draw({ played, frame: 0 });
      })
      .catch((error: unknown) => !asked.signal.aborted && setTrouble(problemOf(error).detail));
    return () => asked.abort();
  }, [playing, body, scene, time, arrives, draw]);

  useEffect(() => {
    if (!playing) return;
    const ended = new AbortController();
    const clock = now.current;
    clock.since = performance.now();
    const begun = clock.time;
    const at = () => begun + (shownSpeed * (performance.now() - clock.since)) / 1000;
    const tick = window.setInterval(() => setTime((clock.time = at())), 100);
    const put = (play: object | null) => answer(api.PUT("/api/v1/controller", { body: { play: play as never } }));
    const throughController = async () => {
      await put({ ...body, speed: shownSpeed, from_s: begun });
      setThrough("controller");
      while (!ended.signal.aborted) {
        const told = await answer(api.GET("/api/v1/controller", { params: { query: { wait: true, delivered: arrives } }, signal: ended.signal }));
        if (ended.signal.aborted) return;
        if (told.shows) draw({ played: told.shows, frame: 0 });
        setHeardSometimes(told);
      }
    };
    let told = 0;
    const setHeardSometimes = (state: ControllerHeard) => {
      // Figures that change forty times a second are read by nobody.
      if (performance.now() - told < 400) return;
      told = performance.now();
      setHeard(state);
    };
    const inThePage = async () => {
      setThrough("page");
      let chunk = await frames(at());
      let next = frames(chunk.from_s + chunk.frames * chunk.step_s);
      while (!ended.signal.aborted) {
        const frame = Math.floor((at() - chunk.from_s) / chunk.step_s);
        if (frame >= chunk.frames) {
          chunk = await next;
          // Whoever cannot keep up leaves frames out.
          if (at() > chunk.from_s + chunk.frames * chunk.step_s) chunk = await frames(at());
          next = frames(chunk.from_s + chunk.frames * chunk.step_s);
          continue;
        }
        draw({ played: chunk, frame: Math.max(frame, 0) });
        await new Promise((resolve) => requestAnimationFrame(resolve));
      }
    };
    const frames = (from_s: number): Promise<Played> =>
      answer(
        api.POST("/api/v1/show/frames", {
          body: { ...body, from_s, step_s: shownSpeed / RATE, frames: CHUNK, delivered: arrives },
          signal: ended.signal,
        }),
      );
    const gone = (error: unknown) => {
      if (!ended.signal.aborted) {
        setTrouble(problemOf(error).detail);
        setPlaying(false);
      }
    };
    throughController().catch((error: unknown) => {
      if (ended.signal.aborted) return;
      const problem = problemOf(error);
      // What cannot be played at all is said; a workshop that is away is done without.
      if (problem.status === 422) gone(error);
      else inThePage().catch(gone);
    });
    return () => {
      ended.abort();
      window.clearInterval(tick);
      setTime((clock.time = at()));
    };
  }, [playing, body, shownSpeed, arrives, draw]);

  // The controller rests once nothing plays any more.
  useEffect(() => {
    if (!playing) return;
    return () => {
      setThrough(null);
      answer(api.PUT("/api/v1/controller", { body: { play: null } })).catch(() => undefined);
    };
  }, [playing]);

  return {
    playing,
    time,
    through,
    heard,
    trouble,
    play: useCallback(() => setPlaying(true), []),
    stop: useCallback(() => setPlaying(false), []),
    seek: useCallback((to: number) => {
      setPlaying(false);
      setTime((now.current.time = Math.max(to, 0)));
    }, []),
    listen,
  };
}
