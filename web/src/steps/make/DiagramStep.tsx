import { Box } from "@chakra-ui/react";
import type { Build } from "../../api/client";
import { Card, StepHeading } from "../../ui/StepHeading";
import { say } from "../../units";
import { LabelsCard } from "./LabelsCard";

interface Props {
  build: Build;
  revision?: number;
  selected: string | null;
  onSelect: (id: string | null) => void;
}

/** Which wire is which, and flags for their ends. */
export function DiagramStep({ build, revision, selected, onSelect }: Props) {
  const feeds = [
    ...build.junctions.map((one) => [one.id, one.feed] as const),
    ...build.converters.map((one) => [one.id, one.feed] as const),
    ...(build.circuits ?? []).map((one) => [one.id, one.feed] as const),
    ...build.lights.flatMap((one) => one.feeds.map((feed, index) => [index ? `${one.id}#${index}` : one.id, feed] as const)),
  ];
  return (
    <>
      <StepHeading title="Diagram">Every conductor with its name, size and length, and a flag for each end.</StepHeading>
      <LabelsCard build={build} revision={revision} />
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
