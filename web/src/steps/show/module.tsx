import { type ReactNode, createContext, lazy, useCallback, useContext } from "react";
import { type StepModule, useSite } from "../module";
import { ShowStep } from "./ShowStep";
import { type ShowState, useShowState } from "./useShowState";

const fetch = () => import("./ShowView");
const Stage = lazy(() => fetch().then((module) => ({ default: module.ShowView })));

const Shared = createContext<ShowState | null>(null);
const useShow = () => useContext(Shared)!;

function Keeper({ children }: { children: ReactNode }) {
  const { editor, step } = useSite();
  return <Shared.Provider value={useShowState(editor.build, editor.scene, step === "show")}>{children}</Shared.Provider>;
}

function Editor() {
  const { editor, go } = useSite();
  return <ShowStep {...editor} show={useShow()} goScene={useCallback((scene: string) => go({ scene }), [go])} />;
}

function View() {
  const { build, scene, replace, selected, onSelect } = useSite().editor;
  return <Stage build={build} scene={scene} replace={replace} selected={selected} onSelect={onSelect} show={useShow()} />;
}

export const show: StepModule = { Editor, Keeper, view: () => ({ label: "The show", View, fetching: "Fetching the stage …" }), fetch };
