import type { ReactNode } from "react";
import type { EditorProps } from "../../document/editor";
import { useSaving } from "../../document/useSaving";
import { DiagramStep } from "./DiagramStep";
import { DiagramView } from "./DiagramView";
import { FitView } from "./FitView";
import { BringTicks } from "./BringTicks";
import { PartsStep } from "./PartsStep";
import { PartsView } from "./PartsView";
import { SheetCard } from "./SheetCard";
import { StepsStep } from "./StepsStep";
import { StepsView } from "./StepsView";
import { useMake } from "./useMake";
import { useStock } from "./useStock";

export type MakeStep = "steps" | "parts" | "diagram";

interface Props {
  step: MakeStep;
  id: number;
  editor: EditorProps;
  onTrouble: () => void;
  /** Puts the editor and what answers it where they belong. */
  children: (editor: ReactNode, view: ReactNode) => ReactNode;
}

/** Making: steps and evenings, parts and rolls, diagram and labels. */
export default function MakeView({ step, ...props }: Props) {
  switch (step) {
    case "steps":
      return <Steps {...props} />;
    case "parts":
      return <Parts {...props} />;
    case "diagram":
      return <Wiring {...props} />;
  }
}

function Steps({ id, editor, onTrouble, children }: Omit<Props, "step">) {
  const make = useMake(id, editor.build);
  const { stock } = useStock();
  const { revision } = useSaving();
  return children(
    <StepsStep {...editor} fixings={make.made?.fixings ?? []} evenings={make.made?.plan.evenings ?? []}>
      <SheetCard build={editor.build} revision={revision} stock={stock} ticks={make.ticks} />
      <BringTicks id={id} />
    </StepsStep>,
    <StepsView build={editor.build} make={make} onSelect={editor.onSelect} onTrouble={onTrouble} />,
  );
}

function Parts({ editor: { build, edit, selected, onSelect }, children }: Omit<Props, "step">) {
  const { stock, put } = useStock();
  return children(
    <PartsStep build={build} edit={edit} stock={stock} />,
    <>
      <PartsView build={build} stock={stock} onStock={put} />
      <FitView build={build} selected={selected} onSelect={onSelect} />
    </>,
  );
}

function Wiring({ editor: { build, scene, selected, onSelect }, children }: Omit<Props, "step">) {
  const { revision } = useSaving();
  return children(
    <DiagramStep build={build} revision={revision} selected={selected} onSelect={onSelect} />,
    <DiagramView build={build} scene={scene} selected={selected} onSelect={onSelect} />,
  );
}
