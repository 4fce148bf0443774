import { Box } from "@chakra-ui/react";
import { type Build, problemOf } from "../../api/client";
import { Segments } from "../../ui/Segments";
import { BatteryLife } from "./BatteryLife";
import { Entries } from "./Entries";
import { Now } from "./Now";
import { OverTime } from "./OverTime";
import { Upkeep } from "./Upkeep";
import type { Lived } from "./useLived";
import { JOURNAL_NAMES, JOURNAL_VIEWS, type JournalPart } from "./views";

interface Props {
  id: number;
  build: Build;
  lived: Lived;
  part: JournalPart;
  onPart: (part: JournalPart) => void;
  onTake: (document: Build) => void;
}

/** What the journal says back. */
export function JournalView({ id, build, lived, part, onPart, onTake }: Props) {
  const { data: view, error } = lived.view;
  const write = lived.journal.append;
  if (lived.journal.error && lived.events.length === 0)
    return (
      <Box role="alert" color="stop.fg">
        The journal cannot be read: {problemOf(lived.journal.error).detail} What you write down is kept in this browser until it can.
      </Box>
    );
  if (error)
    return (
      <Box role="alert" color="stop.fg">
        {problemOf(error).detail}
      </Box>
    );
  if (!view) return <p className="quiet">Reading the journal …</p>;
  return (
    <>
      <Segments label="Show" quiet value={part} options={JOURNAL_VIEWS.map((known) => [known, JOURNAL_NAMES[known]] as const)} onChange={onPart} />
      {part === "now" && <Now build={build} lived={lived} view={view} onTake={onTake} onPart={onPart} />}
      {part === "charts" && <OverTime build={build} lived={lived} view={view} />}
      {part === "battery" && <BatteryLife view={view} build={build} onTake={onTake} />}
      {part === "upkeep" && <Upkeep view={view} write={write} />}
      {part === "entries" && <Entries id={id} build={build} lived={lived} view={view} />}
    </>
  );
}
