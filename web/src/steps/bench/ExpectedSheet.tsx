import "../../paper.css";
import { createPortal } from "react-dom";
import type { BenchCheck, Build } from "../../api/client";
import { useSaving } from "../../document/useSaving";
import { band, SETTINGS, should, STAGES } from "./words";

/** The check list on paper: what to read, what it should be, and room to write. On the screen it is not there. */
export function ExpectedSheet({ build, state, checks }: { build: Build; state: string; checks: readonly BenchCheck[] }) {
  const { revision } = useSaving();
  const stages = (Object.keys(STAGES) as BenchCheck["step"][]).map((stage) => [stage, checks.filter((check) => check.step === stage)] as const);
  return createPortal(
    <div className="on-paper">
      <h1>{build.name}: what to expect</h1>
      <p>
        Revision {revision}, battery at {state}. First without power, then a little power, then all of it. Stop at the first reading that is out of its band.
      </p>
      {stages.map(([stage, own]) => own.length > 0 && <ReadingsTable key={stage} build={build} checks={own} caption={STAGES[stage]} />)}
      <p>
        Never amps across a battery; never ohms with the power on. A lithium battery that was shorted, dropped or swollen is not tested any further. This is
        advice, not a certificate; local rules and licensed people come first.
      </p>
    </div>,
    document.body,
  );
}

/** Readings in rows, with room to write. */
export function ReadingsTable({ build, checks, caption }: { build: Build; checks: readonly BenchCheck[]; caption?: string }) {
  const scene = (check: BenchCheck) => build.scenes.find((known) => known.id === check.scene)?.name;
  return (
    <table>
      {caption && <caption>{caption}</caption>}
      <thead>
        <tr>
          <th scope="col">Check</th>
          <th scope="col">Meter</th>
          <th scope="col">Should read</th>
          <th scope="col">Fine</th>
          <th scope="col">Read</th>
        </tr>
      </thead>
      <tbody>
        {checks.map((check) => (
          <tr key={check.id}>
            <td>
              <b>{check.title}</b>
              <br />
              {check.how}
            </td>
            <td>
              {SETTINGS[check.setting]}
              <br />
              {check.places.join(" and ")}
              {scene(check) && (
                <>
                  <br />
                  {scene(check)}
                </>
              )}
            </td>
            <td>{should(check)}</td>
            <td>{band(check)}</td>
            <td className="to-write" />
          </tr>
        ))}
      </tbody>
    </table>
  );
}
