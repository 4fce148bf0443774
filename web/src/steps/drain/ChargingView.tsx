import type { Build, Drained } from "../../api/client";
import { Figure } from "../../job/Figure";
import { say, share, read, of } from "../../units";
import { DataTable } from "./DataTable";

/** Charging: how long, what to mind, and what its voltage does to lights that stay on. */
export function ChargingView({ build, drained }: { build: Build; drained: Drained }) {
  const { charging } = drained.drain;
  if (!charging)
    return (
      <p>
        {build.source.kind !== "battery"
          ? "A supply or a track is not charged; what powers it is."
          : "These cells are not recharged: never try. Put in new ones."}
      </p>
    );
  return (
    <>
      <section className="tiles" aria-label="At a glance">
        {charging.facts.map((fact) => (
          <div key={fact.key}>
            <Figure label={fact.label} text={say(fact)} working={fact.working} large />
            <div className="quiet">{fact.label}</div>
          </div>
        ))}
      </section>
      {build.usage.charger_a == null && <p className="quiet">Give the charger's current, beside this, to see how long it takes.</p>}
      <p className={charging.lights_may_run ? "rhythm ink-good" : "rhythm ink-stop"}>
        <span aria-hidden>{charging.lights_may_run ? "✓ " : "✕ "}</span>
        {charging.verdict}
      </p>
      {charging.elsewhere.length > 0 && <p className="ink-stop">✕ {charging.elsewhere.join("; ")}</p>}
      {charging.lights.length > 0 && (
        <>
          <DataTable
            caption="Lights while it charges"
            csv={{ build, table: "charging" }}
            head={["Light", "Full", "Charging", "Brightness full", "Charging", "What is wrong then"]}
            rows={charging.lights.map((light) => ({
              key: light.id,
              cells: [
                light.id,
                read(of(light, "full_v")),
                read(of(light, "charging_v")),
                share(light.full_output),
                share(light.charging_output),
                light.faults.length > 0 ? (
                  <span className="ink-stop">✕ {light.faults.map((fault) => fault.replace(`${light.id}: `, "")).join("; ")}</span>
                ) : (
                  "✓ nothing"
                ),
              ],
            }))}
          />
        </>
      )}
      {charging.cautions.length > 0 && (
        <section className="group">
          <h3>Mind while charging</h3>
          <ul className="said">
            {charging.cautions.map((caution) => (
              <li key={caution}>{caution}</li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}
