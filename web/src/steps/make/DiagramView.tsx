import { Box, Button } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Build, answer, api, problemOf } from "../../api/client";
import { numberOf } from "../../build/useSolved";
import { saveFile } from "../../ui/save";
import { Drawing } from "./Drawing";

interface Props {
  build: Build;
  selected: string | null;
  onSelect: (id: string | null) => void;
}

const ZOOMS = [0.5, 0.7, 1, 1.4, 2];

/** The wiring diagram: any conductor found in seconds, by hand, eye or keyboard. */
export function DiagramView({ build, selected, onSelect }: Props) {
  const asked = useQuery({
    queryKey: ["diagram", numberOf(build)],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/diagram", { body: { document: build }, signal })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 20_000,
  });
  // Large enough to read; fitted to the width where someone wants to see all of it.
  const [zoom, setZoom] = useState<number | null>(1);
  const save = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/diagram/svg", { body: { document: build }, parseAs: "text" })),
    onSuccess: (text) => saveFile(`${build.name} - diagram.svg`, "image/svg+xml", text as string),
  });
  if (asked.error)
    return (
      <Box role="alert" color="stop.fg">
        {problemOf(asked.error).detail}
      </Box>
    );
  if (!asked.data) return <p className="quiet">Drawing …</p>;
  const drawn = asked.data;
  const step = (by: number) => {
    const at = ZOOMS.indexOf(zoom ?? 0.7);
    setZoom(ZOOMS[Math.max(0, Math.min(ZOOMS.length - 1, at + by))]!);
  };
  return (
    <Box as="section" aria-label="Wiring diagram">
      <Box display="flex" flexWrap="wrap" gap="2" alignItems="center" mb="2">
        <Box as="h2" fontSize="lg" fontWeight="semibold">
          Wiring diagram
        </Box>
        <Box color="fg.muted" fontSize="sm">
          {drawn.crossings === 0 ? "nothing crosses" : drawn.crossings === 1 ? "one crossing" : `${drawn.crossings} crossings`}
        </Box>
        <Box ml="auto" display="flex" gap="2">
          <Button size="sm" minH="9" variant="outline" aria-label="Smaller" onClick={() => step(-1)}>
            −
          </Button>
          <Button size="sm" minH="9" variant="outline" aria-pressed={zoom === null} onClick={() => setZoom(null)}>
            Fit
          </Button>
          <Button size="sm" minH="9" variant="outline" aria-label="Larger" onClick={() => step(1)}>
            +
          </Button>
          <Button size="sm" minH="9" variant="outline" loading={save.isPending} onClick={() => save.mutate()}>
            SVG
          </Button>
        </Box>
      </Box>
      <Box className="card" p="0" overflow="auto" maxH={{ md: "calc(100vh - 12rem)" }} tabIndex={0} role="region" aria-label="The drawing, to be scrolled">
        <Drawing drawn={drawn} zoom={zoom} selected={selected} onSelect={onSelect} />
      </Box>
      <Box color="fg.muted" fontSize="xs" mt="2">
        Solid is plus, dashed is minus; colours are those of the insulation. Tab walks the parts, Enter picks one here, on the vehicle and on the river.
      </Box>
    </Box>
  );
}
