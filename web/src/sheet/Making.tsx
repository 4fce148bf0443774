import { Box, Button } from "@chakra-ui/react";
import { useState } from "react";
import type { Build, JournalEvent } from "../api/client";
import { eventOf, linesOf } from "../journal/event";
import { SheetCard } from "../steps/make/SheetCard";
import { StepsView } from "../steps/make/StepsView";
import { ticksOf } from "../steps/make/time";
import { usePlan } from "../steps/make/useMake";
import { kept } from "../base/kept";
import { saveFile } from "../base/save";

const NO_STOCK = {};

interface Props {
  build: Build;
  revision?: number;
  onSelect: (id: string | null) => void;
  onTrouble: () => void;
}

/** The steps beside the vehicle: ticked here, kept by this browser, and taken back to the workshop as a file. */
export function Making({ build, revision, onSelect, onTrouble }: Props) {
  const key = `orthavis.sheet.${build.name}`;
  const [events, setEvents] = useState(() => read(key));
  const ticks = ticksOf(events);
  const asked = usePlan(build, ticks);
  const tick = (step: string, state: "done" | "undone" | "wrong") => {
    const next = [...events, eventOf("tick", { step, state })];
    kept.set(key, linesOf(next));
    setEvents(next);
  };
  return (
    <Box display="grid" gap="4" maxW="48rem" mx="auto">
      <StepsView build={build} make={{ made: asked.data, error: asked.error, ticks, tick, held: 0 }} onSelect={onSelect} onTrouble={onTrouble} />
      {events.length > 0 && (
        <Box className="card">
          <Box mb="2">
            {events.length === 1 ? "One tick is" : `${events.length} ticks are`} kept by this browser. In the program, at Steps, import the file to keep them.
          </Box>
          <Button size="lg" minH="12" variant="outline" onClick={() => saveFile(`${build.name} - ticks.jsonl`, "application/jsonl", linesOf(events))}>
            Save the ticks as a file
          </Button>
        </Box>
      )}
      <SheetCard build={build} revision={revision} stock={NO_STOCK} ticks={ticks} />
    </Box>
  );
}

function read(key: string): JournalEvent[] {
  try {
    return (kept.get(key) ?? "")
      .split("\n")
      .filter(Boolean)
      .map((line) => JSON.parse(line) as JournalEvent);
  } catch {
    return [];
  }
}
