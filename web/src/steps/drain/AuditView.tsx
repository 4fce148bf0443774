import { Button } from "@chakra-ui/react";
import type { Build, Drained, Fact } from "../../api/client";
import { Figure } from "../../job/Figure";
import { of, read, say, share, inOwn } from "../../units";
import type { Edit } from "../../document/useBuild";
import { CsvButton, DataTable } from "./DataTable";
import { Said } from "./UseView";

/** What is on the battery now, and what replacing the bulbs changes. */
export function AuditView({ build, drained, edit }: { build: Build; drained: Drained; edit: Edit }) {
  const { audit } = drained;
  if (build.source.kind !== "battery") return <p>What other bulbs would save is worked out for a battery; this build runs off a steady supply.</p>;
  if (!audit || audit.lines.length === 0)
    return (
      <>
        <p>List the bulbs that are on the battery now, beside this: then choose what replaces them, and see what that buys.</p>
        <Instructions said={audit?.instructions ?? []} />
      </>
    );
  const changed = audit.lines.some((line) => line.replacement);
  // Best first is the core's order.
  const replaceAll = () =>
    edit((draft) => {
      for (const bulb of draft.audit?.bulbs ?? []) bulb.replacement = audit.lines.find((line) => line.id === bulb.id)?.candidates[0]?.part ?? null;
    });
  return (
    <>
      {audit.ways.length > 0 && (
        <section className="ways" aria-label="Two ways">
          {audit.ways.map((way) => (
            <div key={way.title}>
              <h3>{inOwn(way.title)}</h3>
              <dl>
                {way.facts.map((fact) => (
                  <div key={fact.key}>
                    <dt>{fact.label}</dt>
                    <dd>
                      <Said fact={fact} />
                    </dd>
                  </div>
                ))}
              </dl>
              <p className="quiet">{way.remark}</p>
            </div>
          ))}
        </section>
      )}
      {changed ? (
        <section className="compare" aria-label="Before and after">
          {audit.outcomes.map((outcome) => (
            <Compare key={outcome.key} label={outcome.label} before={outcome.before} after={outcome.after} />
          ))}
        </section>
      ) : (
        <>
          <section className="tiles" aria-label="As it is">
            {audit.outcomes.map(({ key, label, before }) => (
              <div key={key}>
                {before ? <Figure label={label} text={say(before)} working={before.working} large /> : <b>no end</b>}
                <div className="quiet">{label}</div>
              </div>
            ))}
          </section>
          <div>
            <Button size="sm" colorPalette="lantern" onClick={replaceAll} disabled={audit.lines.every((line) => line.candidates.length === 0)}>
              Replace all with what matches best
            </Button>
            <div className="field-note">by brightness, among those that fit the holder and stand the battery; or choose one by one, beside this</div>
          </div>
        </>
      )}
      <DataTable
        caption="Load cases"
        csv={{ build, table: "audit-cases" }}
        head={["Case", "Computed now", "Measured now", ...(changed ? ["Computed after", "Measured after", "After over now"] : []), "What that says"]}
        rows={audit.cases.map((row) => ({
          key: row.case,
          cells: [
            row.title,
            <Said key="before" fact={row.before_a} />,
            typeof row.measured_a === "number" ? read(of(row, "measured_a")) : "–",
            ...(changed
              ? [
                  <Said key="after" fact={row.after_a} />,
                  typeof row.measured_after_a === "number" ? read(of(row, "measured_after_a")) : "–",
                  typeof row.ratio === "number" ? share(row.ratio) : "–",
                ]
              : []),
            row.remark ?? "",
          ],
        }))}
      />
      <DataTable
        caption="Bulbs"
        term="colour temperature"
        csv={{ build, table: "audit-bulbs" }}
        head={["Bulbs", "One draws", "A day", ...(changed ? ["Replaced by", "One draws", "A day", "Cost"] : [])]}
        rows={audit.lines.map((line) => ({
          key: line.id,
          cells: [
            `${line.name} × ${build.audit?.bulbs.find((bulb) => bulb.id === line.id)?.count ?? 0}`,
            <Said key="before" fact={line.before_a} />,
            read(of(line, "before_ah")),
            ...(changed
              ? [
                  line.replacement ?? "–",
                  <Said key="after" fact={line.after_a ?? undefined} />,
                  line.replacement ? read(of(line, "after_ah")) : "–",
                  typeof line.cost_eur === "number" ? say({ value: line.cost_eur, unit: "€" }) : "–",
                ]
              : []),
          ],
        }))}
      />
      <div className="tools">
        <CsvButton build={build} table="audit-outcomes" />
        <span className="quiet">Prices are a rough guide.</span>
      </div>
      <Instructions said={audit.instructions} />
    </>
  );
}

/** A figure now and then, as bars of one scale. */
function Compare({ label, before, after }: { label: string; before?: Fact | null; after?: Fact | null }) {
  const most = Math.max(before?.value ?? 0, after?.value ?? 0, 1e-9);
  const line = (name: string, fact: Fact | null | undefined, now: boolean) => (
    <div className="line">
      <span className="quiet">{name}</span>
      <div className="track" aria-hidden>
        <div className={now ? "now" : "then"} style={{ width: `${fact ? (100 * fact.value) / most : 100}%` }} />
      </div>
      {fact ? <Said fact={fact} /> : <b>no end</b>}
    </div>
  );
  return (
    <div>
      <h3>{label}</h3>
      {line("now", before, true)}
      {after !== undefined && line("then", after, false)}
    </div>
  );
}

function Instructions({ said }: { said: readonly string[] }) {
  return said.length > 0 ? (
    <section className="group">
      <h3>How to measure without harm</h3>
      <ol className="said">
        {said.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ol>
    </section>
  ) : null;
}
