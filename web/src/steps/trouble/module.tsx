import { type Dispatch, type ReactNode, type SetStateAction, createContext, useContext, useState } from "react";
import { type StepModule, useSite } from "../module";
import { type Known, NOTHING_KNOWN } from "./known";
import { TroubleStep } from "./TroubleStep";
import { TroubleView } from "./TroubleView";

const Shared = createContext<readonly [Known, Dispatch<SetStateAction<Known>>]>([NOTHING_KNOWN, () => undefined]);

function Keeper({ children }: { children: ReactNode }) {
  return <Shared.Provider value={useState(NOTHING_KNOWN)}>{children}</Shared.Provider>;
}

function Editor() {
  const { id, editor } = useSite();
  const { build, scene, onSelect } = editor;
  const [known, setKnown] = useContext(Shared);
  return <TroubleStep id={id} build={build} scene={scene} known={known} onKnown={setKnown} onSelect={onSelect} />;
}

function View() {
  const { id, editor, planned } = useSite();
  const [known, setKnown] = useContext(Shared);
  const { build, scene, state, selected, onSelect } = editor;
  return (
    <TroubleView id={id} build={build} scene={scene} state={state} known={known} onKnown={setKnown} picture={planned} selected={selected} onSelect={onSelect} />
  );
}

export const trouble: StepModule = { Editor, Keeper, view: () => ({ label: "What is wrong", View, after: true }) };
