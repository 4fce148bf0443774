import { Box, Button } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Build, type Diagram, answer, api, problemOf } from "../../api/client";
import { numberOf } from "../../document/useSolved";
import { Choice } from "../../job/fields";
import { saveFile } from "../../base/save";
import { Drawing } from "./Drawing";

/** What the drawing is saved as, for whom it is drawn or computed on elsewhere. */
const FILES = {
  SVG: {
    name: "diagram.svg",
    type: "image/svg+xml",
    ask: (build: Build) => answer(api.POST("/api/v1/diagram/svg", { body: { document: build }, parseAs: "text" })),
  },
  DOT: {
    name: "connections.dot",
    type: "text/vnd.graphviz",
    ask: (build: Build) => answer(api.POST("/api/v1/diagram/dot", { body: { document: build }, parseAs: "text" })),
  },
  SPICE: {
    name: "netlist.cir",
    type: "text/plain",
    ask: (build: Build, scene: string) => answer(api.POST("/api/v1/netlist", { body: { document: build, scene }, parseAs: "text" })),
  },
} as const;

interface Props {
  build: Build;
  /** The scene whose netlist is saved. */
  scene: string;
  selected: string | null;
  onSelect: (id: string | null) => void;
}

const ZOOMS = [0.5, 0.7, 1, 1.4, 2];
/** More parts than this are shown a branch at a time. */
const ONE_PAGE = 30;

/** The wiring diagram: any conductor found in seconds, by hand, eye or keyboard. */
export function DiagramView({ build, scene, selected, onSelect }: Props) {
  const asked = useQuery({
    queryKey: ["diagram", numberOf(build)],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/diagram", { body: { document: build }, signal })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 20_000,
  });
  // Large enough to read at first; all of it where someone wants to see how it hangs together.
  const [zoom, setZoom] = useState<number | null>(1);
  const [chosen, setPage] = useState<string | null>(null);
  const save = useMutation({
    mutationFn: (kind: keyof typeof FILES) => FILES[kind].ask(build, scene),
    onSuccess: (text, kind) => saveFile(`${build.name} - ${FILES[kind].name}`, FILES[kind].type, text as string),
  });
  if (asked.error)
    return (
      <Box role="alert" color="stop.fg">
        {problemOf(asked.error).detail}
      </Box>
    );
  if (!asked.data) return <p className="quiet">Drawing …</p>;
  const drawn = asked.data;
  const paged = drawn.boxes.length > ONE_PAGE;
  // What is picked elsewhere is shown on the page of its supplier.
  const of = chosen ?? supplierOf(drawn, selected) ?? drawn.pages[0]?.of;
  const page = paged ? drawn.pages.find((one) => one.of === of) : undefined;
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
        <Box ml="auto" display="flex" flexWrap="wrap" gap="2">
          <Button size="sm" minH="9" variant="outline" aria-label="Smaller" onClick={() => step(-1)}>
            −
          </Button>
          <Button size="sm" minH="9" variant="outline" aria-pressed={zoom === null} onClick={() => setZoom(null)}>
            Fit
          </Button>
          <Button size="sm" minH="9" variant="outline" aria-label="Larger" onClick={() => step(1)}>
            +
          </Button>
          {(Object.keys(FILES) as (keyof typeof FILES)[]).map((kind) => (
            <Button
              key={kind}
              size="sm"
              minH="9"
              variant="outline"
              loading={save.isPending && save.variables === kind}
              disabled={kind === "SPICE" && !scene}
              onClick={() => save.mutate(kind)}
            >
              {kind}
            </Button>
          ))}
        </Box>
      </Box>
      {save.error && (
        <Box role="alert" color="stop.fg" mb="2">
          {problemOf(save.error).detail}
        </Box>
      )}
      {paged && (
        <Box display="flex" flexWrap="wrap" gap="2" alignItems="end" mb="2">
          <Choice
            label="Page"
            value={page?.of ?? ""}
            options={[...drawn.pages.map((one) => [one.of, nameOf(one.of)] as const), ["", "all of it"]]}
            onChange={setPage}
          />
          {page && page.goes_on.length > 0 && (
            <Box color="fg.muted" fontSize="sm">
              goes on:{" "}
              {page.goes_on.map((id) => (
                <Button key={id} size="xs" minH="8" variant="outline" mr="1" onClick={() => setPage(id)}>
                  {id} →
                </Button>
              ))}
            </Box>
          )}
        </Box>
      )}
      <Box className="card" p="0" overflow="auto" maxH={{ md: "calc(100vh - 12rem)" }} tabIndex={0} role="region" aria-label="The drawing, to be scrolled">
        <Drawing drawn={drawn} part={page} zoom={zoom} selected={selected} onSelect={onSelect} />
      </Box>
      <Box color="fg.muted" fontSize="xs" mt="2">
        Solid is plus, dashed is minus; colours are those of the insulation. Tab walks the parts, Enter picks one here, on the vehicle and on the river.
      </Box>
    </Box>
  );
}

const nameOf = (id: string) => (id === "source" ? "from the battery" : `from ${id}`);

/** The page on which a part is fed. */
function supplierOf(drawn: Diagram, selected: string | null): string | undefined {
  const box = drawn.boxes.find((one) => one.id === selected);
  return box && drawn.pages.find((one) => one.left < box.x && one.right > box.x && one.top <= box.y && one.bottom > box.y && one.of !== box.id)?.of;
}
