import { useEffect } from "react";
import { usePrefs } from "../base/prefs";
import { STEPS, type Step } from "../document/steps";

interface Keys {
  undo: () => void;
  redo: () => void;
  onPalette: () => void;
  onSheet: () => void;
  onStep: (step: Step) => void;
  onPrint: () => void;
}

/** Keys of the workbench: undo and redo, the palette, the list of keys, the sheet on paper, and a digit for each step. */
export function useKeys({ undo, redo, onPalette, onSheet, onStep, onPrint }: Keys): void {
  const { keys } = usePrefs();
  useEffect(() => {
    const onKey = (event: globalThis.KeyboardEvent) => {
      const key = event.key.toLowerCase();
      const typing = document.activeElement instanceof HTMLInputElement && document.activeElement.type !== "radio";
      if ((event.ctrlKey || event.metaKey) && !event.altKey) {
        if (key === "k") {
          event.preventDefault();
          onPalette();
        }
        // Where a view has made something for paper, that is printed; else the sheet of the whole build.
        if (key === "p" && !document.querySelector("body > .on-paper")) {
          event.preventDefault();
          onPrint();
        }
        if (key !== "z" && key !== "y") return;
        event.preventDefault();
        // A field with the caret in it takes its new value only when it lets go.
        if (document.activeElement instanceof HTMLInputElement) document.activeElement.blur();
        if (key === "y" || event.shiftKey) redo();
        else undo();
        return;
      }
      if (!keys || typing || event.altKey || document.activeElement instanceof HTMLSelectElement || document.querySelector("[role=dialog][data-state=open]"))
        return;
      const step = /^[0-9]$/.test(key) ? STEPS[(Number(key) + 9) % 10] : undefined;
      if (event.key === "?") onSheet();
      else if (step) onStep(step);
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undo, redo, onPalette, onSheet, onStep, onPrint, keys]);
}
