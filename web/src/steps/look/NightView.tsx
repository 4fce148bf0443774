import { Box, Button, chakra } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { type Build, type Night, type Sky, type SourceState, type Viewpoint, problemOf } from "../../api/client";
import { saveBlob } from "../../base/save";
import { capital } from "../../document/fields";
import { JOB } from "../../document/job";
import { STATE_NAMES } from "../../document/steps";
import { useSolved } from "../../document/useSolved";
import { Between } from "../../scene/night/Between";
import { NightPicture, type Painted } from "../../scene/night/NightPicture";
import { type Sight, nightOf, useNight } from "../../scene/night/useNight";
import { Prose } from "../../ui/Prose";
import { Segments } from "../../ui/Segments";
import { say } from "../../units";
import { useSite } from "../module";
import { beforeOf } from "./before";

const SKIES = JOB.skies.map(([word, called]) => [word, capital(called)] as const);
const metres = (value: number) => say({ value, unit: "m" });
/** The first driver is called one; the others are so many metres. */
const viewpoints = (): (readonly [Viewpoint, string])[] => {
  const first = JOB.viewpoints.find((one) => one.behind_m != null);
  return JOB.viewpoints.map((one) => {
    if (one.behind_m == null) return [one.word, capital(one.called)];
    return [one.word, one === first ? `Driver ${metres(one.behind_m)} behind` : metres(one.behind_m)];
  });
};

const SIZE = [640, 360] as const;
/** Between two pictures of what moves, ms. */
const FRAME = 33;
const STILL = window.matchMedia("(prefers-reduced-motion: reduce)");

/** What stands on the right of the line: nothing, another state, all the light that is asked for, or the build as it was. */
type Against = "" | "asked" | "before" | SourceState;

/** The build at night: as it is, or beside what it could be. */
export function NightView() {
  const { id, editor } = useSite();
  const { build, scene, state } = editor;
  const before = beforeOf(id, build);
  const [from, setFrom] = useState<Viewpoint>("behind");
  const [chosen, setSky] = useState<Sky>();
  const [against, setAgainst] = useState<Against>("");
  const sight: Sight = { build, scene, state, from, sky: chosen, size: SIZE };
  const shown = useNight(sight, 0);
  // What is over it where nobody chose is the core's to say; until it does the dial stands at the first.
  const sky = chosen ?? shown.data?.night.sky ?? SKIES[0]![0];
  const left = useRef<Painted>(null);
  const playing = usePlaying(sight, shown.data?.night, left);
  const states = useSolved(build, scene, state).data?.states ?? [];
  const changed = before !== build;
  const choices: (readonly [Against, string])[] = [
    ["", "nothing"],
    ...states.filter((other) => other !== state).map((other) => [other, STATE_NAMES[other]] as const),
    ["asked", "what is asked for"],
    ...(changed ? [["before", "before your changes"] as const] : []),
  ];
  const beside: Against = choices.some(([word]) => word === against) ? against : "";
  if (build.lights.length === 0) return <p className="quiet">There is no light yet. Put one in at Lights, and see here what it looks like at night.</p>;
  const where = viewpoints().find(([word]) => word === from)![1];
  const label = `${build.name} at night: ${SKIES.find(([word]) => word === sky)![1].toLowerCase()}, ${where.toLowerCase()}`;
  const own = shown.data && <NightPicture planes={shown.data.planes} falling={shown.data.night} label={label} handle={left} />;
  return (
    <Box display="flex" flexDirection="column" gap="3">
      <Box display="flex" flexWrap="wrap" gap="2">
        <Segments quiet label="Seen from" value={from} options={viewpoints()} onChange={setFrom} />
        <Segments quiet label="Around it" value={sky} options={SKIES} onChange={setSky} />
      </Box>
      <Box bg="black" borderRadius="md" overflow="hidden" aspectRatio="16 / 9" mx={{ base: "-4", md: "0" }}>
        {own && beside ? (
          <Between
            left={own}
            right={<Other sight={againstOf(sight, beside, before)} label={`${label}: ${choices.find(([word]) => word === beside)![1]}`} />}
            names={[beside === "before" ? "now" : STATE_NAMES[state], choices.find(([word]) => word === beside)![1]]}
          />
        ) : (
          own
        )}
      </Box>
      {shown.error && (
        <Box role="alert" color="stop.fg">
          <Prose text={problemOf(shown.error).detail} />
        </Box>
      )}
      <Box display="flex" flexWrap="wrap" gap="3" alignItems="center">
        {shown.data?.night.moves && (
          <Button size="sm" colorPalette="lantern" aria-pressed={playing.on} onClick={playing.turn}>
            {playing.on ? "Hold still" : STILL.matches ? "Play anyway" : "Play"}
          </Button>
        )}
        <label>
          <Box as="span" fontSize="sm" mr="2">
            Compare with
          </Box>
          <chakra.select className="control" w="auto" value={beside} onChange={(event) => setAgainst(event.target.value as Against)}>
            {choices.map(([word, name]) => (
              <option key={word} value={word}>
                {name}
              </option>
            ))}
          </chakra.select>
        </label>
        <Button size="sm" variant="outline" disabled={!own} onClick={() => savePicture(left.current?.canvas, build.name)}>
          Save the picture
        </Button>
      </Box>
      {shown.data && <Said night={shown.data.night} slow={playing.on && shown.data.night.most_speed < 1} />}
    </Box>
  );
}

const againstOf = (sight: Sight, against: Against, before: Build): Sight =>
  against === "asked" ? { ...sight, asked: true } : against === "before" ? { ...sight, build: before } : against ? { ...sight, state: against } : sight;

function Other({ sight, label }: { sight: Sight; label: string }) {
  const shown = useNight(sight, 0);
  if (shown.error)
    return (
      <Box p="4" color="white">
        <Prose text={problemOf(shown.error).detail} />
      </Box>
    );
  return shown.data ? <NightPicture planes={shown.data.planes} falling={shown.data.night} label={label} /> : null;
}

/** What light there is, and how it is seen. */
function Said({ night, slow }: { night: Night; slow: boolean }) {
  return (
    <Box color="fg.muted" fontSize="xs">
      {`Your lights give ${say({ value: night.brightest_lx, unit: "lx" })} at the brightest spot of ground and wall. As an eye has it that is used to what is around: white at ${say({ value: night.white_lx, unit: "lx" })}. Computed from beams and surfaces: the vehicle throws its shadow, and light that bounces on is left out.`}
      {slow && ` It flashes more than three times a second, which can bring on a seizure: shown at ${Math.round(100 * night.most_speed)} % of its speed.`}
    </Box>
  );
}

const savePicture = (canvas: HTMLCanvasElement | null | undefined, name: string) =>
  canvas?.toBlob((png) => png && saveBlob(`${name.toLowerCase().replace(/[^a-z0-9]+/g, "-")}-at-night.png`, png), "image/png");

/** Plays what moves, no faster than anybody may be shown it: each picture is asked for once the last is drawn. */
function usePlaying(sight: Sight, first: Night | undefined, picture: React.RefObject<Painted | null>) {
  const [on, setOn] = useState(false);
  const newest = useRef(sight);
  newest.current = sight;
  const speed = Math.min(1, first?.most_speed ?? 1);
  const plays = on && first?.moves === true;
  useEffect(() => {
    if (!plays) return;
    const ended = new AbortController();
    const begun = performance.now();
    const play = async () => {
      while (!ended.signal.aborted) {
        const at = performance.now();
        const night = await nightOf(newest.current, (speed * (at - begun)) / 1000, ended.signal);
        if (!ended.signal.aborted) picture.current?.paint(night);
        const left = FRAME - (performance.now() - at);
        await new Promise((go) => (left > 0 ? setTimeout(go, left) : requestAnimationFrame(go)));
      }
    };
    // A picture that cannot be had ends the play; the standing one says why.
    play().catch(() => !ended.signal.aborted && setOn(false));
    const painted = picture.current;
    return () => {
      ended.abort();
      if (first) painted?.paint(first);
    };
  }, [plays, speed, first, picture]);
  return { on: plays, turn: () => setOn(!on) };
}
