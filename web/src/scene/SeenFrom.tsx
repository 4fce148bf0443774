import { Box } from "@chakra-ui/react";
import { Segments } from "../ui/Segments";
import type { View } from "./outlines";

type Seen = View["seen"];

/** Which view of the vehicle is shown, in the corner of its drawing. */
export function SeenFrom({ views, seen, onChange }: { views: readonly View[]; seen: Seen; onChange: (seen: Seen) => void }) {
  return (
    <Box position="absolute" top="1.5" right="3" zIndex="1">
      <Segments quiet label="Seen from" value={seen} options={views.map((view) => [view.seen, view.seen] as const)} onChange={onChange} />
    </Box>
  );
}
