import { Box } from "@chakra-ui/react";
import { useId } from "react";
import { useField } from "../../job/Field";
import { hexOf, sharesOf } from "../../base/linear";

/** The colour that a scene asks of pixels. */
export function Colour({ at }: { at: string }) {
  const id = useId();
  const { value, write } = useField(at);
  return (
    <Box>
      <Box asChild display="flex" alignItems="center" minH="6" mb="0.5" color="fg.muted" fontSize="xs">
        <label htmlFor={id}>Colour here</label>
      </Box>
      <input
        id={id}
        type="color"
        value={hexOf(value as number[])}
        style={{ width: "100%", height: "2.25rem", cursor: "pointer", background: "none" }}
        onChange={(event) => write(sharesOf(event.target.value))}
      />
    </Box>
  );
}
