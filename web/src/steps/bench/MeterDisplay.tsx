import { Box } from "@chakra-ui/react";
import type { ReactNode } from "react";

/** What a meter shows, as large as on a meter. */
export function MeterDisplay({ children }: { children: ReactNode }) {
  return (
    <Box
      role="status"
      aria-label="The meter shows"
      bg="bg.muted"
      borderRadius="md"
      px="4"
      py="3"
      mb="3"
      fontSize="4xl"
      fontWeight="bold"
      textAlign="right"
      lineHeight="1.1"
      fontVariantNumeric="tabular-nums"
    >
      {children}
    </Box>
  );
}
