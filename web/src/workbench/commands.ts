import { type Prefs, setPrefs } from "../base/prefs";
import type { Command } from "../document/command";
import { STATE_NAMES, STEPS, STEP_NAMES } from "../document/steps";
import type { Site } from "../steps/module";
import { MODULES } from "../steps/registry";
import type { SourceState } from "../api/client";

interface Acts {
  states: readonly SourceState[];
  onState: (state: SourceState) => void;
  undo: () => void;
  redo: () => void;
  onExport: () => void;
  onKeys: () => void;
}

/** Everything that the palette finds. */
export function commands(site: Site, prefs: Prefs, { states, onState, undo, redo, onExport, onKeys }: Acts): Command[] {
  const { go } = site;
  const { build, onSelect, onPlace } = site.editor;
  return [
    ...STEPS.map((step, index) => ({
      name: `Go to ${STEP_NAMES[step]}`,
      keys: index < 10 ? String((index + 1) % 10) : undefined,
      act: () => go({ step }),
    })),
    ...STEPS.flatMap((step) => MODULES[step].commands?.(site) ?? []),
    ...build.scenes.map((scene) => ({ name: `Scene: ${scene.name}`, act: () => go({ scene: scene.id }) })),
    ...states.map((state) => ({ name: `Battery: ${STATE_NAMES[state]}`, act: () => onState(state) })),
    ...[...build.converters, ...build.lights].map((part) => ({ name: `Open ${part.id}`, act: () => onSelect(part.id) })),
    { name: "Add a light", act: () => onPlace("", true) },
    { name: "Undo", keys: "Ctrl Z", act: undo },
    { name: "Redo", keys: "Ctrl Shift Z", act: redo },
    { name: "Export the build", act: onExport },
    { name: prefs.imperial ? "Lengths in metres" : "Lengths in inches", act: () => setPrefs({ imperial: !prefs.imperial }) },
    { name: prefs.metric ? "Wires in AWG" : "Wires in mm²", act: () => setPrefs({ metric: !prefs.metric }) },
    { name: prefs.blink ? "Keep blinking lights still" : "Let blinking lights blink", act: () => setPrefs({ blink: !prefs.blink }) },
    { name: "Shortcuts", keys: "?", act: onKeys },
  ];
}
