import { useLayoutEffect } from "react";
import type { Build } from "../../api/client";

/** Which build a page is of. */
export const headOf = (build: Build, revision?: number) => (revision === undefined ? build.name : `${build.name} · revision ${revision}`);

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
