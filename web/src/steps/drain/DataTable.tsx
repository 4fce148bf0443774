import { Button } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { type Build, type WhatIf, answer, api, problemOf } from "../../api/client";
import { Term } from "../../job/Figure";
import { saveFile } from "../../base/save";

interface Props {
  caption: string;
  /** A word of the trade in it that the glossary explains. */
  term?: string;
  /** The core's table of the same figures, for a spreadsheet. */
  csv?: { build: Build; table: string };
  head: readonly ReactNode[];
  rows: readonly { key: string; cells: readonly ReactNode[] }[];
}

/** Figures in rows; the first column names the row. */
export function DataTable({ caption, term, csv, head, rows }: Props) {
  return (
    // A wide table is walked with the arrow keys where it does not fit.
    <div className="table-room" tabIndex={0} role="region" aria-label={caption}>
      <table className="data">
        <caption>
          {caption}
          {term && <Term word={term} />}
          {csv && <CsvButton {...csv} />}
        </caption>
        <thead>
          <tr>
            {head.map((cell, index) => (
              <th key={index} scope="col">
                {cell}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.key}>
              {row.cells.map((cell, index) =>
                index === 0 ? (
                  <th key={index} scope="row" children={cell} />
                ) : (
                  <td key={index} className={typeof cell === "string" && cell.length > 22 ? "words" : undefined} children={cell} />
                ),
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Hands the whole report to the person as JSON. */
export function ReportButton({ build }: { build: Build }) {
  const get = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/report", { body: { document: build } })),
    onSuccess: (report) => saveFile("report.json", "application/json", JSON.stringify(report, null, 2)),
  });
  return (
    <>
      <Button size="xs" minH="8" variant="outline" loading={get.isPending} onClick={() => get.mutate()}>
        The whole report as JSON
      </Button>
      {get.error && (
        <span role="alert" className="field-note fault">
          {problemOf(get.error).detail}
        </span>
      )}
    </>
  );
}

interface CsvProps {
  build: Build;
  table: string;
  /** A change to the build whose figures the table holds beside the plan's. */
  tried?: { scene: string; change: WhatIf };
}

/** Hands one of the core's tables to the person as CSV. */
export function CsvButton({ build, table, tried }: CsvProps) {
  const get = useMutation({
    mutationFn: () =>
      tried
        ? answer(api.POST("/api/v1/what-if/csv", { body: { document: build, ...tried }, parseAs: "text" }))
        : answer(api.POST("/api/v1/csv", { body: { document: build, table }, parseAs: "text" })),
    onSuccess: (text) => saveFile(`${table}.csv`, "text/csv", text as string),
  });
  return (
    <>
      <Button size="xs" minH="8" variant="outline" aria-label={`CSV of ${table}`} loading={get.isPending} onClick={() => get.mutate()}>
        CSV
      </Button>
      {get.error && (
        <span role="alert" className="field-note fault">
          {problemOf(get.error).detail}
        </span>
      )}
    </>
  );
}
