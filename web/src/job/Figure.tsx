import { Box, Popover, Portal, Text } from "@chakra-ui/react";
import { type ReactNode, createContext, useContext, useMemo, useRef, useState } from "react";
import type { Working } from "../api/client";
import { useReference } from "../api/reference";
import { read, inOwn } from "../units";

type Shown = { working: Working } | { term: string };
type Open = (at: HTMLElement, shown: Shown) => void;
const WorkingContext = createContext<Open>(() => undefined);

interface ProviderProps {
  /** Set within a dialog, outside of which nothing answers while it is open. */
  inDialog?: boolean;
  children: ReactNode;
}

/** One popover for all figures below it: a page holds dozens of them, and few are ever opened. */
export function WorkingProvider({ inDialog, children }: ProviderProps) {
  const [shown, setShown] = useState<Shown | null>(null);
  const anchor = useRef<HTMLElement | null>(null);
  const open = useMemo<Open>(
    () => (at, next) => {
      anchor.current = at;
      setShown(next);
    },
    [],
  );
  return (
    <WorkingContext.Provider value={open}>
      {children}
      <Popover.Root
        open={shown !== null}
        onOpenChange={(change) => !change.open && setShown(null)}
        finalFocusEl={() => anchor.current}
        positioning={{ placement: "bottom-start", getAnchorRect: () => anchor.current?.getBoundingClientRect() ?? null }}
        lazyMount
        unmountOnExit
      >
        <Portal disabled={inDialog}>
          <Popover.Positioner>
            <Popover.Content maxW="22rem" bg="bg.panel" aria-label={shown && "term" in shown ? shown.term : "Working"}>
              <Popover.Body p="4">{shown && ("term" in shown ? <TermView word={shown.term} /> : <WorkingView working={shown.working} />)}</Popover.Body>
            </Popover.Content>
          </Popover.Positioner>
        </Portal>
      </Popover.Root>
    </WorkingContext.Provider>
  );
}

interface Props {
  /** What it is, for those who do not see where it stands. */
  label: string;
  /** The figure as it reads. */
  text: string;
  working: Working;
  /** The most important figure of its view. */
  large?: boolean;
}

/** A number that opens to how it came about. */
export function Figure({ label, text, working, large }: Props) {
  const open = useContext(WorkingContext);
  return (
    <button
      type="button"
      className={large ? "figure large" : "figure"}
      aria-label={`${label}: ${text}. Show the working`}
      aria-haspopup="dialog"
      onClick={(event) => open(event.currentTarget, { working })}
    >
      {text}
    </button>
  );
}

/** A small mark behind a word of the trade; it opens to what the word means. */
export function Term({ word }: { word: string }) {
  const open = useContext(WorkingContext);
  return (
    <button
      type="button"
      className="term"
      aria-label={`What is: ${word}?`}
      aria-haspopup="dialog"
      onClick={(event) => open(event.currentTarget, { term: word })}
    >
      <span aria-hidden>?</span>
    </button>
  );
}

function TermView({ word }: { word: string }) {
  const entry = useReference()?.glossary.find((known) => known.term === word);
  return (
    <Box>
      <Text fontWeight="semibold" mb="1">
        {word}
      </Text>
      <Text>{entry?.words ?? "…"}</Text>
    </Box>
  );
}

/** The rule in words and symbols, what was put in, what came out, and where the rule is from. */
export function WorkingView({ working }: { working: Working }) {
  // Of what is there or not, there is nothing to compare.
  const bare = (working.result.value === 0 || working.result.value === 1) && working.given.some((given) => given.symbol === "limit" && given.value === 0);
  const rows = bare ? working.given.filter((given) => given.symbol !== "limit") : [...working.given, working.result];
  return (
    <Box>
      <Text mb="2">{inOwn(working.words)}</Text>
      <Box fontFamily="mono" fontSize="xs" bg="bg.muted" px="2" py="1.5" borderRadius="sm" mb="2" overflowWrap="anywhere">
        {working.formula}
      </Box>
      <Box as="table" width="full" fontSize="xs">
        <tbody>
          {rows.map((quantity, index) => (
            <Box as="tr" key={index} fontWeight={quantity === working.result ? "bold" : undefined}>
              <Box as="td" fontFamily="mono" pr="2" py="0.5" verticalAlign="top">
                {quantity.symbol}
              </Box>
              <Box as="td" color="fg.muted">
                {quantity.label}
              </Box>
              <Box as="td" textAlign="right" whiteSpace="nowrap" pl="2">
                {quantity.unit === "1" ? String(Number(quantity.value.toPrecision(3))) : read(quantity)}
              </Box>
            </Box>
          ))}
        </tbody>
      </Box>
      <Text mt="3" fontSize="xs" color="fg.muted">
        Rule: {working.source}
      </Text>
    </Box>
  );
}
