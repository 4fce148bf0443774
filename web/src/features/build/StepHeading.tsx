import { Box } from "@chakra-ui/react";
import type { ReactNode } from "react";

export function StepHeading({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Box mb="4">
      <Box as="h2" fontSize="lg" fontWeight="semibold">
        {title}
      </Box>
      <Box color="fg.muted">{children}</Box>
    </Box>
  );
}

/** One part being edited. */
export function Card({
  title,
  aside,
  selected,
  onFocus,
  children,
}: {
  title: ReactNode;
  aside?: ReactNode;
  selected?: boolean;
  onFocus?: () => void;
  children: ReactNode;
}) {
  return (
    <Box
      as="article"
      bg="bg.panel"
      borderWidth="1px"
      borderColor={selected ? "lantern.solid" : "border"}
      borderRadius="md"
      p="3"
      mb="3"
      onFocusCapture={onFocus}
    >
      <Box display="flex" alignItems="center" justifyContent="space-between" gap="2" mb={children ? "2" : "0"} minH="8">
        <Box as="h3" fontWeight="semibold" overflowWrap="anywhere">
          {title}
        </Box>
        {aside}
      </Box>
      {children}
    </Box>
  );
}

/** Figures the solver found, beside the fields that led to them. */
export function Readout({ rows }: { rows: readonly (readonly [string, ReactNode])[] }) {
  return (
    <Box as="dl" mt="3" borderTopWidth="1px">
      {rows.map(([label, figure]) => (
        <Box key={label} display="flex" justifyContent="space-between" alignItems="center" gap="3" borderBottomWidth="1px" py="0.5" minH="9">
          <Box as="dt" color="fg.muted">
            {label}
          </Box>
          <Box as="dd" textAlign="right">
            {figure}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
