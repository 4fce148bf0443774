import { Button } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { memo, useId, useMemo, useState } from "react";
import { type Build, type Tried, type WhatIf as Change, answer, api, problemOf } from "../../api/client";
import { type Dial as DialForm, JOB } from "../../document/job";
import { say } from "../../units";
import { useFollowed } from "../../api/useFollowed";
import { CsvButton, DataTable } from "./DataTable";
import { Said } from "./UseView";

/** What a slider stands at, in words. */
const standsAt = ({ unit }: DialForm, value: number): string =>
  unit === "1" ? `${Math.round(100 * value)} % of the plan` : unit === "×" ? `${value.toFixed(2)} × the plan` : `${value} ${unit}`;

/** The plan as it is. */
const planOf = (build: Build): Change => ({ brightness_factor: 1, capacity_factor: 1, temperature_c: build.usage.temperature_c ?? 25, hours_factor: 1 });

/** What if: sliders, and the plan beside them. */
export function WhatIf({ build, scene, onTake }: { build: Build; scene: string; onTake: (document: Build) => void }) {
  const plan = planOf(build);
  // What is not moved stays with the plan, also when the plan is edited meanwhile.
  const [dialled, setDialled] = useState<Partial<Change>>({});
  const change: Change = { ...plan, ...dialled };
  const moved = JOB.dials.some(({ name }) => change[name as keyof Change] !== plan[name as keyof Change]);
  const asked = useFollowed(
    "what-if",
    useMemo(() => ({ document: build, scene, change: { ...planOf(build), ...dialled } }), [build, scene, dialled]),
  );
  const take = useMutation({
    mutationFn: (tried: Tried) => answer(api.POST("/api/v1/apply", { body: { document: build, changes: tried.changes } })),
    onSuccess: (applied) => {
      setDialled({});
      onTake(applied.document);
    },
  });
  const problem = asked.problem ?? (take.error && problemOf(take.error));
  return (
    <>
      <div className="dials">
        {JOB.dials
          .filter((dial) => build.source.kind === "battery" || !dial.battery)
          .map((dial) => (
            <Dial key={dial.name} dial={dial} value={change[dial.name as keyof Change]} onChange={(value) => setDialled({ ...dialled, [dial.name]: value })} />
          ))}
      </div>
      {asked.data && <Pairs scene={build.scenes.find((known) => known.id === scene)?.name ?? ""} pairs={asked.data.pairs} />}
      {problem && (
        <p role="alert" className="field-note fault">
          {problem.detail}
        </p>
      )}
      <div className="tools">
        <Button
          size="sm"
          colorPalette="lantern"
          disabled={!moved || !asked.data || !asked.fresh}
          loading={take.isPending}
          onClick={() => asked.data && take.mutate(asked.data)}
        >
          Take it over into the plan
        </Button>
        <Button size="sm" variant="outline" disabled={!moved} onClick={() => setDialled({})}>
          Back to the plan
        </Button>
        <CsvButton build={build} table="what-if" tried={{ scene, change }} />
      </div>
    </>
  );
}

/** Both, figure by figure; drawn again only with a new answer, not with every step of a slider. */
const Pairs = memo(function Pairs({ scene, pairs }: { scene: string; pairs: Tried["pairs"] }) {
  return (
    <DataTable
      caption={`${scene}: the plan, and the change`}
      head={["Figure", "Plan", "Changed", "Side by side", "Difference"]}
      rows={pairs.map(({ plan: before, changed, difference }) => ({
        key: (before ?? changed)!.key,
        cells: [
          (before ?? changed)!.label,
          <Said key="plan" fact={before ?? undefined} />,
          <Said key="changed" fact={changed ?? undefined} />,
          before && changed ? <Bars key="bars" plan={before.value} changed={changed.value} /> : "",
          before && changed ? said(difference ?? 0, before.unit) : "–",
        ],
      }))}
    />
  );
});

/** The plan above, the change below it, on one scale. */
function Bars({ plan, changed }: { plan: number; changed: number }) {
  const most = Math.max(plan, changed, 1e-12);
  return (
    <div className="pair" aria-hidden>
      <div className="now" style={{ width: `${(100 * plan) / most}%` }} />
      <div className="then" style={{ width: `${(100 * changed) / most}%` }} />
    </div>
  );
}

function said(difference: number, unit: string): string {
  return difference === 0 ? "the same" : `${difference > 0 ? "+" : "−"} ${say({ value: Math.abs(difference), unit })}`;
}

interface DialProps {
  dial: DialForm;
  value: number;
  onChange: (value: number) => void;
}

function Dial({ dial, value, onChange }: DialProps) {
  const id = useId();
  return (
    <div className="dial">
      <label htmlFor={id}>{dial.label}</label>
      <output htmlFor={id}>{standsAt(dial, value)}</output>
      <input
        id={id}
        type="range"
        min={dial.min}
        max={dial.max}
        step={dial.step}
        value={value}
        aria-valuetext={standsAt(dial, value)}
        onChange={(event) => onChange(Number(event.target.value))}
      />
    </div>
  );
}
