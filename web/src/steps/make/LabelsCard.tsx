import { Box, Button } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { flushSync } from "react-dom";
import { type Build, answer, api } from "../../api/client";
import { numberOf } from "../../document/useSolved";
import { Choice } from "../../job/fields";
import { Card } from "../../ui/StepHeading";
import { LabelSheet, SIZES, type Size } from "./LabelSheet";

/** Flags for the ends of every wire, to be printed. */
export function LabelsCard({ build, revision }: { build: Build; revision?: number }) {
  const labels = useQuery({
    queryKey: ["labels", numberOf(build)],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/labels", { body: { document: build }, signal })),
    staleTime: Infinity,
    gcTime: 20_000,
  });
  const [size, setSize] = useState<Size>("medium");
  const [printing, setPrinting] = useState(false);
  const print = () => {
    // What is printed has to be there first, and only as long.
    flushSync(() => setPrinting(true));
    window.print();
    setPrinting(false);
  };
  return (
    <Card title="Labels">
      <Box mb="3">{labels.data ? `${labels.data.length} of them: both ends of every wire, each fuse, switch, plug and converter.` : "Counting …"}</Box>
      <Choice label="Size" value={size} options={(Object.keys(SIZES) as Size[]).map((one) => [one, SIZES[one].words] as const)} onChange={setSize} />
      <Button size="sm" minH="9" mt="3" variant="outline" disabled={!labels.data} onClick={print}>
        Print the labels
      </Button>
      {printing && labels.data && <LabelSheet build={build} revision={revision} labels={labels.data} size={size} />}
    </Card>
  );
}
