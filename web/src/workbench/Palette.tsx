import { Box, CloseButton, Dialog, Portal } from "@chakra-ui/react";
import { type ReactNode, useState } from "react";
import { useReference } from "../api/reference";
import type { Command } from "../document/command";

function Sheet({ title, onClose, children }: { title: string; onClose: () => void; children: ReactNode }) {
  return (
    <Dialog.Root open onOpenChange={(change) => !change.open && onClose()} placement="top" size="md">
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="bg.panel">
            <Dialog.Header pb="2">
              <Dialog.Title>{title}</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body>{children}</Dialog.Body>
            <Dialog.CloseTrigger asChild>
              <CloseButton aria-label="Close" />
            </Dialog.CloseTrigger>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}

/** Everything that can be done here, and every word explained, by typing a part of its name. */
export function Palette({ commands, onClose }: { commands: readonly Command[]; onClose: () => void }) {
  const glossary = useReference()?.glossary ?? [];
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (name: string) => words.every((word) => name.toLowerCase().includes(word));
  const found = commands.filter((command) => fits(command.name)).slice(0, 12);
  const meant = words.length > 0 ? glossary.filter((entry) => fits(entry.term)).slice(0, 4) : [];
  const run = (command?: Command) => {
    onClose();
    command?.act();
  };
  const chosen = Math.min(at, Math.max(0, found.length - 1));
  return (
    <Sheet title="Commands and words" onClose={onClose}>
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
      {found.length === 0 && meant.length === 0 && <Box color="fg.muted">Nothing is called that here. Try another word.</Box>}
    </Sheet>
  );
}

const KEYS = [
  ["1 – 5", "the steps of the job"],
  ["Ctrl K", "every command, and words explained"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
  ["← → ↑ ↓", "walk the watt river; move a dial"],
  ["Enter", "open a part, a place, a number"],
  ["Escape", "close what is open"],
  ["Tab, Shift Tab", "onwards, back"],
  ["?", "this sheet"],
] as const;

/** Shortcuts at a glance. */
export function ShortcutSheet({ onClose }: { onClose: () => void }) {
  return (
    <Sheet title="Shortcuts" onClose={onClose}>
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
    </Sheet>
  );
}
