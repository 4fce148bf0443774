import { createSystem, defaultConfig, defineConfig } from "@chakra-ui/react";

/** Every colour, once: paper by day, workshop by night. */
const pair = (day: string, night: string) => ({ value: { _light: day, _dark: night } });

const config = defineConfig({
  globalCss: {
    "html, body, #root": { height: "100%" },
    body: { fontVariantNumeric: "tabular-nums", fontSize: "sm", lineHeight: "1.45" },
    "*:focus-visible": { outline: "2px solid", outlineColor: "lantern.focusRing", outlineOffset: "2px" },
    "svg [role=button]": { outline: "none" },
    "svg .ring": { opacity: 0 },
    "svg [role=button]:focus-visible > .ring": { opacity: 1 },
    // What is drawn anew at every keystroke is plain elements with these classes: the kit's own cost a millisecond
    // for every dozen.
    ".figure": {
      lineHeight: "1.15",
      minHeight: "8",
      fontWeight: "semibold",
      cursor: "pointer",
      textDecoration: "underline dotted",
      textDecorationColor: "border.emphasized",
      textUnderlineOffset: "4px",
    },
    ".figure.large": { fontSize: "3xl", fontWeight: "bold" },
    ".term": { minWidth: "8", minHeight: "8", marginBlock: "-1", cursor: "pointer", color: "fg.subtle", fontSize: "xs", _hover: { color: "lantern.fg" } },
    ".field-label": { display: "flex", alignItems: "center", minHeight: "6", marginBottom: "0.5", color: "fg.muted", fontSize: "xs" },
    ".field-note": { marginTop: "1", fontSize: "xs", color: "fg.muted", "&.fault": { color: "stop.fg" } },
    ".field-unit": {
      position: "absolute",
      right: "2.5",
      top: "0",
      bottom: "0",
      display: "flex",
      alignItems: "center",
      color: "fg.muted",
      pointerEvents: "none",
    },
    ".control": {
      width: "full",
      minHeight: "9",
      paddingInline: "2.5",
      background: "bg.panel",
      borderWidth: "1px",
      borderColor: "border.emphasized",
      borderRadius: "md",
      _invalid: { borderColor: "stop.line" },
    },
    "select.control": { cursor: "pointer" },
    ".control.united": { paddingRight: "9" },
    ".field-grid": { display: "grid", gridTemplateColumns: "repeat(auto-fill, minmax(8.2rem, 1fr))", gap: "3", alignItems: "start" },
    ".card": { background: "bg.panel", borderWidth: "1px", borderRadius: "md", padding: "3", marginBottom: "3" },
    ".card.on": { borderColor: "lantern.solid" },
    ".card > header": {
      display: "flex",
      alignItems: "center",
      justifyContent: "space-between",
      gap: "2",
      minHeight: "8",
      "& > h3": { fontWeight: "semibold", overflowWrap: "anywhere" },
      "&:not(:last-child)": { marginBottom: "2" },
    },
    ".step-heading": { marginBottom: "4", "& > h2": { fontSize: "lg", fontWeight: "semibold" }, "& > p": { color: "fg.muted" } },
    ".quiet": { color: "fg.muted", fontSize: "xs" },
    ".tap": { display: "flex", gap: "2", cursor: "pointer", paddingBlock: "1", fontSize: "xs", alignItems: "flex-start" },
    ".tap input": { marginTop: "1" },
    ".tap b": { display: "block", fontSize: "sm", fontWeight: "semibold" },
    ".reasons": { listStyleType: "none", fontSize: "xs", display: "grid", gap: "1", marginBottom: "1", "& b": { marginRight: "1.5" } },
    ".ink-good": { color: "good.fg" },
    ".workbench": { minHeight: "full", display: "flex", flexDirection: "column", md: { height: "full" } },
    ".workbench > main": {
      flex: "1",
      minHeight: "0",
      display: "grid",
      gridTemplateColumns: "1fr",
      md: { gridTemplateColumns: "5.2rem minmax(17rem, 21.5rem) minmax(0, 1fr)", gridTemplateRows: "minmax(0, 1fr)" },
      lg: { gridTemplateColumns: "5.2rem minmax(18rem, 21.5rem) minmax(0, 1fr) 18.5rem" },
    },
    // On a phone the editor is a page of its own, and the verdict comes before the vehicle.
    ".pane": { minWidth: "0", mdDown: { "&.away": { display: "none" } } },
    ".pane.editor": {
      padding: "4",
      paddingBottom: "20",
      background: "bg.subtle",
      order: 2,
      md: { overflowY: "auto", paddingBottom: "6", borderRightWidth: "1px", order: "initial" },
    },
    ".pane.scene": {
      display: "flex",
      flexDirection: "column",
      minHeight: "0",
      order: 3,
      paddingBottom: "20",
      md: { order: "initial", paddingBottom: "0" },
      "&.faded": { opacity: 0.45 },
    },
    ".pane.scene > .river": { borderTopWidth: "1px", flex: "1.05", minHeight: "0", display: "flex" },
    ".pane.verdict": {
      background: "bg.subtle",
      padding: "4",
      order: 1,
      md: { order: "initial", gridColumn: "1 / -1", borderTopWidth: "1px" },
      lg: { gridColumn: "auto", overflowY: "auto", borderLeftWidth: "1px", borderTopWidth: "0" },
    },
    ".budgets": { display: "grid", gridTemplateColumns: "1fr 1fr", gap: "3", fontSize: "xs", marginBottom: "2" },
    ".budget": {
      display: "flex",
      flexWrap: "wrap",
      justifyContent: "space-between",
      columnGap: "2",
      color: "fg.muted",
      "& > div": { width: "full", height: "1", background: "bg.emphasized", borderRadius: "sm", overflow: "hidden" },
      "& > div > div": { height: "full", background: "fg.subtle" },
      "&.over": { color: "stop.fg", "& > div > div": { background: "stop.line" } },
    },
    ".readout": { marginTop: "3", borderTopWidth: "1px" },
    ".readout > div": {
      display: "flex",
      justifyContent: "space-between",
      alignItems: "center",
      gap: "3",
      borderBottomWidth: "1px",
      paddingBlock: "0.5",
      minHeight: "9",
    },
    ".readout dt": { color: "fg.muted" },
    ".readout dd": { textAlign: "right" },
    ".headline": { fontSize: "xl", fontWeight: "bold", lineHeight: "1.2" },
    ".verdict p.ink-muted": { marginTop: "3" },
    ".costs": { display: "grid", gridTemplateColumns: "1.2fr 1fr", columnGap: "4", marginTop: "3", alignItems: "end" },
    ".costs .share": { fontSize: "xl", fontWeight: "bold" },
    ".group": { marginTop: "4", "& > h3": { fontSize: "xs", color: "fg.muted", marginBottom: "1.5" } },
    ".group > ul": {
      listStyleType: "none",
      display: "grid",
      gap: "2.5",
      gridTemplateColumns: "minmax(0, 1fr)",
      md: { gridTemplateColumns: "repeat(auto-fill, minmax(16rem, 1fr))" },
      lg: { gridTemplateColumns: "minmax(0, 1fr)" },
    },
    ".cautions": {
      fontSize: "xs",
      "& li": { borderLeftWidth: "4px", borderColor: "border.emphasized", paddingLeft: "3" },
      "& b": { display: "block", fontWeight: "semibold" },
    },
    ".cautions span": { fontWeight: "normal" },
    ".finding": { borderLeftWidth: "4px", borderRadius: "sm", paddingInline: "3", paddingBlock: "2.5" },
    ".finding.stop": { background: "stop.bg", borderColor: "stop.line" },
    ".finding.fix": { background: "fix.bg", borderColor: "fix.line" },
    ".finding.note": { background: "note.bg", borderColor: "note.line" },
    ".finding.on": { outlineWidth: "2px", outlineStyle: "solid", outlineColor: "lantern.solid" },
    ".finding .head": { textAlign: "left", width: "full", cursor: "pointer", fontWeight: "semibold" },
    ".finding .message": { display: "block", fontSize: "xs", fontWeight: "normal", marginTop: "1" },
    ".finding summary": { cursor: "pointer", color: "fg.muted", minHeight: "8", display: "flex", alignItems: "center", fontSize: "xs" },
    ".finding details": { fontSize: "xs", marginTop: "1", "& p": { marginBottom: "2" } },
    ".ink-stop": { color: "stop.fg" },
    ".ink-fix": { color: "fix.fg" },
    ".ink-note": { color: "note.fg" },
    ".ink-muted": { color: "fg.muted" },
    ".remedies": { display: "flex", flexWrap: "wrap", gap: "2", marginTop: "1" },
    ".remedies button": {
      minHeight: "8",
      paddingInline: "2.5",
      paddingBlock: "1.5",
      textAlign: "left",
      fontSize: "xs",
      fontWeight: "medium",
      cursor: "pointer",
      borderWidth: "1px",
      borderRadius: "sm",
      borderColor: "lantern.border",
      color: "lantern.fg",
      _hover: { background: "lantern.subtle" },
      _disabled: { opacity: 0.5 },
    },
    // Once in 1.2 s: far below three flashes a second.
    ".blink": { animation: "blink 1.2s linear infinite", _motionReduce: { animation: "none" } },
    "*, *::before, *::after": { _motionReduce: { animationDuration: "0.01ms", transitionDuration: "0.01ms" } },
  },
  theme: {
    keyframes: { blink: { "0%, 49%": { visibility: "visible" }, "50%, 100%": { visibility: "hidden" } } },
    tokens: {
      fonts: {
        body: { value: "'Inter Variable', system-ui, sans-serif" },
        heading: { value: "'Inter Variable', system-ui, sans-serif" },
      },
    },
    semanticTokens: {
      colors: {
        bg: {
          DEFAULT: pair("#f5f1e7", "#10131a"),
          subtle: pair("#fdfaf2", "#161a22"),
          muted: pair("#ebe5d6", "#1e2430"),
          emphasized: pair("#ddd4c0", "#2b3341"),
          panel: pair("#fffdf7", "#1a1f29"),
        },
        fg: {
          DEFAULT: pair("#24211a", "#efe9dc"),
          muted: pair("#5a5447", "#a5aebd"),
          subtle: pair("#696254", "#929cad"),
        },
        border: {
          DEFAULT: pair("#d5ccb8", "#2b3240"),
          emphasized: pair("#857c69", "#667186"),
        },
        lantern: {
          solid: pair("#8a5200", "#f5b14c"),
          contrast: pair("#fffdf7", "#1b1305"),
          fg: pair("#834d00", "#f8c272"),
          subtle: pair("#f6e6c8", "#2b2213"),
          muted: pair("#f0d9ae", "#3a2d16"),
          emphasized: pair("#e6c78e", "#4d3b1c"),
          focusRing: pair("#8a5200", "#f5b14c"),
          border: pair("#b98331", "#9c7434"),
        },
        stop: { fg: pair("#a9241c", "#ff8d78"), bg: pair("#fbe9e3", "#2a1815"), line: pair("#c0382d", "#ff6f57") },
        fix: { fg: pair("#6f4b00", "#f0c55c"), bg: pair("#f8efd3", "#262010"), line: pair("#b07d10", "#e8b33b") },
        note: { fg: pair("#3a526e", "#a9bfdc"), bg: pair("#eaeef2", "#18202b"), line: pair("#6f86a3", "#6e88ab") },
        good: { fg: pair("#1c6540", "#86dbaa") },
        heat: { fg: pair("#a04a2c", "#d98a6c") },
      },
    },
  },
});

export const system = createSystem(defaultConfig, config);

/** Colours of drawings, where a style sheet's tokens do not reach. */
export const ink = {
  line: "var(--chakra-colors-border-emphasized)",
  faint: "var(--chakra-colors-border)",
  text: "var(--chakra-colors-fg)",
  muted: "var(--chakra-colors-fg-muted)",
  river: "var(--chakra-colors-bg-emphasized)",
  bank: "var(--chakra-colors-border-emphasized)",
  heat: "var(--chakra-colors-heat-fg)",
  accent: "var(--chakra-colors-lantern-solid)",
  ground: "var(--chakra-colors-bg)",
  stop: "var(--chakra-colors-stop-line)",
} as const;

const LIGHT: Record<string, string> = {
  white: "#fff3d6",
  red: "#ff5340",
  amber: "#ffae2b",
  green: "#57e389",
  blue: "#6aa5ff",
  violet: "#b98cff",
  infrared: "#9c5a55",
  "warm white": "#ffdca0",
};

/** What a light looks like, from its colour by name or the scene's colour. */
export function lightColour(name?: string | null, rgb?: number[] | null): string {
  if (rgb) {
    const channel = (share: number) => Math.round(70 + 185 * share);
    return `rgb(${rgb.map(channel).join(" ")})`;
  }
  return LIGHT[name ?? "white"] ?? "#fff3d6";
}
