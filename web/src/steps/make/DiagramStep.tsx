import { Box, Button } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { flushSync } from "react-dom";
import { type Build, answer, api } from "../../api/client";
import { numberOf } from "../../build/useSolved";
import { Choice } from "../../ui/fields";
import { Card, StepHeading } from "../../ui/StepHeading";
import { say } from "../../units";
import { LabelSheet, SIZES, type Size } from "./LabelSheet";

interface Props {
  build: Build;
  selected: string | null;
  onSelect: (id: string | null) => void;
}

/** Which wire is which, and flags for their ends. */
export function DiagramStep({ build, selected, onSelect }: Props) {
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
  const feeds = [
    ...build.junctions.map((one) => [one.id, one.feed] as const),
    ...build.converters.map((one) => [one.id, one.feed] as const),
    ...build.lights.flatMap((one) => one.feeds.map((feed, index) => [index ? `${one.id}#${index}` : one.id, feed] as const)),
  ];
  return (
    <>
      <StepHeading title="Diagram">Every conductor with its name, size and length, and a flag for each end.</StepHeading>
      <Card title="Labels">
        <Box mb="3">{labels.data ? `${labels.data.length} of them: both ends of every wire, each fuse, switch, plug and module.` : "Counting …"}</Box>
        <Choice label="Size" value={size} options={(Object.keys(SIZES) as Size[]).map((one) => [one, SIZES[one].words] as const)} onChange={setSize} />
        <Button size="sm" minH="9" mt="3" variant="outline" disabled={!labels.data} onClick={print}>
          Print the labels
        </Button>
        {printing && labels.data && <LabelSheet build={build} labels={labels.data} size={size} />}
      </Card>
      <Card title="Conductors">
        <Box as="ul" listStyleType="none">
          {feeds.map(([id, feed]) => {
            const part = id.split("#")[0]!;
            return (
              <Box as="li" key={id} borderTopWidth="1px">
                <button
                  type="button"
                  className="plain"
                  aria-pressed={selected === part}
                  style={{ width: "100%", textAlign: "left", minHeight: "2.25rem" }}
                  onClick={() => onSelect(selected === part ? null : part)}
                >
                  <Box display="flex" gap="3" alignItems="baseline">
                    <Box flex="1" fontWeight="semibold" color={selected === part ? "lantern.fg" : undefined}>
                      {id}
                    </Box>
                    <Box color="fg.muted" fontSize="sm">
                      {"awg" in feed.gauge ? `${feed.gauge.awg} AWG` : `${feed.gauge.mm2} mm²`} · {say({ value: feed.length_m, unit: "m" })}
                    </Box>
                  </Box>
                </button>
              </Box>
            );
          })}
        </Box>
      </Card>
    </>
  );
}
