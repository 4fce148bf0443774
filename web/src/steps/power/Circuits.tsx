import { Box, Button } from "@chakra-ui/react";
import { useState } from "react";
import type { Build } from "../../api/client";
import type { EditorProps } from "../../document/editor";
import { capital, wordsOf } from "../../document/fields";
import { JOB, supplierName } from "../../document/job";
import { useChange } from "../../document/useChange";
import { Choice } from "../../job/fields";
import { PartCard } from "./PartCard";
import { Card } from "../../ui/StepHeading";

type Circuit = NonNullable<Build["circuits"]>[number];
type Kind = Circuit["kind"];

type Props = Pick<EditorProps, "build" | "selected" | "onSelect" | "replace" | "circuit" | "onCircuit">;

/** The small circuits of a build; each opens a workshop of its own. */
export function Circuits(props: Props) {
  return (
    <>
      {(props.build.circuits ?? []).map((circuit) => (
        <CircuitCard key={circuit.id} {...props} own={circuit} />
      ))}
      <AddCircuit {...props} />
    </>
  );
}

function CircuitCard({ build, own, selected, onSelect, replace, circuit, onCircuit }: Props & { own: Circuit }) {
  const { remove } = useChange(build, replace);
  const from = supplierName(build, own.feed.from);
  return (
    <PartCard words="CircuitKind" part={own} as="circuit" selected={selected} onSelect={onSelect} onRemove={remove}>
      <p className="quiet">{own.drives.length > 0 ? `Drives ${own.drives.join(", ")}; powered from ${from}.` : `Powered from ${from}.`}</p>
      <Button size="sm" minH="9" mt="2" variant="outline" aria-pressed={circuit === own.id} onClick={() => onCircuit(circuit === own.id ? null : own.id)}>
        Parts of {own.id}
      </Button>
    </PartCard>
  );
}

/** A circuit before a light, with parts that work at once. */
export function AddCircuit({ build, replace, onCircuit, light }: Pick<Props, "build" | "replace" | "onCircuit"> & { light?: string }) {
  const [kind, setKind] = useState<Kind>("timer_flasher");
  // A light that has a circuit already, or several feeds, cannot get one.
  const free = build.lights.filter((one) => one.feeds.length === 1 && !(build.circuits ?? []).some((circuit) => circuit.id === one.feeds[0]!.from));
  const [chosen, setChosen] = useState("");
  const target = light ?? (free.some((one) => one.id === chosen) ? chosen : free[0]?.id);
  const { add, busy } = useChange(build, replace);
  const kinds = wordsOf("CircuitKind").filter(([word]) => light === undefined || !JOB.circuits[word]!.alone);
  const { alone } = JOB.circuits[kind]!;
  return (
    <Card title="Add a small circuit">
      <Choice label="Circuit" value={kind} options={kinds.map(([word, words]) => [word, capital(words)] as const)} onChange={(word) => setKind(word as Kind)} />
      <p className="quiet">{JOB.circuits[kind]!.about}</p>
      <Box display="flex" gap="3" alignItems="flex-end" mt="2">
        <Box flex="1">
          {!alone && light === undefined && (
            <Choice label="Before the light" value={target ?? ""} options={free.map((one) => [one.id, one.id] as const)} onChange={setChosen} />
          )}
        </Box>
        <Button
          size="sm"
          colorPalette="lantern"
          loading={busy}
          disabled={!alone && target === undefined}
          onClick={() =>
            add(
              { kind: "circuit", circuit: kind, light: alone ? null : (target ?? null) },
              { onSuccess: (document) => onCircuit(document.circuits?.at(-1)?.id ?? null) },
            )
          }
        >
          Add circuit
        </Button>
      </Box>
      {!alone && target === undefined && <p className="quiet">There is no light with a single feed and without a circuit; add one at Lights first.</p>}
    </Card>
  );
}
