import { Box, Button } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { type Tick, sayDay, sayMinutes, sayTime } from "./time";
import type { Step } from "./useMake";

/** Something that cures or dries: how long still, told when it is done. */
export function Cures({ step, tick }: { step: Step; tick: Tick }) {
  const until = Date.parse(tick.at) + 60_000 * step.wait!.minutes;
  const { title } = step;
  const words = step.wait!.what;
  const [now, setNow] = useState(() => Date.now());
  const over = now >= until;
  useEffect(() => {
    if (over) return;
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, [over]);
  // What was over before the page was opened has been heard of.
  const [began] = useState(() => Date.now());
  useEffect(() => {
    if (!over || until <= began) return;
    beep();
    notify(`${words}: done`, title);
  }, [over, until, began, words, title]);
  if (over && now - until > 30 * 60_000) return null;
  const left = (until - now) / 60_000;
  return (
    <Box role="timer" className="card" borderColor={over ? "good.solid" : undefined} display="flex" gap="3" alignItems="baseline">
      <Box fontSize="2xl" fontWeight="bold" fontVariantNumeric="tabular-nums" color={over ? "good.fg" : undefined}>
        {over ? "✓ done" : left < 60 ? `${Math.floor(left)}:${String(Math.floor((left * 60) % 60)).padStart(2, "0")}` : sayMinutes(left)}
      </Box>
      <Box>
        {words}
        <Box as="span" color="fg.muted">
          {" "}
          · {title}, until {sayDay(new Date(until))} {sayTime(new Date(until))}
        </Box>
      </Box>
      {!over && <TellMe />}
    </Box>
  );
}

/** Asks the browser whether it may tell when something is done, where it can. */
function TellMe() {
  const [state, setState] = useState(() => (tells() ? Notification.permission : "denied"));
  if (state !== "default") return null;
  return (
    <Button size="sm" minH="9" ml="auto" variant="outline" onClick={() => void Notification.requestPermission().then(setState)}>
      Tell me
    </Button>
  );
}

/** A page that came over a secure way may tell; one from the local network may not. */
const tells = () => window.isSecureContext && "Notification" in window;

function notify(words: string, about: string) {
  if (tells() && Notification.permission === "granted") new Notification(words, { body: about, tag: about });
}

/** Keeps the screen on beside the soldering iron, where the browser can. */
export function KeepAwake() {
  const [on, setOn] = useState(false);
  useEffect(() => {
    if (!on) return;
    let lock: WakeLockSentinel | undefined;
    let over = false;
    // A screen that was off in between has let go of it.
    const hold = () => {
      if (document.visibilityState !== "visible") return;
      navigator.wakeLock.request("screen").then(
        (got) => {
          if (over) void got.release();
          else lock = got;
        },
        () => setOn(false),
      );
    };
    hold();
    document.addEventListener("visibilitychange", hold);
    return () => {
      over = true;
      document.removeEventListener("visibilitychange", hold);
      void lock?.release();
    };
  }, [on]);
  if (!window.isSecureContext || !("wakeLock" in navigator)) return null;
  return (
    <label className="tick">
      <input type="checkbox" checked={on} onChange={() => setOn(!on)} />
      Keep the screen on
    </label>
  );
}

/** Three short tones, where the browser lets a page sound. */
function beep() {
  try {
    const sound = new AudioContext();
    for (const at of [0, 0.3, 0.6]) {
      const tone = sound.createOscillator();
      tone.frequency.value = 880;
      tone.connect(sound.destination);
      tone.start(sound.currentTime + at);
      tone.stop(sound.currentTime + at + 0.15);
    }
  } catch {
    // It is told on the screen too.
  }
}
