import { Box, Button } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { memo, useState } from "react";
import { type Wish, type Build, type Chemistry, answer, api, problemOf } from "../../api/client";
import { useParts } from "../../api/reference";
import { called, capital, wordsOf } from "../../document/fields";
import { vehicleOf } from "../../document/job";
import { useChange } from "../../document/useChange";
import { Field, Like, MoreFields, useField } from "../../job/Field";
import { Segments } from "../../ui/Segments";
import { Choice, FieldGrid } from "../../job/fields";
import { Figure } from "../../job/Figure";
import { read, inOwn } from "../../units";
import { Card, Readout, StepHeading } from "../../ui/StepHeading";
import type { EditorProps } from "../../document/editor";
import { vehicle } from "../../scene/outlines";

/** What have I got? */
export function BatteryStep({ build, edit, replace, picture, source: sheet }: EditorProps) {
  const source = build.source;
  const { add } = useChange(build, replace);
  const drawn = (picture?.reaches.find((known) => known.id === "source")?.facts ?? []).filter((fact) => fact.key !== "power_w");
  const rows = [...(sheet?.facts ?? []), ...drawn].map(
    (fact) => [fact.label, <Figure key={fact.key} label={fact.label} text={read(fact)} working={fact.working} />] as const,
  );
  return (
    <>
      <StepHeading title="Battery">What does the vehicle have? Most of it stands on the label.</StepHeading>
      <SourcePick kind={source.kind} chemistry={source.kind === "battery" ? source.chemistry : null} own={build.parts} edit={edit} onAdd={add} />
      {source.kind === "battery" ? (
        <>
          <BatteryCard />
          <MeasuredCard build={build} />
        </>
      ) : source.kind === "track" ? (
        <Card title="Track">
          <FieldGrid>
            <Field at="/source/wave" />
            <Field at="/source/voltage_v" />
            {source.wave === "ac" && <Field at="/source/frequency_hz" />}
            <Field at="/source/max_current_a" />
            <Field at="/source/other_load_a" />
            <Field at="/source/gaps/every_s" clears="/source/gaps" begins={{ length_s: 0.1 }} hint={source.gaps ? undefined : "If left blank: never"} />
            {source.gaps && <Field at="/source/gaps/length_s" />}
          </FieldGrid>
        </Card>
      ) : (
        <Card title="Steady supply">
          <FieldGrid>
            <Field at="/source/voltage_v" />
            <Field at="/source/max_current_a" />
            <Field at="/source/other_load_a" />
            <Field at="/source/resistance_ohm" />
          </FieldGrid>
          <MoreFields>
            <Field at="/source/min_load_a" />
            <Field at="/source/critical" />
          </MoreFields>
        </Card>
      )}
      <Card title="What it shows and gives">
        <Readout rows={rows} />
      </Card>
      {source.kind === "battery" && sheet && (
        <Card title="Where to connect">
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
                    <span className={advice.right ? "ink-good" : "ink-stop"}>{advice.right ? "✓ right" : "✕ wrong"}:</span> {capital(called("Tap", advice.tap))}
                  </b>
                  <span className="ink-muted">{inOwn(advice.why)}</span>
                </div>
              </label>
            ))}
          </div>
          <Box mt="3">
            <Field at="/source/tap_limit_a" />
          </Box>
        </Card>
      )}
      {sheet && (
        <Card title="Give the lights their own battery?">
          <Reasons sign="+" ink="ink-good" reasons={sheet.own_pack_for} />
          <Reasons sign="−" ink="ink-fix" reasons={sheet.own_pack_against} />
        </Card>
      )}
      <VehicleCard kind={build.vehicle.kind} motor={build.vehicle.propulsion != null} frame={vehicleOf(build).frame_may_return} />
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
  own: Build["parts"];
  edit: EditorProps["edit"];
  onAdd: (part: Wish) => void;
}

/** The pack by what it is, or by its label; or a rail or a track instead. */
const SourcePick = memo(function SourcePick({ kind: shown, chemistry, own, edit, onAdd }: PickProps) {
  const packs = useParts(own).filter((part) => part.what.kind === "battery");
  return (
    <Card title="What is it?">
      <Segments
        quiet
        stacked
        label="Source"
        value={shown}
        options={wordsOf("SourceKind").map(([word, named]) => [word as typeof shown, capital(named)] as const)}
        onChange={(kind) => {
          if (kind === shown) return;
          if (kind !== "battery") onAdd({ kind });
          else if (packs[0]) onAdd({ kind: "pack", part: packs[0] });
        }}
      />
      {chemistry && (
        <>
          <Box mt="3">
            <Choice
              label="Choose one like yours"
              value=""
              options={[["", "from the parts drawer …"], ...packs.map((part) => [part.id, part.name] as const)]}
              onChange={(id) => {
                const part = packs.find((known) => known.id === id);
                if (part) onAdd({ kind: "pack", part });
              }}
            />
          </Box>
          <FromLabel edit={edit} onAdd={onAdd} />
        </>
      )}
    </Card>
  );
});

/** A battery as a part has it. */
function bare({ kind, ...battery }: Extract<Build["source"], { kind: "battery" }>) {
  void kind;
  return battery;
}

/** What is printed on it, typed as it stands there; what it leaves open is asked. */
function FromLabel({ edit, onAdd }: Pick<PickProps, "edit" | "onAdd">) {
  const put = (source: Build["source"]) => {
    // A pack is put in as one from the drawer is: how the old one was tapped and used stays.
    const from = { id: "label", name: text, figures_from: "As printed on it" };
    if (source.kind === "battery") onAdd({ kind: "pack", part: { ...from, what: { kind: "battery", battery: bare(source) } } });
    else edit((draft) => void (draft.source = source), "label");
  };
  const [text, setText] = useState("");
  const label = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/label", { body: { text } })),
    onSuccess: ({ source, question }) => source && !question && put(source),
  });
  const { data: said } = label;
  return (
    <Box asChild mt="3">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (text.trim()) label.mutate();
        }}
      >
        <label>
          <Box as="span" fontSize="xs" color="fg.muted">
            or type its label, as printed
          </Box>
          <input className="control" value={text} placeholder="36 V 14 Ah" onChange={(event) => setText(event.target.value)} />
        </label>
        <Button type="submit" mt="2" size="sm" variant="outline" loading={label.isPending}>
          Read this label
        </Button>
        {said && (
          <Box mt="1" fontSize="xs" role="status">
            {said.understood.join(", ")}
            {said.assumed.map((line) => (
              <Box key={line} color="fg.muted">
                Assumed: {line}
              </Box>
            ))}
          </Box>
        )}
        {said?.question && (
          <Box mt="2" fontSize="sm" role="group" aria-label={said.question.says}>
            {said.question.says}
            {said.question.choices.map((choice) => (
              <Button
                key={choice.says}
                type="button"
                display="block"
                mt="1"
                size="xs"
                minH="8"
                variant="outline"
                onClick={() => {
                  put(choice.source);
                  label.reset();
                }}
              >
                {choice.says}
              </Button>
            ))}
          </Box>
        )}
        {label.error && (
          <Box mt="1" fontSize="xs" role="alert" color="stop.fg">
            {problemOf(label.error).detail}
          </Box>
        )}
      </form>
    </Box>
  );
}

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
      <Like
        field="Rail.voltage_v"
        label="Measured at rest, nothing on"
        hint={volts === null ? "The meter on volts DC, probes on plus and minus" : undefined}
        optional
        value={volts}
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

function VehicleCard({ kind, motor, frame }: { kind: Build["vehicle"]["kind"]; motor: boolean; frame: boolean }) {
  return (
    <Card title="Vehicle">
      <FieldGrid>
        <Variant kind={kind} />
        <Field at="/vehicle/mass_kg" />
        {frame && <Field at="/vehicle/frame_return_ohm" />}
        <Field at="/vehicle/propulsion/power_w" clears="/vehicle/propulsion" hint={motor ? "mean power while moving" : undefined} />
        {motor && <Field at="/vehicle/propulsion/speed_kmh" />}
        <Field at="/notes" label="Notes on this build (#word makes a tag on the shelf)" />
      </FieldGrid>
    </Card>
  );
}

/** Which form of the vehicle it is, where there are several. */
function Variant({ kind }: { kind: Build["vehicle"]["kind"] }) {
  const { value, write } = useField("/vehicle/variant");
  const forms = vehicle(kind).variants;
  if (forms.length < 2) return null;
  const shown = typeof value === "string" ? value : forms[0]!.id;
  return <Choice label="Form" value={shown} options={forms.map((form) => [form.id, form.name] as const)} onChange={write} />;
}

function BatteryCard() {
  const { value: lit } = useField("/source/used_while_charging");
  return (
    <Card title="The pack">
      <FieldGrid>
        <Field wide at="/source/chemistry" />
        <Field at="/source/series" />
        <Field at="/source/capacity_ah" />
        <Field at="/source/max_current_a" />
        <Field at="/source/usable_fraction" />
        <Field at="/source/used_while_charging" />
        <Field at="/source/protected" />
        {lit === true && <Field at="/source/may_charge_lit" />}
      </FieldGrid>
      <MoreFields>
        <Field at="/source/resistance_ohm" />
        <Field at="/source/parallel" hint="of cells in the pack; the capacity counts them in" />
        <Field at="/source/rated_hours" hint="as the label or datasheet says" />
        <Field at="/source/peukert" />
        <Field at="/source/charge_v" />
        <Field at="/source/own" />
        <Field at="/source/charged_by" none="Nobody said" />
      </MoreFields>
    </Card>
  );
}
