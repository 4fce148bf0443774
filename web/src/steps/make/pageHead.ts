import { useLayoutEffect } from "react";

/** Writes a line at the head of every printed page, for as long as what is printed is there. */
export function usePageHead(words: string): void {
  useLayoutEffect(() => {
    const sheet = new CSSStyleSheet();
    sheet.replaceSync(`@page { @top-left { content: ${JSON.stringify(words)}; font-size: 8pt; } }`);
    document.adoptedStyleSheets = [...document.adoptedStyleSheets, sheet];
    return () => {
      document.adoptedStyleSheets = document.adoptedStyleSheets.filter((known) => known !== sheet);
    };
  }, [words]);
}
