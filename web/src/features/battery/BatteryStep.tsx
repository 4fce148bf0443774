import { Box, Switch } from "@chakra-ui/react";
import type { Battery, Chemistry } from "../../api/client";
import { Choice, FieldGrid, NumberField } from "../../ui/fields";
import { Figure } from "../../ui/Figure";
import { AMP, AMP_HOUR, COUNT, KILOGRAM, VOLT, plain } from "../../units";
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

const TAPS = [
  ["main", "Main leads"],
  ["accessory", "Accessory output"],
  ["balance_lead", "Balance connector"],
  ["one_of_series", "One battery of a pair"],
] as const;

/** What have I got? */
export function BatteryStep({ build, edit, report, picture }: EditorProps) {
  const source = build.source;
  const reach = picture?.reaches.find((known) => known.id === "source");
  // The same open-circuit voltages stand in every scene.
  const emf = (state: string) => report?.points.find((point) => point.state === state)?.source.emf_v;
  const readings = (["charging", "full", "half", "reserve", "rail"] as const).flatMap((state) => {
    const volts = emf(state);
    return volts === undefined
      ? []
      : [[state === "charging" ? "While charging" : state === "rail" ? "Without load" : `At ${state}`, plain(volts, "V")] as const];
  });
  const facts = (reach?.facts ?? []).map(
    (fact) => [fact.label, <Figure key={fact.key} label={fact.label} text={plain(fact.value, fact.unit)} working={fact.working} />] as const,
  );
  return (
    <>
      <StepHeading title="Battery">What does the vehicle have? Most of it stands on the label.</StepHeading>
      {source.kind === "battery" ? (
        <BatteryCard battery={source} change={(write) => edit((draft) => draft.source.kind === "battery" && write(draft.source), "battery")} />
      ) : (
        <Card title="Regulated rail">
          <FieldGrid>
            <NumberField
              label="Voltage"
              unit={VOLT}
              min={0.1}
              max={1000}
              value={source.voltage_v}
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
          </FieldGrid>
        </Card>
      )}
      <Card title="Voltage and load">
        <Readout rows={[...readings, ...facts]} />
        <Box mt="2" fontSize="xs" color="fg.muted">
          Packs are rarely at the figure printed on them: measure, and compare with this.
        </Box>
      </Card>
      <Card title="Vehicle">
        <FieldGrid>
          <NumberField
            label="Mass, ready to move"
            unit={KILOGRAM}
            min={0.001}
            max={100000}
            value={build.vehicle.mass_kg}
            onChange={(v) => edit((d) => void (d.vehicle.mass_kg = v!), "mass")}
          />
        </FieldGrid>
      </Card>
    </>
  );
}

function BatteryCard({ battery, change }: { battery: Battery; change: (write: (draft: Battery) => void) => void }) {
  return (
    <Card title="The pack">
      <FieldGrid>
        <Choice label="Chemistry" value={battery.chemistry} options={CHEMISTRIES} onChange={(v) => change((b) => void (b.chemistry = v))} />
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
        <Choice label="Tapped at" value={battery.tap} options={TAPS} onChange={(v) => change((b) => void (b.tap = v))} />
        <NumberField
          label="Limit of the tap"
          unit={AMP}
          optional
          min={0.001}
          max={10000}
          value={battery.tap_limit_a ?? null}
          onChange={(v) => change((b) => void (b.tap_limit_a = v))}
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
    </Card>
  );
}
