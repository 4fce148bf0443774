import type { Build, Drained, Fact } from "../../api/client";
import { Figure } from "../../job/Figure";
import { say, share } from "../../units";
import { DataTable, ReportButton } from "./DataTable";

const factIn = (facts: readonly Fact[], key: string) => facts.find((fact) => fact.key === key);

export function Said({ fact }: { fact: Fact | undefined }) {
  return fact ? <Figure label={fact.label} text={say(fact)} working={fact.working} /> : "–";
}

const SCENE_COLUMNS = [
  ["hours", "Time of light"],
  ["mean_a", "Mean current"],
  ["mean_w", "Power"],
  ["share", "Share"],
] as const;

/** What the lights cost, in the terms of the person. */
export function UseView({ build, drained }: { build: Build; drained: Drained }) {
  const { drain } = drained;
  const lost = factIn(drain.motion, "range_lost_km") ?? factIn(drain.motion, "flight_lost_s");
  const { temperature_c: celsius, capacity_left: left } = build.usage;
  // A rail has no hours and no shares.
  const columns = SCENE_COLUMNS.filter(([key]) => drain.scenes.some((scene) => factIn(scene.facts, key)));
  const asItIs = [celsius != null && `${celsius} °C`, left != null && `${share(left)} of its capacity left`].filter(Boolean);
  return (
    <>
      <section className="tiles" aria-label="At a glance">
        {drain.headline.map((fact) => (
          <div key={fact.key}>
            <Figure label={fact.label} text={say(fact)} working={fact.working} large />
            <div className="quiet">{fact.label}</div>
          </div>
        ))}
      </section>
      <p className="rhythm">{drain.rhythm}</p>
      {asItIs.length > 0 && <p className="quiet">On the battery as it is: {asItIs.join(", ")}. The verdict's time of light is of a new one at 25 °C.</p>}
      <ChargeBar build={build} drained={drained} />
      <DataTable
        caption="Scenes"
        term="Peukert"
        csv={{ build, table: "scenes" }}
        head={["Scene", "In an outing", ...columns.map(([, name]) => name)]}
        rows={drain.scenes.map((scene) => ({
          key: scene.scene,
          cells: [scene.name, say({ value: scene.minutes, unit: "min" }), ...columns.map(([key]) => <Said key={key} fact={factIn(scene.facts, key)} />)],
        }))}
      />
      {drain.parked.length > 0 && (
        <DataTable
          caption="Parked, from full"
          term="self-discharge"
          csv={{ build, table: "parked" }}
          head={["Left like this", "Draws", "Reaches reserve after", "Battery damaged after"]}
          rows={drain.parked.map((way) => ({
            key: way.way,
            cells: [way.title, ...["background_a", "reserve_days", "harm_days"].map((key) => <Said key={key} fact={factIn(way.facts, key)} />)],
          }))}
        />
      )}
      <DataTable
        caption={lost ? "The day, the way and the mass" : "The day and the mass"}
        csv={{ build, table: "use" }}
        head={["Figure", "Value"]}
        rows={[...drain.day, ...drain.motion, ...drain.mass, ...drain.conditions].map((fact) => ({
          key: fact.key,
          cells: [fact.label, <Said key="value" fact={fact} />],
        }))}
      />
      <div className="tools">
        <ReportButton build={build} />
      </div>
    </>
  );
}

const INK = ["var(--chakra-colors-lantern-solid)", "var(--chakra-colors-note-line)", "var(--chakra-colors-good-fg)", "var(--chakra-colors-heat-fg)"];

/** The battery's charge as a bar: what an outing takes by scene, what is left, and the reserve that stays. */
function ChargeBar({ build, drained }: { build: Build; drained: Drained }) {
  if (build.source.kind !== "battery") return null;
  const { conditions, scenes } = drained.drain;
  const capacity = factIn(conditions, "capacity_ah")?.value;
  const reserve = factIn(conditions, "reserve")?.value;
  if (capacity === undefined || reserve === undefined) return null;
  const parts = scenes
    .map((scene, index) => ({ name: scene.name, share: factIn(scene.facts, "of_all")?.value ?? 0, ink: INK[index % INK.length]! }))
    .filter((part) => part.share > 0);
  // What is asked beyond the whole makes the bar's scale, not the bar, longer.
  const whole = Math.max(
    1,
    parts.reduce((sum, part) => sum + part.share, reserve),
  );
  const words = `Of ${say({ value: capacity, unit: "Ah" })}: ${parts.map((part) => `${part.name} ${share(part.share)}`).join(", ")}; ${share(reserve)} stay as reserve`;
  return (
    <figure className="charge" aria-label={words}>
      <div className="bar" aria-hidden>
        {parts.map((part) => (
          <div key={part.name} style={{ width: `${(100 * part.share) / whole}%`, background: part.ink }} />
        ))}
        <div className="left" style={{ flex: 1 }} />
        <div className="reserve" style={{ width: `${(100 * reserve) / whole}%` }} />
      </div>
      <figcaption aria-hidden>
        {parts.map((part) => (
          <span key={part.name}>
            <i style={{ background: part.ink }} /> {part.name} {share(part.share)}
          </span>
        ))}
        <span>
          <i className="reserve" /> reserve {share(reserve)}
        </span>
      </figcaption>
    </figure>
  );
}
