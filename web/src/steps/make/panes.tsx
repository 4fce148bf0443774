import { useCallback } from "react";
import { useSaving } from "../../document/useSaving";
import { useSite } from "../module";
import { BringTicks } from "./BringTicks";
import { DiagramStep } from "./DiagramStep";
import { DiagramView } from "./DiagramView";
import { FitView } from "./FitView";
import { PartsStep } from "./PartsStep";
import { PartsView } from "./PartsView";
import { SheetCard } from "./SheetCard";
import { StepsStep } from "./StepsStep";
import { StepsView } from "./StepsView";
import { StepReadings } from "./StepReadings";
import { type Step, useMake } from "./useMake";
import { useStock } from "./useStock";

export function StepsEditor() {
  const { id, editor } = useSite();
  const make = useMake(id, editor.build);
  const { stock } = useStock();
  const { revision } = useSaving();
  return (
    <StepsStep {...editor} fixings={make.made?.fixings ?? []} evenings={make.made?.plan.evenings ?? []}>
      <SheetCard build={editor.build} revision={revision} stock={stock} ticks={make.ticks} />
      <BringTicks id={id} />
    </StepsStep>
  );
}

export function StepsMiddle() {
  const { id, editor, go } = useSite();
  const onTrouble = useCallback(() => go({ step: "trouble" }), [go]);
  const { build, state, onSelect } = editor;
  const readings = (step: Step) => <StepReadings id={id} build={build} state={state} step={step} />;
  return <StepsView build={build} make={useMake(id, build)} onSelect={onSelect} onTrouble={onTrouble} readings={readings} />;
}

export function PartsEditor() {
  const { build, edit } = useSite().editor;
  return <PartsStep build={build} edit={edit} stock={useStock().stock} />;
}

export function PartsMiddle() {
  const { build, edit, selected, onSelect } = useSite().editor;
  const { stock, put } = useStock();
  return (
    <>
      <PartsView build={build} stock={stock} onStock={put} edit={edit} />
      <FitView build={build} selected={selected} onSelect={onSelect} />
    </>
  );
}

export function DiagramEditor() {
  const { build, selected, onSelect } = useSite().editor;
  const { revision } = useSaving();
  return <DiagramStep build={build} revision={revision} selected={selected} onSelect={onSelect} />;
}

export function DiagramMiddle() {
  const { build, scene, selected, onSelect } = useSite().editor;
  return <DiagramView build={build} scene={scene} selected={selected} onSelect={onSelect} />;
}
