import "../../paper.css";
import { createPortal } from "react-dom";
import type { BenchCheck, Build, CutList, Diagram, Made, PartsList, WireLabel } from "../../api/client";
import { ReadingsTable } from "../bench/ExpectedSheet";
import { Drawing } from "./Drawing";
import { LabelRows } from "./LabelSheet";
import { headOf, usePageHead } from "./pageHead";
import { sayMinutes } from "./time";
import { money, inOwn } from "../../units";

/** Everything that a build sheet says. */
export interface SheetData {
  made: Made;
  shopping: PartsList;
  cuts: CutList;
  diagram: Diagram;
  checks: readonly BenchCheck[];
  labels: readonly WireLabel[];
  verdict: { headline: string; titles: readonly string[] };
}

/** The whole build on paper: verdict, diagram, cut list, parts, steps with boxes to tick, readings and labels. */
export function BuildSheet({ build, revision, data }: { build: Build; revision?: number; data: SheetData }) {
  const { made, shopping, cuts, diagram, checks, labels, verdict } = data;
  usePageHead(headOf(build, revision));
  return createPortal(
    <div className="on-paper">
      <h1>{build.name}: build sheet</h1>
      <p>
        {revision !== undefined && `Revision ${revision}. `}
        <b>{verdict.headline}</b>
        {verdict.titles.length > 0 && `: ${verdict.titles.join("; ")}.`}
      </p>
      <p>
        {made.steps.length} steps, {sayMinutes(made.plan.work)} of work. This is advice, not a certificate: local rules and licensed people come first. The fuse
        goes in last. A lithium battery that was shorted, dropped or swollen is not used again.
      </p>
      <h2>Wiring</h2>
      <p>Solid is plus, dashed is minus. A box with a line through it is a fuse, an open lever a switch, a tip in a cup a plug.</p>
      {diagram.pages.map((page) => (
        <figure key={page.of}>
          <Drawing drawn={diagram} part={page} paper />
        </figure>
      ))}
      <section>
        <h2>Cut list</h2>
        <table>
          <thead>
            <tr>
              <th scope="col">Roll</th>
              <th scope="col">Piece</th>
              <th scope="col">From</th>
              <th scope="col">To</th>
              <th scope="col">Note</th>
              <th scope="col">Cut</th>
            </tr>
          </thead>
          <tbody>
            {cuts.cuts.flatMap((cut) =>
              cut.rolls.flatMap((roll, number) =>
                roll.pieces.map((on) => (
                  <tr key={`${cut.of} ${number} ${on.piece} ${on.from_m}`}>
                    <td>
                      {cut.of}, {number + 1} of {cut.rolls.length} ({roll.length_m} m)
                    </td>
                    <td>
                      <b>{cut.pieces[on.piece]!.name}</b>
                    </td>
                    <td>{on.from_m.toFixed(2)} m</td>
                    <td>{on.to_m.toFixed(2)} m</td>
                    <td>{cut.pieces[on.piece]!.note}</td>
                    <td>☐</td>
                  </tr>
                )),
              ),
            )}
          </tbody>
        </table>
        <p>Heat-shrink, pieces of 3 cm: {cuts.shrink.map((one) => `${one.pieces} of ${one.bore_mm} mm`).join(", ")}.</p>
      </section>
      <section>
        <h2>Parts</h2>
        <table>
          <thead>
            <tr>
              <th scope="col">Part</th>
              <th scope="col">Needed</th>
              <th scope="col">Spare</th>
              <th scope="col">There</th>
              <th scope="col">Buy</th>
              <th scope="col">Cost</th>
            </tr>
          </thead>
          <tbody>
            {shopping.lines.map((line) => (
              <tr key={line.of}>
                <td>{line.of}</td>
                <td>
                  {Number(line.needed.toFixed(2))} {line.unit === "m" ? "m" : ""}
                </td>
                <td>{Number(line.spare.toFixed(2)) || ""}</td>
                <td>{Number(line.have.toFixed(2)) || ""}</td>
                <td>{Number(line.buy.toFixed(2)) || ""}</td>
                <td>{line.cost ? money(line.cost, line.currency) : ""}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p>
          Together{" "}
          {Object.entries(shopping.cost)
            .map(([currency, cost]) => money(cost, currency))
            .join(", ") || "nothing"}
          {shopping.unpriced > 0 && `, and ${shopping.unpriced} without a price`}. Tools: {shopping.tools.join(", ")}.
        </p>
      </section>
      <section>
        <h2>Steps</h2>
        <ol>
          {[...made.steps]
            .sort((a, b) => made.order.indexOf(a.id) - made.order.indexOf(b.id))
            .map((step, index) => (
              <li key={step.id}>
                <b>
                  ☐ {index + 1}. {inOwn(step.title)}
                </b>{" "}
                ({sayMinutes(step.minutes)}
                {step.wait && `, then ${sayMinutes(step.wait.minutes)}: ${step.wait.what}`}) {step.how}
                {step.caution && <b> ! {inOwn(step.caution)}</b>} <i>Before you go on: {step.checks.join(" ")}</i>
              </li>
            ))}
        </ol>
      </section>
      <section>
        <h2>Readings to expect</h2>
        <ReadingsTable build={build} checks={checks} />
      </section>
      <section>
        <h2>Labels</h2>
        <LabelRows labels={labels} size="medium" />
      </section>
    </div>,
    document.body,
  );
}
