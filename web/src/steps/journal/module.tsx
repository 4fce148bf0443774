import { type ReactNode, createContext, lazy, useCallback, useContext } from "react";
import { type Site, type StepModule, useSite } from "../module";
import { JournalStep } from "./JournalStep";
import { type Lived, useLived } from "./useLived";
import { JOURNAL_NAMES, JOURNAL_VIEWS, type JournalPart } from "./views";

const fetch = () => import("./JournalView");
const Middle = lazy(() => fetch().then((module) => ({ default: module.JournalView })));

const Shared = createContext<Lived | null>(null);
const partOf = ({ address }: Site): JournalPart => (address.journal as JournalPart | undefined) ?? "now";

function Keeper({ children }: { children: ReactNode }) {
  const { id, editor, step } = useSite();
  return <Shared.Provider value={useLived(id, editor.build, step === "journal")}>{children}</Shared.Provider>;
}

function Editor() {
  const { id, editor, go } = useSite();
  const onTrouble = useCallback(() => go({ step: "trouble" }), [go]);
  return <JournalStep id={id} build={editor.build} lived={useContext(Shared)!} onTrouble={onTrouble} />;
}

function View() {
  const site = useSite();
  const { build, replace } = site.editor;
  return <Middle id={site.id} build={build} lived={useContext(Shared)!} part={partOf(site)} onPart={(journal) => site.go({ journal })} onTake={replace} />;
}

export const journal: StepModule = {
  Editor,
  Keeper,
  view: () => ({ label: "What it says back", View, after: true, fetching: "Opening the journal …" }),
  commands: ({ go }) =>
    JOURNAL_VIEWS.map((part) => ({ name: `Journal: ${JOURNAL_NAMES[part].toLowerCase()}`, act: () => go({ step: "journal", journal: part }) })),
  fetch,
};
