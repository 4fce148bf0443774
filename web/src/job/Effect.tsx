import { Box, Button } from "@chakra-ui/react";
import type { Effect, Severity } from "../api/client";
import { hours, inOwn } from "../units";

export const MARKS: Record<Severity, { sign: string; word: string; colour: "stop" | "fix" | "note" }> = {
  stop: { sign: "✕", word: "Stop", colour: "stop" },
  fix: { sign: "!", word: "To fix", colour: "fix" },
  note: { sign: "i", word: "Good to know", colour: "note" },
};

/** What a change does, before it is done. */
export function EffectView({ title, effect, onApply, onCancel }: { title: string; effect: Effect; onApply: () => void; onCancel: () => void }) {
  return (
    <Box role="group" aria-label="What it changes" bg="bg.panel" borderWidth="1px" borderRadius="sm" p="2.5" mt="2" fontSize="xs">
      <Box fontWeight="semibold" mb="1">
        {title}
      </Box>
      <Box as="ul" listStyleType="none" display="grid" gap="1" mb="2">
        {effect.cleared.map((change) => (
          <Box as="li" key={change.title} color="good.fg">
            ✓ {change.becomes ? "Milder" : "Fixed"}: {inOwn(change.title)}
          </Box>
        ))}
        {effect.added.map((change) => (
          <Box as="li" key={change.title} color={`${MARKS[change.severity].colour}.fg`}>
            {MARKS[change.severity].sign} new: {inOwn(change.title)}
          </Box>
        ))}
        {effect.hours
          .filter((change) => hours(change.before) !== hours(change.after))
          .map((change) => (
            <Box as="li" key={change.scene}>
              {change.scene}: {hours(change.before)} → {hours(change.after)} of light
            </Box>
          ))}
        <Box as="li" color="fg.muted">
          {effect.headline_before === effect.headline_after ? `Still: ${effect.headline_after}` : `${effect.headline_before} → ${effect.headline_after}`}
        </Box>
      </Box>
      <Box display="flex" gap="2">
        <Button size="xs" minH="8" colorPalette="lantern" onClick={onApply} autoFocus>
          Do it
        </Button>
        <Button size="xs" minH="8" variant="ghost" onClick={onCancel}>
          Leave it
        </Button>
      </Box>
    </Box>
  );
}
