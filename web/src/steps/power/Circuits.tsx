import { Box, Button, IconButton } from "@chakra-ui/react";
import { useState } from "react";
import type { Build } from "../../api/client";
import type { EditorProps } from "../../document/editor";
import { called, capital, wordsOf } from "../../document/fields";
import { useChange } from "../../document/useChange";
import { Choice } from "../../job/fields";
import { Icon } from "../../ui/icons";
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
  return (
    <Card
      title={`${capital(called("CircuitKind", own.kind))}: ${own.id}`}
      selected={selected === own.id}
      onFocus={() => onSelect(own.id)}
      aside={
        <IconButton
          aria-label={`Remove ${own.id}`}
          title="Remove"
          size="xs"
          minW="8"
          minH="8"
          variant="ghost"
          onClick={() => remove({ kind: "circuit", id: own.id })}
        >
          <Icon name="remove" />
        </IconButton>
      }
    >
      <p className="quiet">{own.drives.length > 0 ? `Drives ${own.drives.join(", ")}; fed from ${own.feed.from}.` : `Fed from ${own.feed.from}.`}</p>
      <Button size="sm" minH="9" mt="2" variant="outline" aria-pressed={circuit === own.id} onClick={() => onCircuit(circuit === own.id ? null : own.id)}>
        Workshop of {own.id}
      </Button>
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
export function AddCircuit({ build, replace, onCircuit, light }: Pick<Props, "build" | "replace" | "onCircuit"> & { light?: string }) {
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
