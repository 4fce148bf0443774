import { Box, chakra } from "@chakra-ui/react";
import { memo, useRef } from "react";

interface Props<T extends string> {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  /** Its name is told, not shown. */
  quiet?: boolean;
  /** One below the other, where names are long. */
  stacked?: boolean;
  onChange: (value: T) => void;
}

/** A dial of a few settings, walked with the arrow keys. */
function Dial<T extends string>({ label, value, options, quiet, stacked, onChange }: Props<T>) {
  const row = useRef<HTMLDivElement>(null);
  const walk = (event: React.KeyboardEvent) => {
    const by = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
    if (!by) return;
    event.preventDefault();
    const at = options.findIndex(([word]) => word === value);
    const next = (at + by + options.length) % options.length;
    onChange(options[next]![0]);
    row.current?.querySelectorAll<HTMLElement>("[role=radio]")[next]?.focus();
  };
  return (
    <Box display="flex" alignItems="center" gap="2" maxW="full" minW="0">
      {!quiet && (
        <Box aria-hidden fontSize="xs" color="fg.muted" whiteSpace="nowrap" hideBelow="md">
          {label.toLowerCase()}
        </Box>
      )}
      <Box
        ref={row}
        role="radiogroup"
        aria-label={label}
        display="flex"
        borderWidth="1px"
        borderColor="border.emphasized"
        borderRadius="md"
        overflow="hidden"
        // Where there is no room for one row there are two: no setting is ever cut off.
        flexWrap="wrap"
        flexDirection={stacked ? "column" : undefined}
        w={stacked ? "full" : undefined}
        onKeyDown={walk}
      >
        {options.map(([word, name]) => {
          const on = word === value;
          return (
            <chakra.button
              type="button"
              key={word}
              role="radio"
              aria-checked={on}
              tabIndex={on ? 0 : -1}
              onClick={() => onChange(word)}
              px={quiet ? "2" : { base: "2", md: "2.5", xl: "3" }}
              flex={quiet ? "1 1 auto" : undefined}
              minH="8"
              whiteSpace={stacked ? "normal" : "nowrap"}
              py={stacked ? "1" : undefined}
              cursor="pointer"
              bg={on ? "lantern.solid" : "transparent"}
              color={on ? "lantern.contrast" : "fg"}
              fontWeight={on ? "semibold" : "normal"}
              textAlign={stacked ? "left" : "center"}
              _notFirst={stacked ? { borderTopWidth: "1px", borderColor: "border" } : { borderLeftWidth: "1px", borderColor: "border" }}
              _focusVisible={{ outlineOffset: "-3px", outlineColor: on ? "lantern.contrast" : undefined }}
            >
              {name}
            </chakra.button>
          );
        })}
      </Box>
    </Box>
  );
}

/** Drawn again only when it reads differently; what a choice does depends on nothing else. */
export const Segments = memo(Dial, (a, b) => a.value === b.value && JSON.stringify(a.options) === JSON.stringify(b.options)) as typeof Dial;
