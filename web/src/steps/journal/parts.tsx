import { Button } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { eventAt } from "../../journal/event";
import type { Lived } from "./useLived";

/** One thing that the journal says back. */
export const Section = ({ title, aside, children }: { title: string; aside?: ReactNode; children: ReactNode }) => (
  <section aria-label={title} className="card">
    <header>
      <h2>{title}</h2>
      {aside}
    </header>
    {children}
  </section>
);

/** Strikes an entry out: another that names it, so that nothing is lost. */
export function StrikeButton({ id, what, lived }: { id: string; what: string; lived: Lived }) {
  const event = lived.events.find((known) => known.id === id);
  if (!event) return null;
  // Kept like everything, and counted no more.
  const struck = { ...event.data, struck: true };
  return (
    <Button
      size="xs"
      minH="8"
      variant="outline"
      aria-label={`Delete: ${what}`}
      onClick={() => lived.journal.append(eventAt(event.kind, event.at, struck, event.id))}
    >
      Delete
    </Button>
  );
}
