import { Box, IconButton } from "@chakra-ui/react";
import type { ReactNode } from "react";
import { CURRENCIES, DATES, LENGTHS, TEMPERATURES, THEMES, WEEKS, type Prefs, setPrefs, usePrefs } from "../base/prefs";
import { useDialog } from "./dialog";
import { Icon } from "./icons";
import { Overlay } from "./Overlay";
import { Segments } from "./Segments";

export const useSettings = () => useDialog("settings", "Settings");

/** How a person reads and types, and what the page may do: kept by this browser, for every build. */
export function Settings() {
  const [open, setOpen] = useSettings();
  return (
    <>
      <IconButton aria-label="Settings" title="Settings" size="sm" variant="ghost" onClick={() => setOpen(true)}>
        <Icon name="settings" />
      </IconButton>
      {open && <SettingsDialog onClose={() => setOpen(false)} />}
    </>
  );
}

const WIRES = [
  ["awg", "AWG"],
  ["mm2", "mm²"],
] as const;
const NO_YES = [
  ["no", "No"],
  ["yes", "Yes"],
] as const;

/** A setting that is one of a few words. */
function OneOf<K extends keyof Prefs>({ name, label, options }: { name: K; label: string; options: readonly (readonly [Prefs[K] & string, string])[] }) {
  const prefs = usePrefs();
  return (
    <Row label={label}>
      <Segments
        quiet
        label={label}
        value={prefs[name] as Prefs[K] & string}
        options={options}
        onChange={(word) => setPrefs({ [name]: word } as Partial<Prefs>)}
      />
    </Row>
  );
}

/** A setting that is on or off, with its two words. */
function Either({ name, label, options = NO_YES }: { name: "metric" | "blink" | "keys"; label: string; options?: readonly (readonly [string, string])[] }) {
  const prefs = usePrefs();
  const [off, on] = options.map(([word]) => word) as [string, string];
  return (
    <Row label={label}>
      <Segments quiet label={label} value={prefs[name] ? on : off} options={options} onChange={(word) => setPrefs({ [name]: word === on })} />
    </Row>
  );
}

/** A setting that is one of many words. */
function Listed<K extends keyof Prefs>({ name, label, options }: { name: K; label: string; options: readonly (readonly [Prefs[K] & string, string])[] }) {
  const prefs = usePrefs();
  return (
    <Row label={label}>
      <select
        className="control"
        style={{ width: "auto" }}
        aria-label={label}
        value={prefs[name] as string}
        onChange={(event) => setPrefs({ [name]: event.target.value } as Partial<Prefs>)}
      >
        {options.map(([word, called]) => (
          <option key={word} value={word}>
            {called}
          </option>
        ))}
      </select>
    </Row>
  );
}

const names = new Intl.DisplayNames(undefined, { type: "currency" });
const MONEY = CURRENCIES.map((code) => [code, `${code}, ${names.of(code) ?? code}`] as const);

export function SettingsDialog({ onClose }: { onClose: () => void }) {
  return (
    <Overlay title="Settings" onClose={onClose}>
      <Box display="grid" gap="4" pb="2">
        <OneOf name="theme" label="Theme" options={THEMES} />
        <OneOf name="lengths" label="Lengths" options={LENGTHS} />
        <Either name="metric" label="Wire sizes" options={WIRES} />
        <OneOf name="temperature" label="Temperature" options={TEMPERATURES} />
        <Listed name="dates" label="Dates" options={DATES} />
        <Listed name="week" label="A week begins on" options={WEEKS} />
        <Listed name="currency" label="Your own prices are in" options={MONEY} />
        <Either name="blink" label="Let blinking lights blink on the screen" />
        <Either name="keys" label="Single keys are shortcuts (1 to 9, ?)" />
        <Box color="fg.muted" fontSize="xs">
          Whatever you choose here, a figure may be typed with any unit: 30 cm, 12 in, 2&apos; 6&quot;, 18 AWG, 0.75 mm² or 41 °F. Blinking previews never flash
          more than three times a second. Your choices are kept in this browser.
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
