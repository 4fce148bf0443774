import { Button } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useRef, useState } from "react";
import { CartesianGrid, Line, LineChart, ReferenceLine, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import { type Build, type Discharge, answer, api, problemOf } from "../../api/client";
import { ink, lightColour } from "../../theme";
import { Failure } from "../../ui/Failure";
import { Term } from "../../job/Figure";
import { saveBlob, saveFile } from "../../base/save";
import { hours, share, read, of } from "../../units";
import { numberOf } from "../../document/useSolved";
import { CsvButton, DataTable } from "./DataTable";

/** Dashes tell lines apart where colours do not. */
const DASHES = ["", "6 3", "2 3", "8 3 2 3", "4 4", "1 3"];

/** A scene from a full battery to its end. */
export default function OverTime({ build, scene }: { build: Build; scene: string }) {
  const asked = useQuery({
    queryKey: ["discharge", numberOf(build), scene],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/discharge", { body: { document: build, scene }, signal })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 20_000,
  });
  if (asked.error) return <Failure problem={problemOf(asked.error)} retry={() => void asked.refetch()} />;
  if (asked.data === undefined) return <p className="quiet">Following the battery down …</p>;
  if (asked.data === null) return <p>A steady supply has no charge of its own to follow.</p>;
  if (asked.data.moments.length < 2) return <p>This scene draws nothing: there is no end to follow it to.</p>;
  return <Curves build={build} discharge={asked.data} />;
}

function Curves({ build, discharge }: { build: Build; discharge: Discharge }) {
  const [table, setTable] = useState(false);
  const frame = useRef<HTMLDivElement>(null);
  const end = discharge.moments.at(-1)!.at_h;
  const rows = useMemo(
    () =>
      discharge.moments.map((moment) => ({
        at: moment.at_h,
        volts: moment.terminal_v,
        amps: moment.current_a,
        soc: moment.soc,
        ...Object.fromEntries(discharge.lights.map((id, index) => [`light:${id}`, 100 * moment.outputs[index]!])),
      })),
    [discharge],
  );
  const name = build.scenes.find((known) => known.id === discharge.scene)?.name ?? discharge.scene;
  const colourOf = (id: string) => {
    const light = build.lights.find((known) => known.id === id);
    if (light?.load.kind === "led_array") return light.load.led.colour;
    return light?.load.kind === "pixels" ? "pixels" : (light?.colour ?? "white");
  };
  const axis = {
    dataKey: "at",
    type: "number",
    domain: [0, end],
    tickFormatter: (at: number) => (at === 0 ? "full" : hours(at)),
    stroke: ink.muted,
    fontSize: 12,
    tickCount: 6,
  } as const;
  // Moments that fall together share a line.
  const marks = discharge.marks.filter((mark, index, all) => all.findIndex((other) => Math.abs(other.at_h - mark.at_h) < end / 400) === index);
  const lines = (axisId?: string) =>
    marks.map((mark, index) => (
      <ReferenceLine
        key={mark.words}
        yAxisId={axisId}
        x={mark.at_h}
        stroke={mark.event === "reserve" ? ink.accent : ink.stop}
        strokeDasharray="3 3"
        label={{ value: String(index + 1), position: "top", fill: ink.text, fontSize: 12 }}
      />
    ));
  const tip = {
    contentStyle: { background: "var(--chakra-colors-bg-panel)", border: "1px solid var(--chakra-colors-border)", borderRadius: 6, fontSize: 12 },
    labelFormatter: (at: unknown) => `after ${hours(Number(at))}`,
    itemStyle: { color: "var(--chakra-colors-fg)" },
    isAnimationActive: false,
  };
  const grid = <CartesianGrid stroke={ink.faint} vertical={false} />;
  const margin = { top: 20, right: 14, bottom: 4, left: 0 };
  return (
    <>
      <div ref={frame} role="group" aria-label={`${name}, from full to the end; walk a chart with the arrow keys`}>
        <h3 className="chart-title">
          <i style={{ background: ink.accent }} /> volts <i style={{ background: "var(--chakra-colors-note-line)" }} /> amps, dashed
        </h3>
        <ResponsiveContainer width="100%" height={190}>
          <LineChart data={rows} syncId="drain" margin={margin} title={`${name}: volts and amps over time`} accessibilityLayer>
            {grid}
            <XAxis {...axis} />
            <YAxis
              yAxisId="volts"
              stroke={ink.muted}
              fontSize={12}
              width={54}
              domain={["auto", "auto"]}
              tickFormatter={(value: number) => read({ value, unit: "V" })}
            />
            <YAxis
              yAxisId="amps"
              orientation="right"
              stroke={ink.muted}
              fontSize={12}
              width={60}
              domain={[0, "auto"]}
              tickFormatter={(value: number) => read({ value, unit: "A" })}
            />
            <Tooltip
              {...tip}
              formatter={(value, key) => [read({ value: Number(value), unit: key === "volts" ? "V" : "A" }), key === "volts" ? "battery" : "drawn"]}
            />
            {lines("volts")}
            <Line yAxisId="volts" dataKey="volts" stroke={ink.accent} strokeWidth={2} dot={false} isAnimationActive={false} />
            <Line
              yAxisId="amps"
              dataKey="amps"
              stroke="var(--chakra-colors-note-line)"
              strokeWidth={2}
              strokeDasharray="6 3"
              dot={false}
              isAnimationActive={false}
            />
          </LineChart>
        </ResponsiveContainer>
        <h3 className="chart-title">
          brightness, of rated:{" "}
          {discharge.lights.map((id, index) => (
            <span key={id}>
              <svg width="26" height="8" aria-hidden>
                <line x1="0" x2="26" y1="4" y2="4" stroke={stroke(colourOf(id))} strokeWidth="2.5" strokeDasharray={DASHES[index % DASHES.length]} />
              </svg>{" "}
              {id}
            </span>
          ))}
        </h3>
        <ResponsiveContainer width="100%" height={190}>
          <LineChart data={rows} syncId="drain" margin={margin} title={`${name}: brightness over time`} accessibilityLayer>
            {grid}
            <XAxis {...axis} />
            <YAxis stroke={ink.muted} fontSize={12} width={54} domain={[0, "auto"]} tickFormatter={(v: number) => `${Math.round(v)} %`} />
            <YAxis yAxisId="amps" orientation="right" width={60} tick={false} axisLine={false} />
            <Tooltip {...tip} formatter={(value, key) => [share(Number(value) / 100), String(key).replace("light:", "")]} />
            {lines()}
            {discharge.lights.map((id, index) => (
              <Line
                key={id}
                dataKey={`light:${id}`}
                stroke={stroke(colourOf(id))}
                strokeWidth={2}
                strokeDasharray={DASHES[index % DASHES.length]}
                dot={false}
                isAnimationActive={false}
              />
            ))}
          </LineChart>
        </ResponsiveContainer>
      </div>
      <h3 className="chart-title">
        what happens on the way
        <Term word="protection cut-off" />
      </h3>
      <ol className="marks">
        {marks.map((mark) => (
          <li key={mark.words}>
            after <b>{hours(mark.at_h)}</b>:{" "}
            {discharge.marks
              .filter((other) => Math.abs(other.at_h - mark.at_h) < end / 400)
              .map((other) => other.words)
              .join("; ")}
          </li>
        ))}
      </ol>
      <div className="tools">
        <Button size="xs" minH="8" variant="outline" aria-expanded={table} onClick={() => setTable(!table)}>
          {table ? "Hide the table" : "As a table"}
        </Button>
        <CsvButton build={build} table="discharge" />
        <Button size="xs" minH="8" variant="outline" onClick={() => saveFile("discharge.svg", "image/svg+xml", picture(frame.current!))}>
          SVG
        </Button>
        <Button size="xs" minH="8" variant="outline" onClick={() => void png(picture(frame.current!)).then((blob) => blob && saveBlob("discharge.png", blob))}>
          PNG
        </Button>
      </div>
      {table && (
        <DataTable
          caption={`${name}, from full to the end`}
          head={["From full", "Charge", "Battery", "Drawn", ...discharge.lights]}
          rows={discharge.moments
            .filter((_, index) => index % 4 === 0 || index === discharge.moments.length - 1)
            .map((moment) => ({
              key: String(moment.at_h),
              cells: [
                hours(moment.at_h),
                share(moment.soc),
                read(of(moment, "terminal_v")),
                read(of(moment, "current_a")),
                ...moment.outputs.map((output) => share(output)),
              ],
            }))}
        />
      )}
    </>
  );
}

/** A light's own colour as far as it can be read on the ground that it is drawn on. */
function stroke(colour: string): string {
  if (colour === "pixels") return "var(--chakra-colors-note-fg)";
  return `color-mix(in oklab, ${lightColour(colour)} 62%, var(--chakra-colors-fg))`;
}

/** Both charts as one picture with its colours written out. */
function picture(frame: HTMLElement): string {
  const charts = [...frame.querySelectorAll<SVGSVGElement>("svg.recharts-surface")];
  const width = Math.max(...charts.map((chart) => chart.clientWidth));
  let top = 0;
  const inner = charts.map((chart) => {
    const copy = chart.cloneNode(true) as SVGSVGElement;
    const from = chart.querySelectorAll<SVGElement>("*");
    copy.querySelectorAll<SVGElement>("*").forEach((element, index) => {
      const style = getComputedStyle(from[index]!);
      for (const name of ["fill", "stroke"] as const) if (element.hasAttribute(name)) element.setAttribute(name, style[name]);
    });
    copy.setAttribute("y", String(top));
    top += chart.clientHeight;
    return new XMLSerializer().serializeToString(copy);
  });
  const ground = getComputedStyle(document.body).backgroundColor;
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${top}" font-family="sans-serif"><rect width="100%" height="100%" fill="${ground}"/>${inner.join("")}</svg>`;
}

/** A picture in dots, twice as fine as it is drawn. */
async function png(svg: string): Promise<Blob | null> {
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
  await image.decode();
  const canvas = document.createElement("canvas");
  canvas.width = 2 * image.width;
  canvas.height = 2 * image.height;
  canvas.getContext("2d")!.drawImage(image, 0, 0, canvas.width, canvas.height);
  return new Promise((done) => canvas.toBlob(done, "image/png"));
}
