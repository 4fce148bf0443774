import { Box, Button, Heading } from "@chakra-ui/react";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useEffect, useRef, useState } from "react";
import { usePrefs } from "../../base/prefs";
import { WorkingProvider } from "../../job/Figure";
import { Choose } from "./Choose";
import { Have } from "./Have";
import { What } from "./What";
import { type Told, keepTold, told as keptTold } from "./wish";

export const SCREENS = ["what", "have", "choose"] as const;
export type Screen = (typeof SCREENS)[number];

const TITLES: Record<Screen, readonly [string, string]> = {
  what: ["Where should there be light?", "Choose your vehicle, then click every place where light should be."],
  have: ["What is there?", "Say what gives the power, for how long, and what your hands can do."],
  choose: ["Choose a plan", "Each of these is safe by every check here; they differ in what they cost you."],
};

/** What stands in the way of the next screen; `null`: nothing. */
function missing(screen: Screen, told: Told): string | null {
  if (told.lights.length === 0) return "Choose a place for at least one light first.";
  if (screen === "have" && told.supply.by === "label" && !told.supply.source) return "Read the label first, and answer what it leaves open.";
  return null;
}

/** From a wish to a plan in three screens; what was told stays, whichever way one goes. */
export function WishPage() {
  usePrefs();
  const { screen = "what" } = useSearch({ from: "/wish" });
  const navigate = useNavigate();
  const [told, setTold] = useState(keptTold);
  const [asked, setAsked] = useState(false);
  const title = useRef<HTMLHeadingElement>(null);
  const onTold = (next: Told) => {
    setTold(next);
    keepTold(next);
    setAsked(false);
  };
  useEffect(() => {
    document.title = `${TITLES[screen][0]} · Orthavis`;
    title.current?.focus();
  }, [screen]);
  const at = SCREENS.indexOf(screen);
  const go = (next: number) => void navigate({ to: "/wish", search: { screen: SCREENS[next] } });
  const wants = missing(screen, told);
  const open = screen === "choose" && missing("have", told) === null;
  return (
    <WorkingProvider>
      <Box as="main" maxW="64rem" mx="auto" px={{ base: "4", md: "8" }} py="6">
        <Box display="flex" alignItems="center" gap="3" mb="4">
          <Button asChild size="sm" variant="outline">
            <Link to="/">All builds</Link>
          </Button>
          <Box color="fg.muted" fontSize="sm">{`${at + 1} of 3`}</Box>
        </Box>
        <Heading as="h1" ref={title} tabIndex={-1} size="2xl" mb="1">
          {TITLES[screen][0]}
        </Heading>
        <Box color="fg.muted" mb="5">
          {TITLES[screen][1]}
        </Box>
        {screen === "what" && <What told={told} onTold={onTold} />}
        {screen === "have" && <Have told={told} onTold={onTold} />}
        {open && <Choose told={told} />}
        {screen === "choose" && !open && <Box role="alert">{missing("have", told)}</Box>}
        {asked && wants && (
          <Box role="alert" color="stop.fg" mt="4">
            {wants}
          </Box>
        )}
        <Box display="flex" gap="3" mt="6">
          {at > 0 && (
            <Button variant="outline" onClick={() => go(at - 1)}>
              Back
            </Button>
          )}
          {at < 2 && (
            <Button colorPalette="lantern" onClick={() => (wants ? setAsked(true) : go(at + 1))}>
              Next
            </Button>
          )}
        </Box>
      </Box>
    </WorkingProvider>
  );
}
