import { IconButton } from "@chakra-ui/react";
import type { ReactNode } from "react";
import type { Removal } from "../../api/client";
import { called, capital } from "../../document/fields";
import { Icon } from "../../ui/icons";
import { Card } from "../../ui/StepHeading";

interface Props {
  /** The list of words that names its kind. */
  words: string;
  part: { id: string; kind: string };
  selected: string | null;
  onSelect: (id: string | null) => void;
  onRemove: (part: Removal) => void;
  /** What it is taken out as. */
  as: "circuit" | "controller" | "converter";
  children: ReactNode;
}

/** One part between the battery and the lights: what it is, and a button that takes it out. */
export function PartCard({ words, part: { id, kind }, selected, onSelect, onRemove, as, children }: Props) {
  return (
    <Card
      title={`${capital(called(words, kind))}: ${id}`}
      selected={selected === id}
      onFocus={() => onSelect(id)}
      aside={
        <IconButton aria-label={`Remove ${id}`} title="Remove" size="xs" minW="8" minH="8" variant="ghost" onClick={() => onRemove({ kind: as, id })}>
          <Icon name="remove" />
        </IconButton>
      }
    >
      {children}
    </Card>
  );
}
