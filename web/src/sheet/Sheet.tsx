import { Box, Button, Heading } from "@chakra-ui/react";
import { useState } from "react";
import { type Build, type SourceState, problemOf } from "../api/client";
import { useRemedies, useSolved } from "../document/useSolved";
import { River } from "../scene/River";
import { Vehicle } from "../scene/Vehicle";
import { Figure, WorkingProvider } from "../job/Figure";
import { saveFile } from "../base/save";
import { Segments } from "../ui/Segments";
import { ThemeSwitch } from "../ui/theme-switch";
import { clock, read } from "../units";
import { fileName } from "../document/file";
import { DiagramView } from "../steps/make/DiagramView";
import { LabelsCard } from "../steps/make/LabelsCard";
import { Making } from "./Making";
import { VerdictPanel } from "../workbench/VerdictPanel";

/** A build as it was taken along. */
export interface Taken {
  document: Build;
  /** Which revision it was; absent where it came from a file. */
  revision?: number;
  /** When that was saved, RFC 3339. */
  saved_at?: string;
}

const PAGES = [
  ["look", "Look"],
  ["steps", "Steps"],
  ["wiring", "Wiring"],
] as const;

/** A build to look at and to make beside the vehicle, without any server. */
export function Sheet({ taken }: { taken: Taken }) {
  const build = taken.document;
  const [scene, setScene] = useState(build.scenes[0]?.id ?? "");
  const [asked, setAsked] = useState<SourceState>("full");
  const [selected, setSelected] = useState<string | null>(null);
  const [page, setPage] = useState<(typeof PAGES)[number][0]>("look");
  const { data: solved, error } = useSolved(build, scene, asked);
  const remedies = useRemedies(build);
  const picture = solved?.picture ?? null;
  const states = solved?.states ?? [];
  return (
    <WorkingProvider>
      <Box maxW="80rem" mx="auto" px={{ base: "3", md: "6" }} py="3">
        <Box as="header" display="flex" alignItems="center" gap="3" mb="3">
          <Box flex="1" minW="0">
            <Heading as="h1" size="lg" overflowWrap="anywhere">
              {build.name}
            </Heading>
            <Box color="fg.muted" fontSize="xs">
              {taken.saved_at ? `Revision ${taken.revision}, saved ${clock(taken.saved_at)}, taken along` : "Taken along"}: changes in the program do not reach
              this page.
            </Box>
          </Box>
          <ThemeSwitch />
        </Box>
        <Box mb="3">
          <Segments label="Show" value={page} options={PAGES} onChange={setPage} />
        </Box>
        {page === "steps" && <Making build={build} revision={taken.revision} onSelect={setSelected} onTrouble={() => setPage("look")} />}
        {page === "wiring" && (
          <Box display="grid" gap="4" gridTemplateColumns="minmax(0, 1fr)">
            <DiagramView build={build} scene={scene} selected={selected} onSelect={setSelected} />
            <LabelsCard build={build} revision={taken.revision} />
          </Box>
        )}
        {page === "look" && (
          <>
            <Box display="flex" flexWrap="wrap" gap="2" mb="3">
              <select className="control" aria-label="Scene" style={{ width: "auto" }} value={scene} onChange={(event) => setScene(event.target.value)}>
                {build.scenes.map((known) => (
                  <option key={known.id} value={known.id}>
                    {known.name}
                  </option>
                ))}
              </select>
              {states.length > 1 && (
                <Segments label="Battery at" value={picture?.state ?? asked} options={states.map((known) => [known, known] as const)} onChange={setAsked} />
              )}
            </Box>
            <Box display="grid" gap="5" gridTemplateColumns={{ lg: "1fr 24rem" }} alignItems="start">
              <Box as="section" aria-label="Verdict" order={{ lg: 2 }} minW="0">
                <VerdictPanel
                  build={build}
                  solved={solved ?? null}
                  remedies={remedies}
                  problem={error ? problemOf(error) : null}
                  scene={scene}
                  cautions={solved?.cautions ?? []}
                  selected={selected}
                  onSelect={(subject) => setSelected(subject.split("#")[0] ?? subject)}
                />
              </Box>
              <Box as="section" aria-label="The build" minW="0">
                <Box h={{ base: "14rem", md: "20rem" }} position="relative">
                  <Vehicle
                    kind={build.vehicle.kind}
                    variant={build.vehicle.variant}
                    picture={picture}
                    selected={selected}
                    onSelect={setSelected}
                    place={null}
                    blink={false}
                  />
                </Box>
                <div className="river">
                  <River picture={picture} selected={selected} onSelect={setSelected} />
                </div>
                {picture && <Reaches picture={picture} />}
              </Box>
            </Box>
          </>
        )}
        <Box as="footer" display="flex" flexWrap="wrap" alignItems="center" gap="3" mt="6" py="4" borderTopWidth="1px" color="fg.muted" fontSize="xs">
          <Button size="sm" minH="10" variant="outline" onClick={() => saveFile(fileName(build), "application/json", JSON.stringify(build, null, 2))}>
            Save the build as a file
          </Button>
          Disconnect the battery before you touch a wire. This is advice, not a certificate; local rules and licensed people have the last word.
        </Box>
      </Box>
    </WorkingProvider>
  );
}

/** Every reach of the river in words, with its figures. */
function Reaches({ picture }: { picture: NonNullable<ReturnType<typeof useSolved>["data"]>["picture"] & object }) {
  return (
    <Box as="table" w="full" mt="4" fontSize="sm" css={{ "& td, & th": { padding: "0.35rem 0.5rem 0.35rem 0", verticalAlign: "top", textAlign: "left" } }}>
      <caption className="heard">Every part and wire with its figures</caption>
      <tbody>
        {picture.reaches.map((reach) => (
          <Box as="tr" key={reach.id} borderTopWidth="1px">
            <Box as="th" fontWeight="semibold" overflowWrap="anywhere">
              {reach.id}
            </Box>
            <Box as="td">
              {reach.facts.map((fact) => (
                <Box key={fact.key} display="flex" gap="2" flexWrap="wrap" alignItems="baseline">
                  <Box color="fg.muted">{fact.label}</Box>
                  <Figure label={fact.label} text={read(fact)} working={fact.working} />
                </Box>
              ))}
            </Box>
          </Box>
        ))}
      </tbody>
    </Box>
  );
}
