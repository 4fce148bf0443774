import { Box } from "@chakra-ui/react";
import { Segments } from "../ui/Segments";

/** Which view of the vehicle is shown, in the corner of its drawing. */
export function SeenFrom({ above, onChange }: { above: boolean; onChange: (above: boolean) => void }) {
  return (
    <Box position="absolute" top="1.5" right="3" zIndex="1">
      <Segments
        quiet
        label="Seen from"
        value={above ? "above" : "side"}
        options={[
          ["side", "side"],
          ["above", "above"],
        ]}
        onChange={(view) => onChange(view === "above")}
      />
    </Box>
  );
}
