import { Box, Button, IconButton } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { Suspense, lazy, useState } from "react";
import { type Build, type SourceState, answer, api, problemOf } from "../../api/client";
import type { EditorProps } from "../../build/editor";
import { called, capital, wordsOf } from "../../build/fields";
import { useChange } from "../../build/useChange";
import { Choice } from "../../ui/fields";
import { Icon } from "../../ui/icons";
import { saveFile } from "../../ui/save";
import { Card } from "../../ui/StepHeading";

const CircuitWorkshop = lazy(() => import("./CircuitWorkshop").then((module) => ({ default: module.CircuitWorkshop })));

type Circuit = NonNullable<Build["circuits"]>[number];
type Kind = Circuit["kind"];

type Props = Pick<EditorProps, "build" | "state" | "selected" | "onSelect" | "replace">;

/** The small circuits of a build, each with a workshop of its own. */
export function Circuits({ build, state, selected, onSelect, replace }: Props) {
  return (
    <>
      {(build.circuits ?? []).map((circuit, index) => (
        <CircuitCard
          key={circuit.id}
          build={build}
          circuit={circuit}
          index={index}
          state={state}
          on={selected === circuit.id}
          onSelect={onSelect}
          replace={replace}
        />
      ))}
      <AddCircuit build={build} replace={replace} onSelect={onSelect} />
    </>
  );
}

interface CardProps {
  build: Build;
  circuit: Circuit;
  index: number;
  state: SourceState;
  on: boolean;
  onSelect: (id: string | null) => void;
  replace: (document: Build) => void;
}

function CircuitCard({ build, circuit, index, state, on, onSelect, replace }: CardProps) {
  const [open, setOpen] = useState(on);
  const { remove } = useChange(build, replace);
  const body = { document: build, circuit: circuit.id, state };
  const netlist = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/circuit/netlist", { body, parseAs: "text" })),
    onSuccess: (text) => saveFile(`${circuit.id}.cir`, "text/plain", text as string),
  });
  const waveforms = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/circuit/csv", { body, parseAs: "text" })),
    onSuccess: (text) => saveFile(`${circuit.id} - waveforms.csv`, "text/csv", text as string),
  });
  const error = netlist.error ?? waveforms.error;
  return (
    <Card
      title={`${capital(called("CircuitKind", circuit.kind))}: ${circuit.id}`}
      selected={on}
      onFocus={() => onSelect(circuit.id)}
      aside={
        <IconButton
          aria-label={`Remove ${circuit.id}`}
          title="Remove"
          size="xs"
          minW="8"
          minH="8"
          variant="ghost"
          onClick={() => remove({ kind: "circuit", id: circuit.id })}
        >
          <Icon name="remove" />
        </IconButton>
      }
    >
      <p className="quiet">
        {circuit.drives.length > 0 ? `Drives ${circuit.drives.join(", ")}; fed from ${circuit.feed.from}.` : `Fed from ${circuit.feed.from}.`}
      </p>
      <Button size="sm" minH="9" mt="2" variant="outline" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? `Close the workshop of ${circuit.id}` : `Open the workshop of ${circuit.id}`}
      </Button>
      {open && (
        <Suspense fallback={<p className="quiet">Drawing it …</p>}>
          <CircuitWorkshop build={build} replace={replace} circuit={circuit} index={index} state={state} />
          {error && (
            <Box role="alert" color="stop.fg" mt="2">
              {problemOf(error).detail}
            </Box>
          )}
          <Box display="flex" gap="2" mt="3">
            <Button size="xs" minH="8" variant="outline" loading={waveforms.isPending} onClick={() => waveforms.mutate()}>
              Waveforms (CSV)
            </Button>
            <Button size="xs" minH="8" variant="outline" loading={netlist.isPending} onClick={() => netlist.mutate()}>
              SPICE
            </Button>
          </Box>
        </Suspense>
      )}
    </Card>
  );
}

/** What each kind is for, in a sentence. */
const FOR: Record<Kind, string> = {
  timer_flasher: "Flashes a light steadily, whatever the battery does. The best flasher to begin with.",
  transistor_flasher: "Two lights in turn from parts out of the drawer; its rate shifts with the battery.",
  breakdown_flasher: "The fewest parts, from about 11 V on; every one flashes differently.",
  hold_up: "Carries a light over a moment without contact, and dims it.",
  battery_gauge: "Two LEDs that say good, charge soon, charge now.",
  switch: "Lets a controller's pin switch more than it can carry.",
};

/** A circuit before a light, with parts that work at once. */
export function AddCircuit({ build, replace, onSelect, light }: Pick<Props, "build" | "replace" | "onSelect"> & { light?: string }) {
  const [kind, setKind] = useState<Kind>("timer_flasher");
  // A light that has a circuit already, or several feeds, cannot get one.
  const free = build.lights.filter((one) => one.feeds.length === 1 && !(build.circuits ?? []).some((circuit) => circuit.id === one.feeds[0]!.from));
  const [chosen, setChosen] = useState("");
  const target = light ?? (free.some((one) => one.id === chosen) ? chosen : free[0]?.id);
  const { add, busy } = useChange(build, replace);
  const kinds = wordsOf("CircuitKind").filter(([word]) => light === undefined || word !== "battery_gauge");
  const alone = kind === "battery_gauge";
  return (
    <Card title="Add a small circuit">
      <Choice label="Circuit" value={kind} options={kinds.map(([word, words]) => [word, capital(words)] as const)} onChange={(word) => setKind(word as Kind)} />
      <p className="quiet">{FOR[kind]}</p>
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
              { onSuccess: (document) => onSelect(document.circuits?.at(-1)?.id ?? null) },
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
