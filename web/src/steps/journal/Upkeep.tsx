import { Box, Button } from "@chakra-ui/react";
import { useState } from "react";
import type { JournalEvent, JournalView } from "../../api/client";
import { eventOf } from "../../journal/event";
import { inOwn, say } from "../../units";
import { Section } from "./parts";

/** What wears and when to look at it; lists for the seasons. */
export function Upkeep({ view, write }: { view: JournalView; write: (event: JournalEvent) => void }) {
  const amount = (value: number, unit: string) =>
    unit === "" ? String(Math.round(value)) : unit === "days" ? `${Math.round(value)} days` : say({ value, unit });
  return (
    <>
      <Section title="What wears">
        {view.wear.length === 0 ? (
          <Box color="fg.muted">Once an outing or a charge is written down, hours of light, plugs, seals and joints are counted from then on.</Box>
        ) : (
          <Box as="ul" listStyleType="none">
            {view.wear.map((one) => {
              const part = one.used / one.look_at;
              return (
                <Box
                  as="li"
                  key={one.id}
                  display="grid"
                  gridTemplateColumns={{ base: "1fr", md: "1fr auto" }}
                  gap="2"
                  py="2"
                  borderTopWidth="1px"
                  alignItems="center"
                >
                  <Box>
                    <Box display="flex" gap="2" flexWrap="wrap" alignItems="baseline">
                      <b>{one.what}</b>
                      <Box as="span" fontSize="sm" color={part >= 1 ? "stop.fg" : "fg.muted"}>
                        {amount(one.used, one.unit)} since {inOwn(one.since)}; look at {amount(one.look_at, one.unit)}
                        {one.due && part < 1 && `, about ${inOwn(one.due)}`}
                        {part >= 1 && ": now"}
                        {one.life && ` · lasts about ${amount(one.life, one.unit)}`}
                      </Box>
                    </Box>
                    <Box h="1.5" borderRadius="sm" bg="bg.muted" my="1" maxW="24rem">
                      <Box
                        h="full"
                        borderRadius="sm"
                        bg={part >= 1 ? "stop.solid" : "lantern.solid"}
                        style={{ width: `${Math.min(100, Math.max(1, 100 * part))}%` }}
                      />
                    </Box>
                    <Box fontSize="sm" color="fg.muted">
                      {one.look}
                    </Box>
                  </Box>
                  <Box display="flex" gap="1">
                    <Button
                      size="xs"
                      minH="8"
                      variant="outline"
                      aria-label={`Looked at: ${one.what}`}
                      onClick={() => write(eventOf("part", { part: one.id, change: "looked" }))}
                    >
                      Looked at it
                    </Button>
                    <Button
                      size="xs"
                      minH="8"
                      variant="ghost"
                      aria-label={`Replaced: ${one.what}`}
                      onClick={() => write(eventOf("part", { part: one.id, change: "replaced" }))}
                    >
                      Replaced
                    </Button>
                  </Box>
                </Box>
              );
            })}
          </Box>
        )}
      </Section>
      <Season view={view} write={write} />
    </>
  );
}

function Season({ view, write }: { view: JournalView; write: (event: JournalEvent) => void }) {
  const { season } = view;
  // What was ticked shows at once; what comes of it follows.
  const [ticked, setTicked] = useState<Record<string, boolean>>({});
  const isDone = (item: (typeof season.put_away)[number]) => ticked[item.step] ?? item.done;
  const lists = [
    ["put_away", "Put it away", season.put_away],
    ["wake_up", "Wake it up", season.wake_up],
  ] as const;
  return (
    <Section title="Seasons">
      <Box mb="2" color={season.now === "in_use" ? "fg.muted" : "fix.fg"}>
        {inOwn(season.why)}
      </Box>
      <Box display="grid" gridTemplateColumns={{ base: "1fr", xl: "1fr 1fr" }} gap="4">
        {lists.map(([key, title, items]) => (
          <Box key={key} role="group" aria-label={title}>
            <Box as="h3" fontWeight="semibold" color={season.now === key ? "lantern.fg" : "fg.muted"}>
              {title}
              {season.now === key && " · now"}
            </Box>
            {items.map((item) => (
              <label className="tick" key={item.step} style={{ alignItems: "flex-start" }}>
                <input
                  type="checkbox"
                  checked={isDone(item)}
                  onChange={() => {
                    const done = !isDone(item);
                    setTicked((now) => ({ ...now, [item.step]: done }));
                    write(eventOf("tick", { step: item.step, state: done ? "done" : "undone" }));
                  }}
                />
                <span>
                  <Box as="span" fontSize="sm">
                    {item.what}
                  </Box>
                  <Box as="span" display="block" className="quiet">
                    {inOwn(item.why)}
                  </Box>
                </span>
              </label>
            ))}
          </Box>
        ))}
      </Box>
    </Section>
  );
}
