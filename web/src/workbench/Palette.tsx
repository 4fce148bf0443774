import { Box, Button } from "@chakra-ui/react";
import { useState } from "react";
import { useReference } from "../api/reference";
import { Overlay } from "../ui/Overlay";
import { type Command, matching, nearest } from "../document/command";

/** Everything that can be done here, and every word explained, by typing a part of its name. */
export function Palette({ commands, onClose }: { commands: readonly Command[]; onClose: () => void }) {
  const glossary = useReference()?.glossary ?? [];
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (name: string) => words.every((word) => name.toLowerCase().includes(word));
  const found = matching(commands, text).slice(0, 12);
  const near = found.length === 0 ? nearest(commands, text) : undefined;
  const meant = words.length > 0 ? glossary.filter((entry) => fits(entry.term)).slice(0, 4) : [];
  const run = (command?: Command) => {
    onClose();
    command?.act();
  };
  const chosen = Math.min(at, Math.max(0, found.length - 1));
  return (
    <Overlay title="Commands and words" onClose={onClose}>
      <input
        className="control"
        autoFocus
        role="combobox"
        aria-label="Command or word"
        aria-expanded
        aria-controls="palette-list"
        aria-activedescendant={found.length > 0 ? `palette-${chosen}` : undefined}
        placeholder="Type what you want to do, or a word to look up"
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
          if (by && found.length > 0) {
            event.preventDefault();
            setAt((chosen + by + found.length) % found.length);
          } else if (event.key === "Enter" && found.length > 0) {
            event.preventDefault();
            run(found[chosen]);
          }
        }}
      />
      <Box as="ul" id="palette-list" role="listbox" aria-label="Commands" listStyleType="none" mt="3">
        {found.map((command, index) => (
          <Box
            as="li"
            key={command.name}
            id={`palette-${index}`}
            role="option"
            aria-selected={index === chosen}
            px="3"
            minH="9"
            display="flex"
            alignItems="center"
            justifyContent="space-between"
            borderRadius="sm"
            cursor="pointer"
            bg={index === chosen ? "bg.muted" : undefined}
            _hover={{ bg: "bg.muted" }}
            onClick={() => run(command)}
          >
            {command.name}
            {command.keys && (
              <Box as="kbd" fontSize="xs" color="fg.muted">
                {command.keys}
              </Box>
            )}
          </Box>
        ))}
      </Box>
      {meant.map((entry) => (
        <Box key={entry.term} mt="3" fontSize="xs">
          <b>{entry.term}</b>: {entry.words}
        </Box>
      ))}
      {found.length === 0 && meant.length === 0 && (
        <Box color="fg.muted">
          {`No match for “${text}”. `}
          {near ? (
            <>
              Did you mean:{" "}
              <Button size="xs" minH="8" variant="outline" onClick={() => run(near)}>
                {near.name}
              </Button>
            </>
          ) : (
            "Try another word."
          )}
        </Box>
      )}
    </Overlay>
  );
}

const KEYS = [
  ["1 – 9, 0", "the steps, by their numbers"],
  ["Ctrl K", "every command, and words explained"],
  ["Ctrl P", "the build sheet on paper"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
  ["← → ↑ ↓", "move through the drawing; turn a dial"],
  ["Enter", "open a part, a place, a number"],
  ["Escape", "close what is open"],
  ["Tab, Shift Tab", "onwards, back"],
  ["?", "this sheet"],
] as const;

/** Shortcuts at a glance. */
export function ShortcutSheet({ onClose }: { onClose: () => void }) {
  return (
    <Overlay title="Shortcuts" onClose={onClose}>
      <Box as="dl" display="grid" gridTemplateColumns="auto 1fr" columnGap="6" rowGap="2">
        {KEYS.map(([keys, words]) => (
          <Box key={keys} display="contents">
            <Box as="dt">
              <kbd>{keys}</kbd>
            </Box>
            <Box as="dd" color="fg.muted">
              {words}
            </Box>
          </Box>
        ))}
      </Box>
      <Box mt="4" fontSize="xs" color="fg.muted">
        Figures are typed with a unit if you like: 18in, 0.5 mm2, 22 AWG, 300mA, 1,5 V.
      </Box>
    </Overlay>
  );
}
