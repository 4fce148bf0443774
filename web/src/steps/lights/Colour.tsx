import { Box } from "@chakra-ui/react";
import { useId } from "react";
import { useField } from "../../ui/Field";

const hex = (rgb: readonly number[]) =>
  `#${rgb
    .map((share) =>
      Math.round(share * 255)
        .toString(16)
        .padStart(2, "0"),
    )
    .join("")}`;

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
        value={hex(value as number[])}
        style={{ width: "100%", height: "2.25rem", cursor: "pointer", background: "none" }}
        onChange={(event) => {
          const text = event.target.value;
          write([1, 3, 5].map((at) => Math.round((parseInt(text.slice(at, at + 2), 16) / 255) * 1000) / 1000));
        }}
      />
    </Box>
  );
}
