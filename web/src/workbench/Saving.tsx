import { Box, Button } from "@chakra-ui/react";
import type { ReactNode } from "react";
import type { StoredBuild } from "../api/client";
import type { SaveState } from "../document/saver";
import { useSaver, useSaving } from "../document/useSaving";
import { placeNow } from "../core/transport";
import { usePlace } from "../core/usePlace";
import { Prose } from "../ui/Prose";
import { clock } from "../units";

/** The same in a line, beside the name. */
export function SaveNote() {
  const { save, savedAt, revision } = useSaving();
  const words: Record<SaveState["kind"], string> = {
    saved: `Saved ${clock(savedAt)}`,
    unsaved: "Saving…",
    saving: "Saving…",
    refused: "Not saved yet",
    failed: "Not saved yet, trying again",
    away: "Kept in this browser only",
    local: "Only looking: stays on this device",
    stale: "Saved elsewhere too",
  };
  const bad = ["failed", "refused", "stale", "away", "local"].includes(save.kind);
  return (
    <Box
      role="status"
      data-save={save.kind}
      data-revision={revision}
      fontSize="xs"
      px="1"
      lineHeight="1.1"
      color={bad ? "stop.fg" : "fg.muted"}
      whiteSpace="nowrap"
    >
      {words[save.kind]}
      <PlaceNote />
    </Box>
  );
}

/** Where the figures come from, in a dot: full where this page works them out itself. */
function PlaceNote() {
  const here = usePlace().core === "page";
  const words = here ? "Figures are worked out in this page" : "Figures are worked out by the server";
  return (
    <Box
      as="span"
      data-place={here ? "page" : "server"}
      title={words}
      aria-hidden
      display="inline-block"
      ml="1.5"
      boxSize="1.5"
      borderRadius="full"
      borderWidth="1px"
      borderColor="currentcolor"
      bg={here ? "currentcolor" : "transparent"}
    />
  );
}

/** What a person has to know, or decide, about saving. */
export function SaveBanner({ onAdopt }: { onAdopt: (theirs: StoredBuild) => void }) {
  const saver = useSaver();
  const { save } = useSaving();
  // A page that was opened without its workshop says so above everything.
  const { of } = usePlace();
  switch (save.kind) {
    case "stale":
      return (
        <Banner text={`This build was saved elsewhere meanwhile, as revision ${save.theirs.revision}. Nothing you typed is lost.`}>
          <Button size="xs" variant="outline" onClick={saver.keepMine}>
            Keep mine on top
          </Button>
          <Button size="xs" variant="outline" onClick={() => onAdopt(save.theirs)}>
            Take theirs (undo brings mine back)
          </Button>
        </Banner>
      );
    case "away":
      return of ? null : <Banner text={away()} />;
    case "failed":
    case "refused":
      return <Banner text={`Not saved: ${save.problem.detail}`} />;
    default:
      return null;
  }
}

/** What still works while the server is not answering. */
function away(): string {
  const here = "The server is not answering. What you change is kept in this browser and is saved once it answers again";
  return placeNow().core === "page" ? `${here}; planning, undo and export go on.` : `${here}; until then nothing is worked out.`;
}

function Banner({ text, children }: { text: string; children?: ReactNode }) {
  return (
    <Box
      role="alert"
      display="flex"
      flexWrap="wrap"
      gap="3"
      alignItems="center"
      px="4"
      py="2"
      bg="fix.bg"
      color="fix.fg"
      borderBottomWidth="1px"
      borderColor="fix.line"
    >
      <Box whiteSpace="pre-line">
        <Prose text={text} />
      </Box>
      {children}
    </Box>
  );
}
