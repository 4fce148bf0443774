import { Box, Popover, Portal, Text } from "@chakra-ui/react";
import type { Working } from "../api/client";
import { plain } from "../units";

interface Props {
  /** What it is, for those who do not see where it stands. */
  label: string;
  /** The figure as it reads. */
  text: string;
  working: Working;
  size?: string;
  weight?: string;
}

/** A number that opens to how it came about. */
export function Figure({ label, text, working, size, weight = "semibold" }: Props) {
  return (
    <Popover.Root lazyMount unmountOnExit positioning={{ placement: "bottom-start" }}>
      <Popover.Trigger asChild>
        <Box
          as="button"
          aria-label={`${label}: ${text}. Show the working`}
          fontSize={size}
          fontWeight={weight}
          lineHeight="1.15"
          minH="8"
          cursor="pointer"
          textDecoration="underline dotted"
          textDecorationColor="border.emphasized"
          textUnderlineOffset="4px"
        >
          {text}
        </Box>
      </Popover.Trigger>
      <Portal>
        <Popover.Positioner>
          <Popover.Content maxW="22rem" bg="bg.panel">
            <Popover.Body p="4">
              <WorkingView working={working} />
            </Popover.Body>
          </Popover.Content>
        </Popover.Positioner>
      </Portal>
    </Popover.Root>
  );
}

/** The rule in words and symbols, what was put in, what came out, and where the rule is from. */
export function WorkingView({ working }: { working: Working }) {
  return (
    <Box>
      <Text mb="2">{working.words}</Text>
      <Box fontFamily="mono" fontSize="xs" bg="bg.muted" px="2" py="1.5" borderRadius="sm" mb="2" overflowWrap="anywhere">
        {working.formula}
      </Box>
      <Box as="dl" display="grid" gridTemplateColumns="auto 1fr auto" columnGap="2" rowGap="1" fontSize="xs">
        {[...working.given, working.result].map((quantity, index) => (
          <Box key={index} display="contents" fontWeight={index === working.given.length ? "bold" : undefined}>
            <Box as="dt" fontFamily="mono">
              {quantity.symbol}
            </Box>
            <Box as="dd" color="fg.muted">
              {quantity.label}
            </Box>
            <Box as="dd" textAlign="right" whiteSpace="nowrap">
              {quantity.unit === "1" ? String(Number(quantity.value.toPrecision(3))) : plain(quantity.value, quantity.unit)}
            </Box>
          </Box>
        ))}
      </Box>
      <Text mt="3" fontSize="xs" color="fg.muted">
        Rule: {working.source}
      </Text>
    </Box>
  );
}
