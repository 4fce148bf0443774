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
    <dl className="readout">
      {rows.map(([label, figure]) => (
        <div key={label}>
          <dt>{label}</dt>
          <dd>{figure}</dd>
        </div>
      ))}
    </dl>
  );
}
