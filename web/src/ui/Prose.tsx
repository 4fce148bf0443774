import { Box } from "@chakra-ui/react";

/** The core's sentences; what stands between backticks is the name of a part. */
export function Prose({ text }: { text: string }) {
  return (
    <>
      {text.split("`").map((piece, index) =>
        index % 2 ? (
          <Box as="b" key={index} fontWeight="semibold" overflowWrap="anywhere">
            {piece}
          </Box>
        ) : (
          piece
        ),
      )}
    </>
  );
}
