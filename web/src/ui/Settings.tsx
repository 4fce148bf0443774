import { Box, IconButton } from "@chakra-ui/react";
import { type ReactNode, useState } from "react";
import { type Prefs, THEMES, setPrefs, usePrefs } from "../base/prefs";
import { Icon } from "./icons";
import { Overlay } from "./Overlay";
import { Segments } from "./Segments";

/** How a person reads and types, and what the page may do: kept by this browser, for every build. */
export function Settings() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <IconButton aria-label="Settings" title="Settings" size="sm" variant="ghost" onClick={() => setOpen(true)}>
        <Icon name="settings" />
      </IconButton>
      {open && <SettingsDialog onClose={() => setOpen(false)} />}
    </>
  );
}

type Words = readonly [readonly ["no", string], readonly ["yes", string]];
/** Each setting that is one of two, with its words. */
const EITHER: readonly { name: "imperial" | "metric" | "blink" | "keys"; label: string; words: Words }[] = [
  {
    name: "imperial",
    label: "Lengths",
    words: [
      ["no", "m, cm, mm"],
      ["yes", "inches"],
    ],
  },
  {
    name: "metric",
    label: "Wire sizes",
    words: [
      ["no", "AWG"],
      ["yes", "mm²"],
    ],
  },
  {
    name: "blink",
    label: "Let blinking lights blink on the screen",
    words: [
      ["no", "No"],
      ["yes", "Yes"],
    ],
  },
  {
    name: "keys",
    label: "Single keys are shortcuts (1 to 9, ?)",
    words: [
      ["no", "No"],
      ["yes", "Yes"],
    ],
  },
];

export function SettingsDialog({ onClose }: { onClose: () => void }) {
  const prefs = usePrefs();
  return (
    <Overlay title="Settings" onClose={onClose}>
      <Box display="grid" gap="4" pb="2">
        <Row label="Theme">
          <Segments quiet label="Theme" value={prefs.theme} options={THEMES} onChange={(theme) => setPrefs({ theme })} />
        </Row>
        {EITHER.map(({ name, label, words }) => (
          <Row key={name} label={label}>
            <Segments
              quiet
              label={label}
              value={prefs[name] ? "yes" : "no"}
              options={words}
              onChange={(word) => setPrefs({ [name]: word === "yes" } as Partial<Prefs>)}
            />
          </Row>
        ))}
        <Box color="fg.muted" fontSize="xs">
          Whatever you choose here, a figure may be typed with any unit: 30 cm, 12 in, 2&apos; 6&quot;, 18 AWG or 0.75 mm². Blinking previews never flash more
          than three times a second.
        </Box>
      </Box>
    </Overlay>
  );
}

function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Box display="flex" flexWrap="wrap" alignItems="center" justifyContent="space-between" gap="2">
      <Box as="span" aria-hidden>
        {label}
      </Box>
      {children}
    </Box>
  );
}
