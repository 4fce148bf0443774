import "@fontsource-variable/inter/wght.css";
import { Box, ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider, notifyManager } from "@tanstack/react-query";
import { Navigate, Outlet, RouterProvider, createRootRoute, createRoute, createRouter, lazyRouteComponent } from "@tanstack/react-router";
import { StrictMode, useEffect } from "react";
import { createRoot } from "react-dom/client";
import { STATES, STEPS, type Step } from "./document/steps";
import { BENCH_VIEWS, type BenchView } from "./steps/bench/views";
import { JOURNAL_VIEWS, type JournalPart } from "./steps/journal/views";
import { VIEWS, type View } from "./steps/drain/views";
import { Shelf } from "./shelf/Shelf";
import type { SourceState } from "./api/client";
import { fetchCore, onPlace, placeNow, startWithout } from "./core/transport";
import { usePlace } from "./core/usePlace";
import { useMe } from "./garage/role";
import { Failure } from "./ui/Failure";
import { toaster } from "./base/toaster";
import { Toasts } from "./ui/toasts";
import { system } from "./theme";
import { applyTheme } from "./base/prefs";
import { clock, dayWords } from "./units";

applyTheme();

/** A device that was shut out: the server has a page of its own for it. */
function Door() {
  useEffect(() => {
    location.replace("/");
  }, []);
  return <Failure problem={{ title: "This device is not let in any more", detail: "Ask for a new code on the computer where Orthavis runs." }} />;
}

/** What is looked at while the workshop is away is as it was. */
function Away() {
  const { of } = usePlace();
  if (!of) return null;
  return (
    <Box role="status" px="4" py="2" bg="fix.bg" color="fix.fg" borderBottomWidth="1px" borderColor="fix.line">
      The server is not answering. What you see is as it was on {dayWords(new Date(of))} at {clock(of)}; planning, undo and export go on, and what you change is
      kept in this browser and saved once it answers.
    </Box>
  );
}

/** The view of the address, for who may see it. */
function Root() {
  const me = useMe();
  return (
    <>
      <Away />
      {me?.role === "stranger" ? <Door /> : me && <Outlet />}
      <Toasts />
    </>
  );
}

/** A whole page that broke: what was typed is in the browser, and is offered again. */
function Broken({ reset }: { reset: () => void }) {
  return (
    <Failure
      problem={{
        title: "This page cannot be shown",
        detail: "Something in it went wrong. What you typed is kept in this browser and comes back when the page opens again.",
      }}
      retry={reset}
    />
  );
}

const root = createRootRoute({
  component: Root,
  notFoundComponent: () => <Failure problem={{ title: "There is no such page", detail: "The address leads nowhere. Go back to the shelf." }} />,
});

interface BuildSearch {
  step?: Step;
  scene?: string;
  state?: SourceState;
  /** What the drain shows. */
  view?: View;
  /** What lies on the bench. */
  bench?: BenchView;
  /** What the journal shows. */
  journal?: JournalPart;
  /** The small circuit whose workshop is open. */
  circuit?: string;
}

const shelf = createRoute({ getParentRoute: () => root, path: "/", component: Shelf });
const build = createRoute({
  getParentRoute: () => root,
  path: "/builds/$id",
  component: lazyRouteComponent(() => import("./workbench/BuildPage"), "BuildPage"),
  validateSearch: (search: Record<string, unknown>): BuildSearch => ({
    step: STEPS.find((step) => step === search.step),
    scene: typeof search.scene === "string" ? search.scene : undefined,
    state: STATES.find((state) => state === search.state),
    view: VIEWS.find((view) => view === search.view),
    bench: BENCH_VIEWS.find((view) => view === search.bench),
    journal: JOURNAL_VIEWS.find((view) => view === search.journal),
    circuit: typeof search.circuit === "string" ? search.circuit : undefined,
  }),
});

// Parts, packs and what lies in the drawer.
const drawer = createRoute({
  getParentRoute: () => root,
  path: "/drawer",
  component: lazyRouteComponent(() => import("./drawer/Drawer"), "Drawer"),
});

// From a wish to a plan.
const wish = createRoute({
  getParentRoute: () => root,
  path: "/wish",
  component: lazyRouteComponent(() => import("./shelf/wish/WishPage"), "WishPage"),
  validateSearch: (search: Record<string, unknown>): { screen?: "what" | "have" | "choose" } => ({
    screen: (["what", "have", "choose"] as const).find((screen) => screen === search.screen),
  }),
});

// A device that is let in already and is pointed at a code again.
const pair = createRoute({ getParentRoute: () => root, path: "/pair", component: () => <Navigate to="/" replace /> });

const router = createRouter({ routeTree: root.addChildren([shelf, build, drawer, wish, pair]), defaultPreload: "intent", defaultErrorComponent: Broken });

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}

// An answer is drawn in the task it arrives in, not in one after it.
notifyManager.setScheduler(queueMicrotask);

const queries = new QueryClient({
  defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false, networkMode: "always" }, mutations: { networkMode: "always" } },
});

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <ChakraProvider value={system}>
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </ChakraProvider>
  </StrictMode>,
);

onPlace(() => {
  const { trouble } = placeNow();
  if (trouble)
    toaster.create({ type: "warning", title: trouble, description: "Nothing you typed is lost; what was under way is asked of the server.", duration: 15_000 });
});

// The first picture does not wait for the core; until it is here, the server answers.
requestIdleCallback(() => void fetchCore().then(startWithout), { timeout: 2000 });
