import { Box, Button, Switch } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { memo, useState } from "react";
import { type Battery, type Build, type Chemistry, type Part, type SourceSheet, answer, api, problemOf } from "../../api/client";
import { useParts } from "../../api/reference";
import { Segments } from "../../ui/Segments";
import { Choice, FieldGrid, NumberField } from "../../ui/fields";
import { Figure } from "../../ui/Figure";
import { AMP, AMP_HOUR, COUNT, KILOGRAM, KMH, OHM, PERCENT, VOLT, WATT, WATT_HOUR, of, read, share } from "../../units";
import { Card, Readout, StepHeading } from "../build/StepHeading";
import type { EditorProps } from "../build/editor";

export const CHEMISTRIES: readonly (readonly [Chemistry, string])[] = [
  ["li_ion", "Lithium-ion"],
  ["lipo", "Lithium polymer"],
  ["lifepo4", "Lithium iron phosphate"],
  ["lead_agm", "Lead, sealed (AGM, gel)"],
  ["lead_flooded", "Lead, with filler caps"],
  ["nimh", "Nickel metal hydride"],
  ["alkaline", "Alkaline, not rechargeable"],
];

const TAPS: Record<Battery["tap"], string> = {
  main: "Main leads",
  accessory: "Accessory output",
  balance_lead: "Balance connector",
  one_of_series: "One battery of a pair",
};

/** What have I got? */
export function BatteryStep({ build, edit, picture, source: sheet }: EditorProps) {
  const source = build.source;
  const drawn = (picture?.reaches.find((known) => known.id === "source")?.facts ?? []).filter((fact) => fact.key !== "power_w");
  const rows = [...(sheet?.facts ?? []), ...drawn].map(
    (fact) => [fact.label, <Figure key={fact.key} label={fact.label} text={read(fact)} working={fact.working} />] as const,
  );
  return (
    <>
      <StepHeading title="Battery">What does the vehicle have? Most of it stands on the label.</StepHeading>
      <SourcePick
        kind={source.kind}
        chemistry={source.kind === "battery" ? source.chemistry : null}
        label={sheet?.label ?? null}
        own={build.parts}
        edit={edit}
      />
      {source.kind === "battery" ? (
        <>
          <BatteryCard
            battery={source}
            usual={sheet?.usual ?? null}
            change={(write) => edit((draft) => draft.source.kind === "battery" && write(draft.source), "battery")}
          />
          <MeasuredCard build={build} />
        </>
      ) : (
        <Card title="Regulated rail">
          <FieldGrid>
            <NumberField
              label="Voltage, measured"
              unit={VOLT}
              min={0.1}
              max={1000}
              value={source.voltage_v}
              term="rail"
              onChange={(v) => edit((d) => d.source.kind === "rail" && (d.source.voltage_v = v!), "rail.v")}
            />
            <NumberField
              label="Limit"
              unit={AMP}
              min={0.001}
              value={source.max_current_a}
              onChange={(v) => edit((d) => d.source.kind === "rail" && (d.source.max_current_a = v!), "rail.a")}
            />
            <NumberField
              label="Other load on it"
              unit={AMP}
              value={source.other_load_a}
              onChange={(v) => edit((d) => d.source.kind === "rail" && (d.source.other_load_a = v!), "rail.other")}
            />
            <NumberField
              label="Its resistance"
              unit={OHM}
              value={source.resistance_ohm}
              onChange={(v) => edit((d) => d.source.kind === "rail" && (d.source.resistance_ohm = v!), "rail.r")}
            />
          </FieldGrid>
        </Card>
      )}
      <Card title="What it shows and gives">
        <Readout rows={rows} />
      </Card>
      {source.kind === "battery" && sheet && (
        <Card title="Where to tap it">
          <div role="radiogroup" aria-label="Tapped at">
            {sheet.taps.map((advice) => (
              <label key={advice.tap} className="tap">
                <input
                  type="radio"
                  name="tap"
                  checked={source.tap === advice.tap}
                  onChange={() => edit((d) => d.source.kind === "battery" && (d.source.tap = advice.tap), "tap")}
                />
                <div>
                  <b>
                    <span className={advice.right ? "ink-good" : "ink-stop"}>{advice.right ? "✓ right" : "✕ wrong"}:</span> {TAPS[advice.tap]}
                  </b>
                  <span className="ink-muted">{advice.why}</span>
                </div>
              </label>
            ))}
          </div>
          <Box mt="3">
            <NumberField
              label="Limit of the tap"
              unit={AMP}
              optional
              min={0.001}
              max={10000}
              value={source.tap_limit_a ?? null}
              onChange={(v) => edit((d) => d.source.kind === "battery" && (d.source.tap_limit_a = v), "tap.limit")}
            />
          </Box>
        </Card>
      )}
      {sheet && (
        <Card title="Or a pack of its own?">
          <Reasons sign="+" ink="ink-good" reasons={sheet.own_pack_for} />
          <Reasons sign="−" ink="ink-fix" reasons={sheet.own_pack_against} />
        </Card>
      )}
      <VehicleCard vehicle={build.vehicle} edit={edit} />
    </>
  );
}

function Reasons({ sign, ink, reasons }: { sign: string; ink: string; reasons: readonly string[] }) {
  return (
    <ul className="reasons">
      {reasons.map((reason) => (
        <li key={reason}>
          <b className={ink}>{sign}</b>
          {reason}
        </li>
      ))}
    </ul>
  );
}

interface PickProps {
  kind: Build["source"]["kind"];
  chemistry: Chemistry | null;
  /** What a label of the battery as it is would say. */
  label: SourceSheet["label"] | null;
  own: Build["parts"];
  edit: EditorProps["edit"];
}

/** The pack by what it is, or by its label; or a rail instead. */
const SourcePick = memo(function SourcePick({ kind: shown, chemistry, label: printed, own, edit }: PickProps) {
  const packs = useParts(own).filter((part) => part.what.kind === "battery");
  // What is there, until something else is typed.
  const [typedVolts, setVolts] = useState<number | null | undefined>(undefined);
  const [typedAmount, setAmount] = useState<number | null | undefined>(undefined);
  const [inWh, setInWh] = useState("wh");
  const rounded = (value: number) => Number(value.toPrecision(3));
  const volts = typedVolts === undefined ? (printed ? rounded(printed.nominal_v) : null) : typedVolts;
  const there = printed && (inWh === "wh" ? printed.energy_wh : printed.energy_wh / printed.nominal_v);
  const amount = typedAmount === undefined ? (there ? rounded(there) : null) : typedAmount;
  const label = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/v1/label", {
          body: { chemistry: chemistry ?? "li_ion", volts: volts ?? 0, ...(inWh === "wh" ? { wh: amount ?? 0 } : { ah: amount ?? 0 }) },
        }),
      ),
    onSuccess: (found) =>
      edit((draft) => {
        if (draft.source.kind !== "battery") return;
        draft.source.series = found.series;
        draft.source.capacity_ah = found.capacity_ah;
        setVolts(undefined);
        setAmount(undefined);
      }, "label"),
  });
  return (
    <Card title="What is it?">
      <Segments
        quiet
        label="Source"
        value={shown}
        options={[
          ["battery", "A battery"],
          ["rail", "An existing rail"],
        ]}
        onChange={(kind) =>
          edit((draft) => {
            if (kind === draft.source.kind) return;
            draft.source =
              kind === "rail"
                ? { kind: "rail", voltage_v: 5, resistance_ohm: 0.02, max_current_a: 2, other_load_a: 0 }
                : ({ ...batteryOf(packs[0]), kind: "battery" } as Battery);
          }, "source.kind")
        }
      />
      {chemistry && (
        <>
          <Box mt="3">
            <Choice
              label="Choose one like yours"
              value=""
              options={[["", "from the parts drawer …"], ...packs.map((part) => [part.id, part.name] as const)]}
              onChange={(id) => {
                const found = batteryOf(packs.find((part) => part.id === id));
                if (!found) return;
                edit((draft) => {
                  if (draft.source.kind !== "battery") return;
                  const { used_while_charging, tap, tap_limit_a } = draft.source;
                  draft.source = { ...found, kind: "battery", used_while_charging, tap, tap_limit_a };
                }, "pack");
              }}
            />
          </Box>
          <Box mt="3" fontSize="xs" color="fg.muted">
            or read its label
          </Box>
          <Box display="grid" gridTemplateColumns="1fr 1fr 1fr" gap="2" alignItems="end">
            <NumberField label="Volts" unit={VOLT} optional max={1000} value={volts} onChange={setVolts} />
            <NumberField label="Amount" unit={inWh === "wh" ? WATT_HOUR : AMP_HOUR} optional value={amount} onChange={setAmount} />
            <Choice
              label="in"
              value={inWh}
              options={[
                ["wh", "Wh"],
                ["ah", "Ah"],
              ]}
              onChange={setInWh}
            />
          </Box>
          <Button mt="2" size="sm" variant="outline" loading={label.isPending} onClick={() => label.mutate()}>
            Read cells and capacity from it
          </Button>
          {label.data && (
            <Box mt="1" fontSize="xs" role="status">
              {label.data.series} cells in series, {label.data.capacity_ah} Ah
            </Box>
          )}
          {label.error && (
            <Box mt="1" fontSize="xs" role="alert" color="stop.fg">
              {problemOf(label.error).detail}
            </Box>
          )}
        </>
      )}
    </Card>
  );
});

const batteryOf = (part?: Part) => (part?.what.kind === "battery" ? part.what.battery : undefined);

/** How full it is, by the meter. */
function MeasuredCard({ build }: { build: Build }) {
  const [volts, setVolts] = useState<number | null>(null);
  const said = useQuery({
    queryKey: ["measured", build.source, volts],
    queryFn: () => answer(api.POST("/api/v1/measured", { body: { document: build, volts: volts ?? 0 } })),
    enabled: volts !== null,
  });
  return (
    <Card title="How full is it?">
      <NumberField
        label="Measured at rest, nothing on"
        hint={volts === null ? "The meter on volts DC, probes on plus and minus" : undefined}
        unit={VOLT}
        optional
        min={0.1}
        max={1000}
        value={volts}
        term="state of charge"
        onChange={setVolts}
      />
      {volts !== null && said.data && (
        <Box mt="2" role="status">
          {said.data.words}
        </Box>
      )}
    </Card>
  );
}

const VehicleCard = memo(function VehicleCard({ vehicle, edit }: { vehicle: Build["vehicle"]; edit: EditorProps["edit"] }) {
  return (
    <Card title="Vehicle">
      <FieldGrid>
        <NumberField
          label="Mass, ready to move"
          unit={KILOGRAM}
          min={0.001}
          max={100000}
          value={vehicle.mass_kg}
          onChange={(v) => edit((d) => void (d.vehicle.mass_kg = v!), "mass")}
        />
        {vehicle.kind !== "wheelchair" && (
          <NumberField
            label="Frame as return, measured"
            hint={vehicle.frame_return_ohm == null ? "empty: not measured" : undefined}
            unit={OHM}
            optional
            value={vehicle.frame_return_ohm ?? null}
            term="return"
            onChange={(v) => edit((d) => void (d.vehicle.frame_return_ohm = v), "frame")}
          />
        )}
        <NumberField
          label="Motor on this battery"
          hint={vehicle.propulsion ? "mean power while moving" : "empty: no motor on it"}
          unit={WATT}
          optional
          value={vehicle.propulsion?.power_w ?? null}
          onChange={(v) =>
            edit((d) => void (d.vehicle.propulsion = v === null ? null : { power_w: v, speed_kmh: d.vehicle.propulsion?.speed_kmh ?? 15 }), "motor")
          }
        />
        {vehicle.propulsion && (
          <NumberField
            label="Usual speed"
            unit={KMH}
            max={1000}
            value={vehicle.propulsion.speed_kmh}
            onChange={(v) => edit((d) => d.vehicle.propulsion && (d.vehicle.propulsion.speed_kmh = v!), "speed")}
          />
        )}
      </FieldGrid>
    </Card>
  );
});

function BatteryCard({ battery, usual, change }: { battery: Battery; usual: SourceSheet["usual"] | null; change: (write: (draft: Battery) => void) => void }) {
  return (
    <Card title="The pack">
      <FieldGrid>
        <Choice wide label="Chemistry" value={battery.chemistry} options={CHEMISTRIES} onChange={(v) => change((b) => void (b.chemistry = v))} />
        <NumberField
          label="Cells in series"
          unit={COUNT}
          whole
          min={1}
          max={400}
          value={battery.series}
          onChange={(v) => change((b) => void (b.series = v!))}
        />
        <NumberField
          label="Capacity"
          unit={AMP_HOUR}
          term="amp-hour"
          min={0.001}
          max={100000}
          value={battery.capacity_ah}
          onChange={(v) => change((b) => void (b.capacity_ah = v!))}
        />
        <NumberField
          label="Discharge limit"
          unit={AMP}
          min={0.001}
          max={10000}
          value={battery.max_current_a}
          onChange={(v) => change((b) => void (b.max_current_a = v!))}
        />
        <NumberField
          label="Usable share"
          hint={battery.usable_fraction == null && usual ? `empty: ${share(usual.usable_fraction)}, usual for it` : undefined}
          unit={PERCENT}
          optional
          min={1}
          max={100}
          value={battery.usable_fraction == null ? null : battery.usable_fraction * 100}
          term="reserve"
          onChange={(v) => change((b) => void (b.usable_fraction = v === null ? null : v / 100))}
        />
        <NumberField
          label="Own resistance"
          hint={battery.resistance_ohm == null && usual ? `empty: ${read(of(usual, "resistance_ohm"))}, usual for it` : undefined}
          unit={OHM}
          optional
          value={battery.resistance_ohm ?? null}
          onChange={(v) => change((b) => void (b.resistance_ohm = v))}
        />
      </FieldGrid>
      <Switch.Root
        mt="3"
        minH="8"
        checked={battery.used_while_charging}
        onCheckedChange={({ checked }) => change((b) => void (b.used_while_charging = checked))}
        colorPalette="lantern"
      >
        <Switch.HiddenInput />
        <Switch.Control />
        <Switch.Label fontWeight="normal">Lights may be on while it charges</Switch.Label>
      </Switch.Root>
      <Switch.Root
        mt="1"
        minH="8"
        checked={battery.protected ?? usual?.protected ?? false}
        onCheckedChange={({ checked }) => change((b) => void (b.protected = checked === usual?.protected ? null : checked))}
        colorPalette="lantern"
      >
        <Switch.HiddenInput />
        <Switch.Control />
        <Switch.Label fontWeight="normal">Something switches it off when it is empty</Switch.Label>
      </Switch.Root>
    </Card>
  );
}
