import { Box, Button } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { flushSync } from "react-dom";
import { type Build, answer, api, problemOf } from "../../api/client";
import { Card } from "../../ui/StepHeading";
import { BuildSheet, type SheetData } from "./BuildSheet";
import { type Tick, dayName, doneOf, minutesSince } from "./time";

interface Props {
  build: Build;
  /** Which revision it is; absent where it came from a file. */
  revision?: number;
  stock: Record<string, number>;
  ticks: ReadonlyMap<string, Tick>;
}

/** Gathers everything that stands on the build sheet, and prints it. */
export function usePrintedSheet({ build, revision, stock, ticks }: Props, onDone?: () => void) {
  const [data, setData] = useState<SheetData | null>(null);
  const gather = useMutation({
    mutationFn: async (): Promise<SheetData> => {
      const body = { document: build };
      const day = dayName(new Date());
      const done = doneOf(ticks, day);
      const [made, shopping, cuts, diagram, checks, labels, judged] = await Promise.all([
        answer(api.POST("/api/v1/make", { body: { ...body, day, now: minutesSince(day, new Date()), done } })),
        answer(api.POST("/api/v1/shopping", { body: { ...body, stock } })),
        answer(api.POST("/api/v1/cuts", { body })),
        answer(api.POST("/api/v1/diagram", { body })),
        answer(api.POST("/api/v1/expect", { body: { ...body, state: null } })),
        answer(api.POST("/api/v1/labels", { body })),
        answer(api.POST("/api/v1/verdict", { body })),
      ]);
      return { made, shopping, cuts, diagram, checks, labels, verdict: { headline: judged.verdict.headline, titles: made.stops } };
    },
    onSuccess: (gathered) => {
      // What is printed has to be there first, and only as long.
      flushSync(() => setData(gathered));
      window.print();
      setData(null);
    },
    onSettled: onDone,
  });
  return { print: gather.mutate, pending: gather.isPending, error: gather.error, paper: data && <BuildSheet build={build} revision={revision} data={data} /> };
}

/** The build on paper, to lie beside the soldering iron. */
export function SheetCard(props: Props) {
  const { print, pending, error, paper } = usePrintedSheet(props);
  return (
    <Card title="On paper">
      <Box color="fg.muted" mb="3">
        Diagram, cut list, parts, steps with boxes to tick, readings to expect and labels. A4 or letter, black and white will do.
      </Box>
      <Button size="sm" minH="9" variant="outline" loading={pending} onClick={() => print()}>
        Print the build sheet
      </Button>
      {error && (
        <Box role="alert" color="stop.fg" mt="2">
          {problemOf(error).detail}
        </Box>
      )}
      {paper}
    </Card>
  );
}
