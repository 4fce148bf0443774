import { Box, Button } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { kept } from "../base/kept";
import type { Step } from "../document/steps";

/** The one thing to do where somebody is for the first time. */
const FIRST: Record<Step, string> = {
  battery: "Find the label on your battery, type what it says below, and press “Fill in from this label”.",
  places: "Choose a place, lay a string from the battery to it, and type how long the string is.",
  lights: "Choose a kind of light and a place, then press “Add it”.",
  look: "Say what surrounds you at night, then open a light: each figure tells how it came about.",
  power: "Look whether each light gets the voltage it wants. A converter comes here by itself where one is needed.",
  wires: "Once there is a light, press “Preview changes”: wire and fuse sizes are chosen for you, and you see them before you take them.",
  drain: "Type how long each scene is on. The time the lights last then follows.",
  show: "Choose a scene above, then what each piece of strip does in it.",
  bench: "Choose two points for the probes, and see what a meter would read there.",
  steps: "Do what the card says, check it, and press “Done”. The next step comes by itself.",
  parts: "Type what you have already; what is left is what to buy.",
  diagram: "Print the labels, and put one on each end of every wire.",
  journal: "After an outing, write one line of what happened. The examples below can be pressed.",
  trouble: "Say how each light looks. Then one check after the other finds the fault.",
};

const KEY = "orthavis.visited";
const visited = () => (kept.get(KEY) ?? "").split(" ");

/** A sentence at each step's first visit, until it is read or the step is left. */
export function FirstVisit({ step }: { step: Step }) {
  const [at, setAt] = useState(step);
  const [isNew, setNew] = useState(() => !visited().includes(step));
  if (at !== step) {
    setAt(step);
    setNew(!visited().includes(step));
  }
  useEffect(() => {
    const before = visited();
    if (!before.includes(step)) kept.set(KEY, [...before, step].join(" ").trim());
  }, [step]);
  if (!isNew) return null;
  return (
    <Box role="note" className="first-visit">
      <span>{FIRST[step]}</span>
      <Button size="xs" minH="8" variant="ghost" onClick={() => setNew(false)}>
        Got it
      </Button>
    </Box>
  );
}
