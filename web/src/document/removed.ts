import { toaster } from "../base/toaster";

/** How the open build takes back its last change; the page that has it open says so. */
let undo: (() => void) | null = null;
let told: { id: string; after: object } | null = null;

export function undoesBy(act: (() => void) | null) {
  undo = act;
}

/** The build changed: what is offered no longer undoes the removal alone. */
export function changedTo(document: object) {
  if (told && told.after !== document) {
    toaster.dismiss(told.id);
    told = null;
  }
}

/** Says what was removed, with a way back, until something else is changed. */
export function offerUndo(what: string, after: object) {
  const id = toaster.create({ title: `“${what}” removed`, duration: 15_000, action: { label: "Undo", onClick: () => undo?.() } });
  told = id ? { id, after } : null;
}

const cards = () => [...document.querySelectorAll<HTMLElement>("article.card")];

/** Where the focus is among the cards of a step, so that it stays there when one of them goes. */
export function holdPlace(): () => void {
  const at = cards().findIndex((card) => card.contains(document.activeElement));
  return () =>
    requestAnimationFrame(() => {
      if (document.activeElement !== document.body) return;
      const left = cards();
      const next = left[Math.min(Math.max(at, 0), left.length - 1)];
      (next?.querySelector<HTMLElement>("button, input, select") ?? document.querySelector<HTMLElement>(".step-heading h2"))?.focus();
    });
}
