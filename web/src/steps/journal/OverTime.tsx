import { Box, Button } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { type Build, type JournalView, answer, api } from "../../api/client";
import { saveFile } from "../../base/save";
import { Segments } from "../../ui/Segments";
import { Section } from "./parts";
import { TimeChart, dayText, within } from "./TimeChart";
import type { Lived } from "./useLived";
import { QUARTER, useSpan } from "./useSpan";

/** Figures over the months with what happened, also as a table and as files. */
export function OverTime({ build, lived, view }: { build: Build; lived: Lived; view: JournalView }) {
  const [key, setKey] = useState("charge");
  const [table, setTable] = useState(false);
  const { whole, span, setSpan } = useSpan(view, QUARTER);
  const chart = view.charts.find((known) => known.key === key) ?? view.charts[0];
  const ask = { document: build, events: lived.events, now: lived.now };
  const drawing = useMutation({
    mutationFn: (chart: string) =>
      answer(api.POST("/api/v1/journal/svg", { body: { ...ask, chart, from: span.from, to: span.to }, parseAs: "text" })) as unknown as Promise<string>,
    onSuccess: (text) => saveFile(`${build.name} - ${chart?.title ?? "chart"}.svg`, "image/svg+xml", text),
  });
  const csv = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/journal/csv", { body: ask, parseAs: "text" })) as unknown as Promise<string>,
    onSuccess: (text) => saveFile(`${build.name} - journal.csv`, "text/csv", text),
  });
  if (!chart)
    return (
      <Section title="Over time">
        <Box color="fg.muted">There is nothing to draw yet. Write down outings and charges; after a few, what they took is here.</Box>
      </Section>
    );
  const days = Math.round((span.to - span.from) / 86_400);
  const stretch = (length: number) => setSpan(within({ from: whole.to - length, to: whole.to }, whole));
  const shown = view.events.filter((event) => event.s >= span.from && event.s <= span.to);
  return (
    <Section
      title="Over time"
      aside={
        <Box display="flex" gap="1">
          <Button size="xs" minH="8" variant="outline" loading={csv.isPending} onClick={() => csv.mutate()}>
            CSV
          </Button>
          <Button size="xs" minH="8" variant="outline" loading={drawing.isPending} onClick={() => drawing.mutate(chart.key)}>
            SVG
          </Button>
        </Box>
      }
    >
      <Box display="flex" flexWrap="wrap" gap="2" mb="2" alignItems="center">
        <Segments label="Chart" quiet value={chart.key} options={view.charts.map((known) => [known.key, known.title] as const)} onChange={setKey} />
        <Box display="flex" gap="1" ml="auto">
          {(
            [
              ["Month", 31 * 86_400],
              ["Quarter", QUARTER],
              ["All", whole.to - whole.from],
            ] as const
          ).map(([name, length]) => (
            <Button key={name} size="xs" minH="8" variant="ghost" onClick={() => stretch(length)}>
              {name}
            </Button>
          ))}
        </Box>
      </Box>
      <TimeChart chart={chart} events={view.events} span={span} whole={whole} onSpan={setSpan} />
      <Lanes />
      <Button size="xs" minH="8" variant="ghost" aria-expanded={table} onClick={() => setTable(!table)}>
        {table ? "Without the table" : `As a table (${shown.length} entries in ${days} days)`}
      </Button>
      {table && (
        <Box maxH="22rem" overflowY="auto" tabIndex={0} role="group" aria-label="Entries in this time">
          <Box as="table" className="data">
            <thead>
              <tr>
                <th scope="col">When</th>
                <th scope="col">What</th>
              </tr>
            </thead>
            <tbody>
              {shown
                .slice(-300)
                .reverse()
                .map((event) => (
                  <tr key={event.id}>
                    <th scope="row">{dayText(event.s)}</th>
                    <td style={{ textAlign: "left", whiteSpace: "normal" }}>{event.words}</td>
                  </tr>
                ))}
            </tbody>
          </Box>
          {shown.length > 300 && <Box fontSize="sm">The newest 300 of {shown.length}; zoom in for others, or take the CSV.</Box>}
        </Box>
      )}
    </Section>
  );
}

const Lanes = () => (
  <Box fontSize="2xs" color="fg.muted" display="flex" gap="3" flexWrap="wrap">
    <span className="lane-key ride">▏outing</span>
    <span className="lane-key charge">▏charge</span>
    <span className="lane-key fault">▏repair</span>
    <span className="lane-key part">▏part</span>
    <span>Drag or arrows move, pinch or + and − zoom.</span>
  </Box>
);
