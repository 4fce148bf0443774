import { Box, Button } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { type Build, type Fact, type InputCard, answer, api, problemOf } from "../../api/client";
import { supplierName } from "../../document/job";
import { capital } from "../../document/fields";
import { Figure } from "../../job/Figure";
import { Prose } from "../../ui/Prose";
import { saveFile } from "../../base/save";
import { Segments } from "../../ui/Segments";
import { Readout } from "../../ui/StepHeading";
import { say } from "../../units";
import { Course } from "./Course";
import { Stage } from "./Stage";
import type { ShowState } from "./useShowState";

interface Props {
  build: Build;
  scene: string;
  replace: (document: Build) => void;
  selected: string | null;
  onSelect: (id: string) => void;
  show: ShowState;
}

const STILL = window.matchMedia("(prefers-reduced-motion: reduce)");
/** From frame to frame by hand, s. */
const STEP = 0.05;

/** The vehicle with its pixels, playing; what it takes under it. */
export function ShowView({ build, scene, replace, selected, onSelect, show }: Props) {
  const { view, player, arrived, inputs, say: tell, speed, setSpeed, arrives, setArrives, order, onPiece } = show;
  if (!build.lights.some((light) => light.load.kind === "pixels"))
    return (
      <p className="quiet">Nothing here moves yet: shows are for lights of pixels. Add one at Lights, a controller at Power, and come back to let it move.</p>
    );
  const told = view.data;
  const seen = (arrived.data ?? []).filter((light) => light.seen_from != null);
  return (
    <>
      <Stage
        build={build}
        view={told}
        player={player}
        arrives={arrives}
        selected={selected}
        onPiece={(light) => (order ? onPiece(light) : onSelect(light))}
        order={order}
      />
      <Box display="flex" gap="2" mt="3" flexWrap="wrap" alignItems="center">
        {told?.moves !== false && (
          <>
            <Button size="sm" colorPalette="lantern" aria-pressed={player.playing} onClick={player.playing ? player.stop : player.play}>
              {player.playing ? "Hold still" : STILL.matches ? "Play anyway" : "Play"}
            </Button>
            <Button size="sm" variant="outline" aria-label="A frame back" onClick={() => player.seek(player.time - STEP)}>
              ◂
            </Button>
            <Button size="sm" variant="outline" aria-label="A frame on" onClick={() => player.seek(player.time + STEP)}>
              ▸
            </Button>
            <Box asChild minW="5rem">
              <output aria-label="Moment">{`${player.time.toFixed(2)} s`}</output>
            </Box>
            <Box asChild display="flex" gap="2" alignItems="center" fontSize="sm">
              <label>
                Speed
                <input
                  type="range"
                  min={0.1}
                  max={2}
                  step={0.1}
                  value={speed}
                  aria-valuetext={`${Math.round(100 * speed)} %`}
                  onChange={(event) => setSpeed(Number(event.target.value))}
                />
                {`${Math.round(100 * speed)} %`}
              </label>
            </Box>
          </>
        )}
        <Segments
          label="Lit"
          value={arrives ? "arrives" : "asked"}
          options={[
            ["arrives", "as it arrives"],
            ["asked", "as asked for"],
          ]}
          onChange={(next) => setArrives(next === "arrives")}
        />
      </Box>
      {STILL.matches && !player.playing && told?.moves && <p className="quiet">Your system asks for less motion, so frames are stepped by hand.</p>}
      {told && told.most_speed < 1 && (
        <Box role="alert" color="stop.fg" mt="2">
          {`It flashes more than three times a second, which can bring on a seizure. It is played at ${Math.round(100 * told.most_speed)} % of its speed.`}
        </Box>
      )}
      {(player.trouble ?? (view.error && problemOf(view.error).detail)) && (
        <Box role="alert" color="stop.fg" mt="2">
          <Prose text={player.trouble ?? problemOf(view.error).detail} />
        </Box>
      )}
      <Through show={show} />
      <Inputs inputs={told?.inputs ?? []} said={inputs} onSay={tell} />
      {told && (
        <>
          <h3 className="chart-title">Current over once around</h3>
          <Course view={told} time={player.time} onSeek={player.seek} />
          {told.power.supplies.map((supply) => (
            <Box key={`${supply.controller} ${supply.supply}`} mt="2">
              <p className="quiet">{`${supply.controller ?? "Pixels without a controller"}, powered from ${supplierName(build, supply.supply)}: what the supply gives`}</p>
              <Readout rows={supply.facts.map((fact) => [fact.label, figure(fact, fact.key === "worst_a")] as const)} />
              {told.moves && supply.worst.t_s > 0 && (
                <Button size="xs" minH="8" mt="2" variant="outline" onClick={() => player.seek(supply.worst.t_s)}>
                  Go to the worst frame
                </Button>
              )}
            </Box>
          ))}
        </>
      )}
      <FarEnd seen={seen} build={build} replace={replace} asked={!!arrived.data?.length} />
      {told && told.fits.length > 0 && (
        <>
          <h3 className="chart-title">How many pixels fit</h3>
          {told.fits.map((fits) => (
            <Box key={`${fits.controller} ${fits.supply}`} mb="2">
              <p className="quiet">{`${fits.controller ?? "Without a controller"}, powered from ${supplierName(build, fits.supply)}: ${fits.count} now.`}</p>
              <Readout rows={fits.facts.map((fact) => [fact.label, figure(fact)] as const)} />
            </Box>
          ))}
        </>
      )}
      <Files build={build} scene={scene} show={show} />
    </>
  );
}

const figure = (fact: Fact, large = false) => <Figure label={fact.label} text={say(fact)} working={fact.working} large={large} />;

/** Where the frames came from, while it plays. */
function Through({ show: { player } }: { show: ShowState }) {
  if (!player.playing) return null;
  if (player.through === "page") return <p className="quiet">Played by this page: the server is not answering.</p>;
  const heard = player.heard;
  if (!heard?.address) return <p className="quiet">Waking the controller …</p>;
  const all = heard.universes.filter((universe) => universe.sender);
  const sum = (of: (universe: (typeof all)[number]) => number) => all.reduce((total, universe) => total + of(universe), 0);
  return (
    <p className="quiet">
      {`Over E1.31 through the simulated controller at ${heard.address}: ${all.length} universe${all.length === 1 ? "" : "s"}, `}
      {`${Math.max(0, ...all.map((universe) => universe.a_second))} frames a second, ${sum((one) => one.lost)} lost, ${sum((one) => one.late)} late`}
      {heard.malformed > 0 ? `, ${heard.malformed} malformed` : ""}
      {heard.speed < 1 ? `; at ${Math.round(100 * heard.speed)} % of its speed` : ""}.
    </p>
  );
}

/** What the show follows, each as a slider or as its words. */
function Inputs({ inputs, said, onSay }: { inputs: readonly InputCard[]; said: ShowState["inputs"]; onSay: ShowState["say"] }) {
  if (inputs.length === 0) return null;
  return (
    <Box mt="3" display="grid" gap="2">
      <h3 className="chart-title">What it follows</h3>
      {inputs.map((input) => {
        const words = input.says;
        if (words.length > 0) {
          const usual = words[Math.round(input.usual * (words.length - 1))]!;
          return (
            <Box key={input.input} display="flex" gap="3" alignItems="center">
              <Box w="8rem">{capital(input.called)}</Box>
              <Segments
                label={input.called}
                value={String(said[input.input] ?? usual)}
                options={words.map((word) => [word, word] as const)}
                onChange={(word) => onSay(input.input, word)}
              />
            </Box>
          );
        }
        const share = Number(said[input.input] ?? input.usual);
        return (
          <Box asChild key={input.input} display="flex" gap="3" alignItems="center">
            <label>
              <Box as="span" w="8rem">
                {capital(input.called)}
              </Box>
              <input
                type="range"
                min={0}
                max={1}
                step={0.01}
                value={share}
                aria-valuetext={`${Math.round(100 * share)} %`}
                onChange={(event) => onSay(input.input, Number(event.target.value))}
              />
              {`${Math.round(100 * share)} %`}
            </label>
          </Box>
        );
      })}
    </Box>
  );
}

/** Where what arrives differs from what is asked so much that it is seen, and what cures it. */
function FarEnd({
  seen,
  build,
  replace,
  asked,
}: {
  seen: ShowState["arrived"]["data"] & object;
  build: Build;
  replace: (document: Build) => void;
  asked: boolean;
}) {
  const apply = useMutation({
    mutationFn: (changes: unknown[]) => answer(api.POST("/api/v1/apply", { body: { document: build, changes: changes as never } })),
    onSuccess: (applied) => replace(applied.document),
  });
  if (!asked) return null;
  return (
    <>
      <h3 className="chart-title">Wanted and shown</h3>
      {seen.length === 0 && <p>Every pixel shows the colour that is asked of it, as far as an eye can tell.</p>}
      {seen.map((light) => (
        <Box key={light.light} mb="3">
          <p>
            <b>{light.light}</b>
            {`: from pixel ${light.seen_from} on the colour is seen to differ (${light.difference.toFixed(1)} ΔE, seen above 3). `}
            {`There are ${say({ value: Math.min(...light.volts), unit: "V" })} at the lowest.`}
          </p>
          <Strip label="asked for" colours={light.asked} />
          <Strip label="arrives" colours={light.delivered} />
          {light.cure && (
            <>
              <Strip label="fed twice" colours={light.cure.delivered} />
              <Button size="xs" minH="8" variant="outline" mt="1" loading={apply.isPending} onClick={() => apply.mutate(light.cure!.changes)}>
                {light.cure.title}
              </Button>
              <span className="quiet">
                {light.cure.seen_from == null
                  ? " Then no difference is seen."
                  : ` Then it is seen from pixel ${light.cure.seen_from} on, ${light.cure.difference.toFixed(1)} ΔE.`}
              </span>
            </>
          )}
        </Box>
      ))}
      {apply.error && (
        <Box role="alert" color="stop.fg">
          {problemOf(apply.error).detail}
        </Box>
      )}
    </>
  );
}

/** A piece as a row of its colours. */
function Strip({ label, colours }: { label: string; colours: readonly (readonly number[])[] }) {
  return (
    <Box display="flex" gap="2" alignItems="center" mt="1">
      <Box w="5rem" fontSize="xs" color="fg.muted">
        {label}
      </Box>
      <Box flex="1" display="flex" h="4" borderRadius="sm" overflow="hidden" aria-hidden>
        {colours.map((colour, at) => (
          <span key={at} style={{ flex: 1, background: lit(colour) }} />
        ))}
      </Box>
    </Box>
  );
}

const lit = (colour: readonly number[]) => `color(srgb-linear ${colour.join(" ")})`;

/** The show for other programs. */
function Files({ build, scene, show }: { build: Build; scene: string; show: ShowState }) {
  const [step] = useState(0.02);
  const period = show.view.data?.power.period_s ?? 0;
  const frames = Math.max(1, Math.min(4000, Math.ceil(period / step)));
  const body = { document: build, scene, inputs: show.inputs, step_s: step, frames };
  const text = (asked: Promise<unknown>) => asked as Promise<string>;
  const save = useMutation({
    mutationFn: async (what: "c" | "json" | "csv" | "map") => {
      switch (what) {
        case "c":
          saveFile("show.h", "text/x-c", await text(answer(api.POST("/api/v1/show/header", { body, parseAs: "text" }))));
          saveFile("show.c", "text/x-c", await text(answer(api.POST("/api/v1/show/source", { body, parseAs: "text" }))));
          break;
        case "json":
          saveFile(`${scene}.json`, "application/json", await text(answer(api.POST("/api/v1/show/json", { body, parseAs: "text" }))));
          break;
        case "csv":
          saveFile(`${scene}.csv`, "text/csv", await text(answer(api.POST("/api/v1/show/csv", { body, parseAs: "text" }))));
          break;
        case "map":
          saveFile("map.csv", "text/csv", await text(answer(api.POST("/api/v1/show/map", { body: { document: build }, parseAs: "text" }))));
      }
    },
  });
  const names = { c: "C for your board", json: "Frames (JSON)", csv: "Frames (CSV)", map: "Map of numbers (CSV)" } as const;
  return (
    <>
      <h3 className="chart-title">Save and send</h3>
      {save.error && (
        <Box role="alert" color="stop.fg">
          {problemOf(save.error).detail}
        </Box>
      )}
      <Box display="flex" gap="2" flexWrap="wrap">
        {(["c", "json", "csv", "map"] as const).map((what) => (
          <Button key={what} size="xs" minH="8" variant="outline" loading={save.isPending && save.variables === what} onClick={() => save.mutate(what)}>
            {names[what]}
          </Button>
        ))}
      </Box>
    </>
  );
}
