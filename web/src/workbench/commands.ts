import { type Prefs, setPrefs } from "../base/prefs";
import type { Command } from "../document/command";
import { STATE_NAMES, STEPS, STEP_NAMES, type Step } from "../document/steps";
import type { Site } from "../steps/module";
import { MODULES } from "../steps/registry";
import type { SourceState } from "../api/client";

interface Acts {
  states: readonly SourceState[];
  onState: (state: SourceState) => void;
  undo: () => void;
  redo: () => void;
  onExport: () => void;
  onPrint: () => void;
  onKeys: () => void;
  onSettings: () => void;
}

/** What people call what is done at a step. */
const CALLED: Record<Step, string> = {
  battery: "cells voltage volts capacity pack supply label charger",
  places: "where position measure string outline",
  lights: "lamp led bulb strip add colour brightness",
  look: "night seen noticed lumen brightness diffuser lens beam dazzle glow",
  power: "converter module controller pixels circuit flasher switch regulator",
  wires: "cable fuse awg thickness size plug switch connector",
  drain: "drain endurance hours how long range audit bulbs charge",
  show: "effect animation pixels pattern colours flash",
  bench: "meter measure test multimeter pinch short fault practice learn",
  steps: "solder build do next order schedule time tools",
  parts: "shopping list buy price cost cut drawer",
  diagram: "drawing wiring schematic print",
  journal: "log diary charge ride maintenance remind calendar notes",
  trouble: "dark broken dead fault repair flicker help something is wrong",
};

/** Everything that the palette finds. */
export function commands(site: Site, prefs: Prefs, { states, onState, undo, redo, onExport, onPrint, onKeys, onSettings }: Acts): Command[] {
  const { go } = site;
  const { build, onSelect, onPlace } = site.editor;
  return [
    ...STEPS.map((step, index) => ({
      name: `Go to ${STEP_NAMES[step]}`,
      also: CALLED[step],
      keys: index < 10 ? String((index + 1) % 10) : undefined,
      act: () => go({ step }),
    })),
    ...STEPS.flatMap((step) => MODULES[step].commands?.(site) ?? []),
    ...build.scenes.map((scene) => ({ name: `Scene: ${scene.name}`, act: () => go({ scene: scene.id }) })),
    ...states.map((state) => ({ name: `Battery: ${STATE_NAMES[state]}`, act: () => onState(state) })),
    ...[...build.converters, ...build.lights].map((part) => ({ name: `Open ${part.id}`, act: () => onSelect(part.id) })),
    { name: "Add a light", also: "lamp led strip new", act: () => onPlace("", true) },
    { name: "Undo", also: "back mistake", keys: "Ctrl Z", act: undo },
    { name: "Redo", keys: "Ctrl Shift Z", act: redo },
    { name: "Export the build as a file", also: "save share send backup file json", act: onExport },
    { name: "Print the build sheet", also: "paper pdf plan", keys: "Ctrl P", act: onPrint },
    {
      name: prefs.lengths === "m" ? "Lengths in inches" : "Lengths in metres",
      also: "units imperial metric feet",
      act: () => setPrefs({ lengths: prefs.lengths === "m" ? "in" : "m" }),
    },
    { name: prefs.metric ? "Wires in AWG" : "Wires in mm²", also: "units gauge", act: () => setPrefs({ metric: !prefs.metric }) },
    { name: prefs.blink ? "Keep blinking lights still" : "Let blinking lights blink", act: () => setPrefs({ blink: !prefs.blink }) },
    { name: "Settings", also: "theme units preferences options dark light paper temperature fahrenheit currency date week", act: onSettings },
    { name: "Shortcuts", also: "help keys keyboard", keys: "?", act: onKeys },
  ];
}
