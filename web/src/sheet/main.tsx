import "./font.css";
import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { decompress } from "fzstd";
import { createRoot } from "react-dom/client";
import { asker } from "../core/module";
import { answerAlone } from "../core/transport";
import { system } from "../theme";
import { applyTheme } from "../base/prefs";
import { Sheet, type Taken } from "./Sheet";

/** What the program wrote into the page. */
const textOf = (id: string) => document.getElementById(id)?.textContent ?? "";

/** The core, as it was packed into the page. */
async function unpack(): Promise<WebAssembly.Instance> {
  const packed = Uint8Array.from(atob(textOf("core")), (letter) => letter.charCodeAt(0));
  return (await WebAssembly.instantiate(decompress(packed) as Uint8Array<ArrayBuffer>)).instance;
}

const root = document.getElementById("root")!;
applyTheme();
unpack().then(
  (core) => {
    answerAlone(asker(core));
    const queries = new QueryClient({ defaultOptions: { queries: { retry: false, networkMode: "always" }, mutations: { networkMode: "always" } } });
    createRoot(root).render(
      <ChakraProvider value={system}>
        <QueryClientProvider client={queries}>
          <Sheet taken={JSON.parse(textOf("build")) as Taken} />
        </QueryClientProvider>
      </ChakraProvider>,
    );
  },
  (error: unknown) => {
    root.textContent = `This browser cannot open the sheet (${String(error)}). Use a newer one: it needs WebAssembly and DecompressionStream.`;
  },
);
