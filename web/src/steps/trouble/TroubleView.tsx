import { Box, Button } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type Dispatch, type FormEvent, type SetStateAction, useMemo, useState } from "react";
import { type Build, type Diagnosis, type NextCheck, type Picture, type SourceState, answer, api, problemOf } from "../../api/client";
import { useJournal } from "../../journal/journal";
import { numberOf } from "../../document/useSolved";
import { here } from "../../journal/event";
import { Vehicle } from "../../scene/Vehicle";
import { Prose } from "../../ui/Prose";
import { parseQuantity, say, share, unitOf, inOwn } from "../../units";
import { capital } from "../../document/fields";
import { LOOKS, type Known, type Look } from "./known";

interface Props {
  id: number;
  build: Build;
  scene: string;
  state: SourceState;
  known: Known;
  onKnown: Dispatch<SetStateAction<Known>>;
  onSelect: (id: string | null) => void;
}

/** What a click on a light makes of what was said of it. */
const TURNS: readonly (Look | null)[] = [null, "dark", "dim", "part", "fine"];
const turned = (saw: Known["saw"], light: string): Known["saw"] => {
  const before = saw.find((one) => one.light === light)?.symptom ?? null;
  const next = TURNS[(TURNS.indexOf(before as Look | null) + 1) % TURNS.length];
  const others = saw.filter((one) => one.light !== light);
  return next ? [...others, { light, symptom: next, from: null }] : others;
};

/** How much of its light is drawn of one that is said to look so. */
const DRAWN: Record<string, number> = { dark: 0, dim: 0.3, part: 0.6 };

/** The lights as they look, who is suspected, and what to check next. */
export function TroubleView({ picture, selected, ...asked }: Props & { picture: Picture | null; selected: string | null }) {
  const { build, scene, known, onKnown, onSelect } = asked;
  const looking = useMemo(() => {
    const saw = new Map(known.saw.map((one) => [one.light, DRAWN[one.symptom] ?? 1]));
    return picture && { ...picture, glows: picture.glows.map((glow) => ({ ...glow, output: glow.output * (saw.get(glow.id) ?? 1) })) };
  }, [picture, known.saw]);
  return (
    <Box display="grid" gap="4">
      <Box borderRadius="md" overflow="hidden" borderWidth="1px" display="flex" h="20rem">
        <Vehicle
          kind={build.vehicle.kind}
          variant={build.vehicle.variant}
          picture={looking}
          selected={selected}
          hint="click a light until it looks as yours does: dark, dim, dark in part, fine"
          onSelect={(id) => {
            onSelect(id);
            const lit = build.scenes.find((one) => one.id === scene)?.lights[id];
            if ((lit?.level ?? 0) > 0) onKnown((now) => ({ ...now, saw: turned(now.saw, id) }));
          }}
          place={null}
          blink={false}
        />
      </Box>
      <Suspected {...asked} />
    </Box>
  );
}

/** Who is suspected, and what to check next. */
function Suspected({ id, build, scene, state, known, onKnown, onSelect }: Props) {
  const { proven, settled } = useProven(id, build);
  const { saw, read, pairs } = known;
  const failed = proven?.failed ?? [];
  const worked = known.worked ? build.lights.map((light) => light.id) : known.worked === false ? [] : (proven?.worked ?? []);
  const asked = useQuery({
    queryKey: ["diagnose", numberOf(build), scene, state, saw, read, pairs, failed, worked],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/diagnose", { body: { document: build, scene, state, saw, read, pairs, failed, worked }, signal })),
    enabled: scene !== "" && settled,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 20_000,
  });
  const journal = useJournal(id, "fault");
  const [written, setWritten] = useState(false);
  if (asked.error)
    return (
      <Box role="alert" color="stop.fg">
        <Prose text={problemOf(asked.error).detail} />
      </Box>
    );
  if (!asked.data) return <p className="quiet">Trying every fault this build can have …</p>;
  const found = asked.data;
  const first = found.suspects[0];
  const nothing = known.saw.length === 0 && known.read.length === 0;
  const next = (saw?: Known["saw"][number], read?: Known["read"][number]) => {
    setWritten(false);
    onKnown({
      ...known,
      saw: saw ? [...known.saw, saw] : known.saw,
      read: read ? [...known.read, read] : known.read,
      places: read ? { ...known.places, [read.probes.join()]: found.next?.places.join(" and ") ?? "" } : known.places,
    });
  };
  // An answer to a check of a moment ago would be one to another question.
  const stale = asked.isPlaceholderData;
  return (
    <Box display="grid" gap="4" aria-busy={stale} inert={stale} opacity={stale ? 0.6 : 1}>
      {found.first && (
        <Box role="alert" className="card" bg="stop.bg" borderColor="stop.solid" borderWidth="3px" fontWeight="semibold">
          {found.first}
        </Box>
      )}
      {found.unexplained && (
        <Box role="status" className="card" borderColor="fix.solid" color="fix.fg" fontWeight="semibold">
          ! {found.unexplained}
        </Box>
      )}
      {nothing && <Box color="fg.muted">Say what you see, light by light. Then one check after the other narrows it down.</Box>}
      {!nothing && found.found && first && (
        <Box as="section" aria-label="Found" className="card" borderColor="good.solid">
          <Box as="h2" fontSize="xl" fontWeight="bold" color={first.fault === "none" ? "good.fg" : "lantern.fg"}>
            {capital(first.words)}
          </Box>
          <Box color="fg.muted" mb="2">
            {share(first.share)} sure, of {found.hypotheses} things that can be wrong
          </Box>
          <Box mb="3">{first.repair}</Box>
          {first.like.length > 0 && (
            <Box fontSize="sm" color="fg.muted" mb="3">
              No check here tells it from these:
              <Box as="ul" pl="4">
                {first.like_words.map((words) => (
                  <li key={words}>{words}</li>
                ))}
              </Box>
            </Box>
          )}
          <Button
            size="sm"
            minH="9"
            colorPalette="lantern"
            disabled={written}
            onClick={() => {
              journal.write({
                symptom: known.saw.map((saw) => `${saw.light ?? "build"}: ${saw.symptom}`).join(", "),
                was: first.fault,
                words: first.words,
                mended: first.repair,
              });
              setWritten(true);
            }}
          >
            {written ? "In the journal" : "It was this: write it down"}
          </Button>
          <Past events={journal.events.map((event) => event.data as { was?: string })} fault={first.fault} />
        </Box>
      )}
      {!nothing && !found.found && found.next && (
        <NextCard key={found.next.probes.join()} next={found.next} found={found} build={build} onSelect={onSelect} onAnswer={next} />
      )}
      {!nothing && !found.found && !found.next && (
        <Box className="card">
          <b>No further check tells these apart.</b> Mend the likeliest first, then look again.
        </Box>
      )}
      {known.read.length > 0 && (
        <label className="tick">
          <input type="checkbox" checked={known.pairs} onChange={() => onKnown({ ...known, pairs: !known.pairs })} />
          There may be two faults at once
        </label>
      )}
      {!nothing && (
        <Box as="section" aria-label="Suspects">
          <Box as="h3" color="fg.muted" mb="1">
            Suspects
          </Box>
          <Box as="ol" listStyleType="none">
            {found.suspects.map((suspect) => (
              <Box as="li" key={suspect.fault} display="grid" gridTemplateColumns="3.2rem 1fr" gap="3" py="1.5" borderTopWidth="1px" alignItems="center">
                <Box textAlign="right" fontWeight="semibold" fontVariantNumeric="tabular-nums">
                  {share(suspect.share)}
                </Box>
                <Box>
                  {inOwn(suspect.words)}
                  {failed.includes(suspect.fault) && (
                    <Box as="span" color="fix.fg" fontSize="sm">
                      {" "}
                      · it was this before
                    </Box>
                  )}
                  {suspect.like.length > 0 && (
                    <Box as="span" color="fg.muted" fontSize="sm">
                      {" "}
                      and {suspect.like.length} similar {suspect.like.length === 1 ? "cause" : "causes"}
                    </Box>
                  )}
                  <Box h="1.5" borderRadius="sm" bg="bg.muted" mt="1">
                    <Box h="full" borderRadius="sm" bg="lantern.solid" style={{ width: `${Math.max(1, 100 * suspect.share)}%` }} />
                  </Box>
                </Box>
              </Box>
            ))}
          </Box>
        </Box>
      )}
      {known.read.length > 0 && (
        <Box as="section" aria-label="Read so far">
          <Box as="h3" color="fg.muted" mb="1">
            Read so far
          </Box>
          <Box as="ul" listStyleType="none">
            {known.read.map((read, index) => (
              <Box as="li" key={`${read.probes.join()} ${index}`} display="flex" gap="3" alignItems="center" py="1" borderTopWidth="1px">
                <Box flex="1">{known.places[read.probes.join()] ?? read.probes.join(" and ")}</Box>
                <b>{figure(read.value, UNITS[read.setting])}</b>
                <Button
                  size="xs"
                  minH="8"
                  variant="ghost"
                  aria-label={`Take back: ${known.places[read.probes.join()] ?? read.probes.join(" and ")}`}
                  onClick={() => onKnown({ ...known, read: known.read.filter((_, at) => at !== index) })}
                >
                  ✕
                </Button>
              </Box>
            ))}
          </Box>
        </Box>
      )}
    </Box>
  );
}

const UNITS = { volts: "V", diode: "V", amps: "A", clamp: "A", ohms: "ohm", watch: "s", look: "1" };

const figure = (value: number | null | undefined, unit: string) => (value === null || value === undefined ? "open" : say({ value, unit }));

/** What the journal says of what failed and what worked; nothing is known until it is read. */
export function useProven(id: number, build: Build) {
  const { events, ready } = useJournal(id);
  const asked = useQuery({
    queryKey: ["proven", numberOf(build), numberOf(events)],
    queryFn: () => answer(api.POST("/api/v1/journal/proven", { body: { document: build, events, now: here() } })),
    enabled: ready,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 20_000,
  });
  return { proven: asked.data, settled: !asked.isPending };
}

/** The same fault before: a joint that fails twice wants another joint. */
function Past({ events, fault }: { events: readonly { was?: string }[]; fault: string }) {
  const before = events.filter((event) => event.was === fault).length;
  if (before < 2) return null;
  return (
    <Box role="status" mt="3" color="fix.fg" fontWeight="semibold">
      ! This is the {before === 2 ? "second" : `${before}th`} time. Make it another way: solder and sleeve it, or take the strain off it.
    </Box>
  );
}

interface NextProps {
  next: NextCheck;
  found: Diagnosis;
  build: Build;
  onSelect: (id: string | null) => void;
  onAnswer: (saw?: Known["saw"][number], read?: Known["read"][number]) => void;
}

/** One check: how it is done, what it would mean, and room for what it shows. */
function NextCard({ next, found, onSelect, onAnswer }: NextProps) {
  const [text, setText] = useState("");
  const [fault, setFault] = useState<string | null>(null);
  const look = next.setting === "look";
  // The first sentence says what to do; each probe has a line of its own.
  const [first, rest] = /^(.*?\.) (Red probe: .*)$/.exec(next.how)?.slice(1) ?? [next.how];
  const canBeOpen = next.setting === "ohms" || next.setting === "diode";
  const show = (value: number | null | undefined) => (look ? share(value ?? 0) : figure(value, next.unit));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const value = parseQuantity(text, unitOf(next.unit));
    if (value === undefined) return setFault(`Type what the meter shows, as in ${show(next.plan)}`);
    onAnswer(undefined, { setting: next.setting, probes: next.probes, value });
  };
  return (
    <Box as="section" aria-label="Next check" className="card on" data-probes={next.probes.join(" ")}>
      <Box color="fg.muted" fontSize="sm">
        Check this next · about {next.work_s < 60 ? `${next.work_s} s` : "a minute"}
      </Box>
      <Box as="h2" fontSize="lg" fontWeight="semibold" mb="1">
        {first}
      </Box>
      {rest && (
        <Box mb="2" whiteSpace="pre-line">
          {rest.replace(" Black probe", "\nBlack probe")}
        </Box>
      )}
      {look ? (
        <Box display="flex" flexWrap="wrap" gap="2" mb="3">
          {LOOKS.map(([symptom, word]) => (
            <Button
              key={symptom}
              size="sm"
              minH="10"
              variant="outline"
              onClick={() => onAnswer({ light: next.probes[0]!, symptom: symptom as Look, from: null })}
            >
              {word}
            </Button>
          ))}
        </Box>
      ) : (
        <form onSubmit={submit}>
          <Box display="flex" gap="2" mb="3" maxW="20rem">
            <input
              className="control"
              inputMode="decimal"
              autoFocus
              aria-label="What the meter shows"
              placeholder={next.unit}
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
            <Button type="submit" size="sm" minH="9" colorPalette="lantern" disabled={text.trim() === ""}>
              That is it
            </Button>
            {canBeOpen && (
              <Button size="sm" minH="9" variant="outline" onClick={() => onAnswer(undefined, { setting: next.setting, probes: next.probes, value: null })}>
                Open
              </Button>
            )}
          </Box>
          {fault && (
            <Box role="alert" color="stop.fg" mb="2">
              {fault}
            </Box>
          )}
        </form>
      )}
      <Box as="table" className="data">
        <caption>What each answer would mean</caption>
        <tbody>
          <tr>
            <th scope="row">as planned</th>
            <td>{show(next.plan)}</td>
          </tr>
          {found.suspects
            .filter((suspect) => suspect.fault in next.expected)
            .map((suspect) => (
              <tr key={suspect.fault}>
                <th scope="row">
                  <button type="button" onClick={() => onSelect(suspect.fault.split("@")[1]?.replace(/[:/=.@].*$/, "") ?? null)}>
                    {inOwn(suspect.words)}
                  </button>
                </th>
                <td>{show(next.expected[suspect.fault])}</td>
              </tr>
            ))}
        </tbody>
      </Box>
      <Box color="fg.muted" fontSize="xs" mt="2">
        {canBeOpen
          ? "With the battery disconnected; a live circuit spoils the reading. Lithium packs: cover what you do not work on."
          : "With the power on touch with probes only, one hand at a time; never bridge a fuse."}
      </Box>
    </Box>
  );
}
