import { Button, IconButton } from "@chakra-ui/react";
import { useState } from "react";
import type { Build } from "../../api/client";
import { useParts, useReference } from "../../api/reference";
import { Choice, FieldGrid, NumberField, TextField } from "../../ui/fields";
import { Term } from "../../ui/Figure";
import { Icon } from "../../ui/icons";
import { AMP, CELSIUS, COUNT, HOUR, KELVIN, LUMEN, MINUTE, PERCENT, VOLT, WATT, share } from "../../units";
import { Card, StepHeading } from "../build/StepHeading";
import type { EditorProps } from "../build/editor";
import { useDrained } from "./useDrained";
import type { View } from "./views";

/** How it is used, and what else is on the battery. */
export function DrainStep({ build, edit, view }: EditorProps & { view: View }) {
  return (
    <>
      <StepHeading title="Drain">What the lights cost the battery, in your terms.</StepHeading>
      {view === "audit" ? <AuditEditor build={build} edit={edit} /> : <UsageEditor build={build} edit={edit} charging={view === "charging"} />}
    </>
  );
}

type Part = Pick<EditorProps, "build" | "edit">;

function UsageEditor({ build, edit, charging }: Part & { charging: boolean }) {
  const { usage, vehicle } = build;
  const battery = build.source.kind === "battery";
  const cards = [
    <Card key="use" title={vehicle.kind === "rv" ? "A day, and its week" : "An outing, and its week"}>
      <FieldGrid>
        {build.scenes.map((scene) => (
          <NumberField
            key={scene.id}
            label={scene.name}
            unit={MINUTE}
            max={100000}
            value={usage.minutes[scene.id] ?? 0}
            onChange={(v) => edit((draft) => void (draft.usage.minutes[scene.id] = v!), `minutes.${scene.id}`)}
          />
        ))}
        <NumberField
          label={vehicle.kind === "rv" ? "Such days a week" : "Outings a week"}
          unit={COUNT}
          max={10000}
          value={usage.outings_per_week}
          onChange={(v) => edit((draft) => void (draft.usage.outings_per_week = v!), "outings")}
        />
      </FieldGrid>
    </Card>,
  ];
  if (vehicle.kind === "drone")
    cards.push(
      <Card key="hover" title="How it hovers without these lights" aside={<Term word="hover" />}>
        <FieldGrid>
          <NumberField
            label="Power"
            hint={vehicle.hover ? undefined : "empty: not known"}
            unit={WATT}
            optional
            min={0.001}
            max={1e6}
            value={vehicle.hover?.power_w ?? null}
            onChange={(v) => edit((d) => void (d.vehicle.hover = v === null ? null : { power_w: v, minutes: d.vehicle.hover?.minutes ?? 15 }), "hover.w")}
          />
          {vehicle.hover && (
            <NumberField
              label="Time"
              unit={MINUTE}
              min={0.1}
              max={10000}
              value={vehicle.hover.minutes}
              onChange={(v) => edit((d) => d.vehicle.hover && (d.vehicle.hover.minutes = v!), "hover.min")}
            />
          )}
        </FieldGrid>
      </Card>,
    );
  if (battery) {
    cards.push(
      <Card key="state" title="The battery as it is">
        <FieldGrid>
          <NumberField
            label="Its temperature"
            hint={usage.temperature_c == null ? "empty: 25 °C" : undefined}
            unit={CELSIUS}
            optional
            max={40}
            value={usage.temperature_c ?? null}
            onChange={(v) => edit((d) => void (d.usage.temperature_c = v), "temperature")}
          />
          <NumberField
            label="Capacity that age has left"
            term="amp-hour"
            hint={usage.capacity_left == null ? "empty: all of it" : undefined}
            unit={PERCENT}
            optional
            min={10}
            max={100}
            value={usage.capacity_left == null ? null : usage.capacity_left * 100}
            onChange={(v) => edit((d) => void (d.usage.capacity_left = v === null ? null : v / 100), "age")}
          />
        </FieldGrid>
      </Card>,
      <Standing key="standing" build={build} edit={edit} />,
    );
    const charger = <Charger key="charger" build={build} edit={edit} />;
    if (charging) cards.unshift(charger);
    else cards.push(charger);
  }
  return <>{cards}</>;
}

function Charger({ build, edit }: Part) {
  const { usage } = build;
  return (
    <Card title="What comes back">
      <FieldGrid>
        <NumberField
          label="Charger"
          hint={usage.charger_a == null ? "empty: not known" : undefined}
          unit={AMP}
          optional
          min={0.001}
          max={10000}
          value={usage.charger_a ?? null}
          onChange={(v) => edit((d) => void (d.usage.charger_a = v), "charger")}
        />
        <NumberField
          label="Sun or engine, a day"
          hint={usage.gain ? undefined : "empty: none"}
          unit={HOUR}
          optional
          max={24}
          value={usage.gain?.hours_per_day ?? null}
          onChange={(v) => edit((d) => void (d.usage.gain = v === null ? null : { hours_per_day: v, current_a: d.usage.gain?.current_a ?? 3 }), "gain.h")}
        />
        {usage.gain && (
          <NumberField
            label="at, mean"
            unit={AMP}
            max={10000}
            value={usage.gain.current_a}
            onChange={(v) => edit((d) => d.usage.gain && (d.usage.gain.current_a = v!), "gain.a")}
          />
        )}
      </FieldGrid>
    </Card>
  );
}

const free = (wanted: string, taken: readonly { id: string }[]) => {
  let id = wanted;
  for (let n = 2; taken.some((one) => one.id === id); n++) id = `${wanted}-${n}`;
  return id;
};

/** What else lives on the battery: alarms, controllers, a fridge. */
function Standing({ build, edit }: Part) {
  return (
    <Card title="What else lives on it" aside={<Term word="main disconnect" />}>
      {build.standing.map((load, index) => (
        <div key={index} className="entry">
          <div className="entry-head">
            <TextField label="Name" value={load.id} onChange={(id) => id.trim() && edit((d) => void (d.standing[index]!.id = id), `standing.${index}`)} />
            <IconButton
              aria-label={`Remove ${load.id}`}
              size="xs"
              minW="8"
              minH="8"
              variant="ghost"
              onClick={() => edit((d) => void d.standing.splice(index, 1))}
            >
              <Icon name="remove" />
            </IconButton>
          </div>
          <FieldGrid>
            <NumberField
              label="Draws"
              unit={AMP}
              max={10000}
              value={load.current_a}
              onChange={(v) => edit((d) => void (d.standing[index]!.current_a = v!), `standing.${index}.a`)}
            />
            <NumberField
              label="a day"
              unit={HOUR}
              max={24}
              value={load.hours_per_day}
              onChange={(v) => edit((d) => void (d.standing[index]!.hours_per_day = v!), `standing.${index}.h`)}
            />
          </FieldGrid>
          <label className="tick">
            <input
              type="checkbox"
              checked={load.ahead_of_disconnect ?? false}
              onChange={(event) => edit((d) => void (d.standing[index]!.ahead_of_disconnect = event.target.checked || undefined))}
            />
            stays on with the main disconnect open
          </label>
        </div>
      ))}
      <Button
        size="sm"
        variant="outline"
        onClick={() => edit((d) => void d.standing.push({ id: free("alarm", d.standing), current_a: 0.02, hours_per_day: 24 }))}
      >
        Add a load
      </Button>
    </Card>
  );
}

const MEASURED = [
  ["usual_a", "A usual evening"],
  ["all_a", "Everything on"],
  ["rest_a", "Everything off"],
  ["disconnected_a", "Disconnect open"],
] as const;

/** The bulbs that are there, what replaces them, and what a meter said. */
function AuditEditor({ build, edit }: Part) {
  const bulbs = useParts(build.parts).filter((part) => part.what.kind === "bulb");
  const old = bulbs.filter((part) => part.what.kind === "bulb" && part.what.load.kind === "module" && part.what.load.draw === "filament");
  const audit = build.audit;
  const lines = useDrained(build).data?.audit?.lines;
  const shipped = useReference()?.parts ?? [];
  const change = (write: (audit: NonNullable<Build["audit"]>, draft: Build) => void, field?: string) =>
    edit((draft) => write((draft.audit ??= { bulbs: [], measured: {} }), draft), field && `audit.${field}`);
  return (
    <>
      <Card title="Bulbs that are there" aside={<Term word="holder" />}>
        {(audit?.bulbs ?? []).map((bulb, index) => {
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
                  onClick={() => change((a) => void a.bulbs.splice(index, 1))}
                >
                  <Icon name="remove" />
                </IconButton>
              </div>
              <div className="three">
                <NumberField
                  label="There are"
                  unit={COUNT}
                  whole
                  max={10000}
                  value={bulb.count}
                  onChange={(v) =>
                    change((a) => {
                      a.bulbs[index]!.count = v!;
                      a.bulbs[index]!.usual = Math.min(a.bulbs[index]!.usual, v!);
                    }, `${index}.count`)
                  }
                />
                <NumberField
                  label="usually on"
                  unit={COUNT}
                  whole
                  max={bulb.count}
                  value={bulb.usual}
                  onChange={(v) => change((a) => void (a.bulbs[index]!.usual = v!), `${index}.usual`)}
                />
                <NumberField
                  label="for"
                  unit={HOUR}
                  max={24}
                  value={bulb.hours_per_day}
                  onChange={(v) => change((a) => void (a.bulbs[index]!.hours_per_day = v!), `${index}.hours`)}
                />
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
        <Button
          size="sm"
          variant="outline"
          disabled={old.length === 0}
          onClick={() => change((a) => void a.bulbs.push({ id: free("bulbs", a.bulbs), part: old[0]!.id, count: 1, usual: 1, hours_per_day: 1 }))}
        >
          Add bulbs
        </Button>
      </Card>
      <OwnBulb holders={[...new Set(bulbs.map((part) => (part.what.kind === "bulb" ? part.what.holder : "")))]} taken={build.parts ?? []} edit={edit} />
      <Card title="What a meter said" aside={<Term word="clamp meter" />}>
        <FieldGrid>
          {MEASURED.map(([key, label]) => (
            <NumberField
              key={key}
              label={label}
              unit={AMP}
              optional
              max={10000}
              value={audit?.measured[key] ?? null}
              onChange={(v) => change((a) => void (a.measured[key] = v), key)}
            />
          ))}
        </FieldGrid>
      </Card>
      <Standing build={build} edit={edit} />
    </>
  );
}

const KINDS = [
  ["filament", "filament or halogen"],
  ["constant_power", "LED or fluorescent, with electronics"],
] as const;

/** A bulb that is not in the drawer, by what is printed on it; it travels with the build. */
function OwnBulb({ holders, taken, edit }: { holders: string[]; taken: readonly { id: string }[]; edit: EditorProps["edit"] }) {
  const [open, setOpen] = useState(false);
  const [draw, setDraw] = useState<(typeof KINDS)[number][0]>("filament");
  const [holder, setHolder] = useState("");
  const [watts, setWatts] = useState<number | null>(null);
  const [volts, setVolts] = useState<number | null>(12);
  const [lumens, setLumens] = useState<number | null>(null);
  const [kelvin, setKelvin] = useState<number | null>(2700);
  const complete = holder.trim() !== "" && watts !== null && volts !== null && lumens !== null && kelvin !== null;
  const keep = () => {
    if (!complete) return;
    const kind = draw === "filament" ? "Bulb" : "LED";
    const id = free(
      `own-${kind.toLowerCase()}-${watts}w-${holder
        .trim()
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, "-")}`.slice(0, 70),
      taken,
    );
    edit((draft) => {
      (draft.parts ??= []).push({
        id,
        name: `${kind} ${volts} V ${watts} W, ${holder.trim()}, mine`,
        figures_from: "As printed on it",
        what: {
          kind: "bulb",
          holder: holder.trim(),
          lumens,
          colour_k: kelvin,
          polarised: false,
          load: { kind: "module", draw, voltage_v: volts, power_w: watts, min_v: 0, max_v: 1.25 * volts },
        },
      });
      if (draw === "filament")
        (draft.audit ??= { bulbs: [], measured: {} }).bulbs.push({ id: free("bulbs", draft.audit.bulbs), part: id, count: 1, usual: 1, hours_per_day: 1 });
    });
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
      <Choice label="It is" value={draw} options={KINDS} onChange={setDraw} />
      <FieldGrid>
        <TextField label="Holder" value={holder} suggestions={holders} onChange={setHolder} />
        <NumberField label="Volts" unit={VOLT} min={1} max={60} value={volts} optional onChange={setVolts} />
        <NumberField label="Watts" unit={WATT} min={0.05} max={200} value={watts} optional onChange={setWatts} />
        <NumberField label="Light" hint="of a bulb about 10 for each watt" unit={LUMEN} min={1} max={10000} value={lumens} optional onChange={setLumens} />
        <NumberField label="Colour of its light" unit={KELVIN} min={1000} max={20000} value={kelvin} optional onChange={setKelvin} />
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
