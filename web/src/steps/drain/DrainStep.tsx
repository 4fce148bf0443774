import { Box, Button, IconButton } from "@chakra-ui/react";
import { useState } from "react";
import type { Wish, Build, Draw } from "../../api/client";
import { useParts, useReference } from "../../api/reference";
import { capital, escaped, wordsOf } from "../../document/fields";
import { vehicleOf } from "../../document/job";
import { useChange } from "../../document/useChange";
import { Field, Like } from "../../job/Field";
import { Choice, FieldGrid, TextField } from "../../job/fields";
import { Term } from "../../job/Figure";
import { Icon } from "../../ui/icons";
import { share } from "../../units";
import { Card, StepHeading } from "../../ui/StepHeading";
import type { EditorProps } from "../../document/editor";
import { useDrained } from "./useDrained";
import type { View } from "./views";

/** How it is used, and what else is on the battery. */
export function DrainStep({ build, edit, replace, view }: EditorProps & { view: View }) {
  return (
    <>
      <StepHeading title="Battery life">How long the lights last, and what they cost the battery.</StepHeading>
      {view === "audit" ? (
        <AuditEditor build={build} edit={edit} replace={replace} />
      ) : (
        <UsageEditor build={build} replace={replace} charging={view === "charging"} />
      )}
    </>
  );
}

type Part = Pick<EditorProps, "build" | "edit" | "replace">;

function UsageEditor({ build, replace, charging }: Pick<EditorProps, "build" | "replace"> & { charging: boolean }) {
  const { vehicle } = build;
  const battery = build.source.kind === "battery";
  const cards = [
    <Card key="use" title={vehicleOf(build).lived_in ? "A day, and its week" : "An outing, and its week"}>
      <FieldGrid>
        {build.scenes.map((scene) => (
          <Field key={scene.id} at={`/usage/minutes/${escaped(scene.id)}`} label={scene.name} absent={0} />
        ))}
        <Field at="/usage/outings_per_week" label={vehicleOf(build).lived_in ? "Such days a week" : undefined} />
      </FieldGrid>
    </Card>,
  ];
  if (vehicleOf(build).hovers)
    cards.push(
      <Card key="hover" title="How it hovers without these lights" aside={<Term word="hover" />}>
        <FieldGrid>
          <Field at="/vehicle/hover/power_w" clears="/vehicle/hover" hint={vehicle.hover ? undefined : "If left blank: not known"} />
          {vehicle.hover && <Field at="/vehicle/hover/minutes" />}
        </FieldGrid>
      </Card>,
    );
  if (battery) {
    cards.push(
      <Card key="state" title="The battery as it is">
        <FieldGrid>
          <Field at="/usage/temperature_c" />
          <Field at="/usage/capacity_left" />
        </FieldGrid>
      </Card>,
      <Standing key="standing" build={build} replace={replace} />,
    );
    const charger = <Charger key="charger" build={build} />;
    if (charging) cards.unshift(charger);
    else cards.push(charger);
  }
  return <>{cards}</>;
}

function Charger({ build }: Pick<EditorProps, "build">) {
  const { usage } = build;
  return (
    <Card title="What comes back">
      <FieldGrid>
        <Field at="/usage/charger_a" />
        <Field at="/usage/gain/hours_per_day" clears="/usage/gain" hint={usage.gain ? undefined : "If left blank: none"} />
        {usage.gain && <Field at="/usage/gain/current_a" />}
      </FieldGrid>
    </Card>
  );
}

/** What else lives on the battery: alarms, controllers, a fridge. */
function Standing({ build, replace }: Pick<EditorProps, "build" | "replace">) {
  const { add, remove } = useChange(build, replace);
  return (
    <Card title="What else lives on it" aside={<Term word="main disconnect" />}>
      {build.standing.map((load, index) => (
        <div key={index} className="entry">
          <div className="entry-head">
            <Field at={`/standing/${index}/id`} />
            <IconButton aria-label={`Remove ${load.id}`} size="xs" minW="8" minH="8" variant="ghost" onClick={() => remove({ kind: "standing", id: load.id })}>
              <Icon name="remove" />
            </IconButton>
          </div>
          <FieldGrid>
            <Field at={`/standing/${index}/current_a`} />
            <Field at={`/standing/${index}/hours_per_day`} />
            <Field at={`/standing/${index}/ahead_of_disconnect`} />
          </FieldGrid>
        </div>
      ))}
      <Button size="sm" variant="outline" onClick={() => add({ kind: "standing" })}>
        Add a load
      </Button>
    </Card>
  );
}

const MEASURED = ["usual_a", "all_a", "rest_a", "disconnected_a"];

/** The bulbs that are there, what replaces them, and what a meter said. */
function AuditEditor({ build, edit, replace }: Part) {
  const { add, remove } = useChange(build, replace);
  const bulbs = useParts(build.parts).filter((part) => part.what.kind === "bulb");
  const old = bulbs.filter((part) => part.what.kind === "bulb" && part.what.load.kind === "module" && part.what.load.draw === "filament");
  const audit = build.audit;
  const lines = useDrained(build).data?.audit?.lines;
  const shipped = useReference()?.parts ?? [];
  const change = (write: (audit: NonNullable<Build["audit"]>, draft: Build) => void, field?: string) =>
    edit((draft) => write((draft.audit ??= { bulbs: [], measured: {}, measured_after: {} }), draft), field && `audit.${field}`);
  return (
    <>
      <Card title="Bulbs that are there" aside={<Term word="holder" />}>
        {(audit?.bulbs ?? []).map((bulb, index) => {
          const at = `/audit/bulbs/${index}`;
          const part = bulbs.find((known) => known.id === bulb.part);
          const fits = lines?.find((line) => line.id === bulb.id)?.candidates ?? [];
          const chosen = fits.find((known) => known.part === bulb.replacement);
          return (
            <div key={index} className="entry">
              <div className="entry-head">
                <Choice
                  label={`Bulbs ${index + 1}`}
                  value={bulb.part}
                  options={(old.some((known) => known.id === bulb.part) || !part ? old : [...old, part]).map((known) => [known.id, known.name] as const)}
                  onChange={(id) =>
                    change((a, draft) => {
                      a.bulbs[index]!.part = id;
                      a.bulbs[index]!.replacement = null;
                      // A part of one's own travels with the build.
                      const mine = shipped.every((known) => known.id !== id) && bulbs.find((known) => known.id === id);
                      if (mine && !draft.parts?.some((known) => known.id === id)) (draft.parts ??= []).push(mine);
                    })
                  }
                />
                <IconButton
                  aria-label={`Remove bulbs ${index + 1}`}
                  size="xs"
                  minW="8"
                  minH="8"
                  variant="ghost"
                  onClick={() => remove({ kind: "bulbs", id: bulb.id })}
                >
                  <Icon name="remove" />
                </IconButton>
              </div>
              <div className="three">
                <Field
                  at={`${at}/count`}
                  then={(draft) => {
                    const mine = draft.audit?.bulbs[index];
                    if (mine) mine.usual = Math.min(mine.usual, mine.count);
                  }}
                />
                <Field at={`${at}/usual`} />
                <Field at={`${at}/hours_per_day`} />
              </div>
              <Choice
                label={`Replaced by${part?.what.kind === "bulb" ? `, ${part.what.holder}` : ""}`}
                value={bulb.replacement ?? ""}
                options={[["", "not replaced"], ...fits.map((known) => [known.part, known.name] as const)]}
                onChange={(id) => change((a) => void (a.bulbs[index]!.replacement = id || null))}
              />
              {chosen && <div className="field-note">{[`${share(chosen.brightness)} of the light`, `${chosen.colour_k} K`, ...chosen.notes].join("; ")}</div>}
            </div>
          );
        })}
        <Button size="sm" variant="outline" disabled={old.length === 0} onClick={() => add({ kind: "bulbs", part: old[0]!.id })}>
          Add bulbs
        </Button>
      </Card>
      <OwnBulb holders={[...new Set(bulbs.map((part) => (part.what.kind === "bulb" ? part.what.holder : "")))]} onAdd={add} />
      <Card title="What a meter said" aside={<Term word="clamp meter" />}>
        <FieldGrid>
          {MEASURED.map((key) => (
            <Field key={key} at={`/audit/measured/${key}`} />
          ))}
        </FieldGrid>
        {audit?.bulbs.some((bulb) => bulb.replacement) && (
          <Box mt="4">
            <Box as="h4" fontWeight="semibold" mb="2">
              And once they were replaced
            </Box>
            <FieldGrid>
              {MEASURED.map((key) => (
                <Field key={key} at={`/audit/measured_after/${key}`} />
              ))}
            </FieldGrid>
          </Box>
        )}
      </Card>
      <Standing build={build} replace={replace} />
    </>
  );
}

/** A bulb that is not in the drawer, by what is printed on it; it travels with the build. */
function OwnBulb({ holders, onAdd }: { holders: string[]; onAdd: (part: Wish) => void }) {
  const [open, setOpen] = useState(false);
  const [draw, setDraw] = useState<Draw>("filament");
  const [holder, setHolder] = useState("");
  const [watts, setWatts] = useState<number | null>(null);
  const [volts, setVolts] = useState<number | null>(12);
  const [lumens, setLumens] = useState<number | null>(null);
  const [kelvin, setKelvin] = useState<number | null>(2700);
  const complete = holder.trim() !== "" && watts !== null && volts !== null && lumens !== null && kelvin !== null;
  const keep = () => {
    if (!complete) return;
    onAdd({ kind: "own_bulb", draw, holder, volts, watts, lumens, colour_k: kelvin });
    setOpen(false);
    setWatts(null);
    setLumens(null);
  };
  if (!open)
    return (
      <Button size="sm" variant="outline" mb="3" onClick={() => setOpen(true)}>
        A bulb that is not in the list
      </Button>
    );
  return (
    <Card title="A bulb by what is printed on it">
      <Choice label="How it draws" value={draw} options={wordsOf("Draw").map(([word, name]) => [word as Draw, capital(name)] as const)} onChange={setDraw} />
      <FieldGrid>
        <TextField label="Holder" value={holder} suggestions={holders} onChange={setHolder} />
        <Like field="Module.voltage_v" label="Volts" value={volts} optional onChange={setVolts} />
        <Like field="Module.power_w" label="Watts" value={watts} optional onChange={setWatts} />
        <Like field="bulb.lumens" hint="of a bulb about 10 for each watt" value={lumens} optional onChange={setLumens} />
        <Like field="bulb.colour_k" value={kelvin} optional onChange={setKelvin} />
      </FieldGrid>
      <div className="tools" style={{ marginTop: "0.75rem" }}>
        <Button size="sm" colorPalette="lantern" disabled={!complete} onClick={keep}>
          Put it in the list
        </Button>
        <Button size="sm" variant="outline" onClick={() => setOpen(false)}>
          Leave it
        </Button>
      </div>
    </Card>
  );
}
