import { IconButton } from "@chakra-ui/react";
import { setPrefs, themeNow, usePrefs } from "../base/prefs";
import { Icon } from "./icons";

/** From night to paper and back. */
export function ThemeSwitch() {
  usePrefs();
  const theme = themeNow();
  const next = theme === "dark" ? "light" : "dark";
  return (
    <IconButton
      aria-label={next === "light" ? "Use the paper-light theme" : "Use the night theme"}
      variant="ghost"
      size="sm"
      onClick={() => setPrefs({ theme: next })}
    >
      <Icon name={theme === "dark" ? "sun" : "moon"} />
    </IconButton>
  );
}
