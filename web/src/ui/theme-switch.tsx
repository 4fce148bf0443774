import { IconButton } from "@chakra-ui/react";
import { useState } from "react";
import { Icon } from "./icons";
import { kept } from "../base/kept";

const KEY = "orthavis.theme";
type Theme = "dark" | "light";

const stored = (): Theme => (kept.get(KEY) === "light" ? "light" : "dark");

/** Puts the remembered theme on the page; night is the default. */
export function applyTheme(theme: Theme = stored()) {
  document.documentElement.className = theme;
}

export function ThemeSwitch() {
  const [theme, setTheme] = useState(stored);
  const next = theme === "dark" ? "light" : "dark";
  return (
    <IconButton
      aria-label={next === "light" ? "Use the paper-light theme" : "Use the night theme"}
      variant="ghost"
      size="sm"
      onClick={() => {
        kept.set(KEY, next);
        applyTheme(next);
        setTheme(next);
      }}
    >
      <Icon name={theme === "dark" ? "sun" : "moon"} />
    </IconButton>
  );
}
