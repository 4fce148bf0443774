import { Box, Button } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { type ChangeEvent, type FormEvent, type ReactNode, useState } from "react";
import { type Build, type JournalEvent, answer, api, problemOf } from "../../api/client";
import { numberOf } from "../../document/useSolved";
import { eventAt, eventOf, here } from "../../journal/event";
import { holdPhoto, shrunk } from "../../journal/photos";
import { FileButton } from "../../ui/FileButton";
import { Card, StepHeading } from "../../ui/StepHeading";
import { toaster } from "../../base/toaster";
import { inOwn, parseQuantity, unitOf } from "../../units";
import type { Lived } from "./useLived";
import { vehicleOf } from "../../document/job";

interface Props {
  id: number;
  build: Build;
  lived: Lived;
  onTrouble: () => void;
}

type Kind = "ride" | "charge" | "reading" | "note";
const KINDS: readonly (readonly [Kind, string, string])[] = [
  ["ride", "Out", "An outing, as long as usual"],
  ["charge", "Charged", "From which voltage to which"],
  ["reading", "Measured", "What the battery shows"],
  ["note", "Note", "Words, and a picture"],
];

/** Writing it down: two taps, or a line as one would say it. */
export function JournalStep({ id, build, lived, onTrouble }: Props) {
  const [kind, setKind] = useState<Kind | null>(null);
  const { journal } = lived;
  const write = (event: JournalEvent) => {
    journal.append(event);
    setKind(null);
    toaster.create({ title: "Written down", type: "success", duration: 3000 });
  };
  return (
    <>
      <StepHeading title="Journal">What happened, in a tap or two. It says back when to charge, how the battery ages and what to look at.</StepHeading>
      {journal.held > 0 && (
        <Box role="status" color="fix.fg" fontSize="sm" mb="2">
          {journal.held === 1 ? "One entry waits" : `${journal.held} entries wait`} in this browser: the server is not answering.{" "}
          {journal.held === 1 ? "It is" : "They are"} sent when it does.
        </Box>
      )}
      <SayIt id={id} build={build} onWrite={write} />
      <Box role="group" aria-label="What happened" display="grid" gridTemplateColumns="1fr 1fr" gap="2" mb="3">
        {KINDS.map(([name, word, hint]) => (
          <Button
            key={name}
            variant={kind === name ? "solid" : "outline"}
            colorPalette={kind === name ? "lantern" : undefined}
            aria-expanded={kind === name}
            h="auto"
            minH="14"
            py="2"
            flexDirection="column"
            gap="0"
            onClick={() => setKind(kind === name ? null : name)}
          >
            <Box fontWeight="semibold">{word}</Box>
            <Box fontSize="2xs" fontWeight="normal" opacity={0.85} whiteSpace="normal">
              {hint}
            </Box>
          </Button>
        ))}
      </Box>
      {kind === "ride" && <RideForm build={build} usual={lived.view.data?.usual} onWrite={write} />}
      {kind === "charge" && <ChargeForm onWrite={write} />}
      {kind === "reading" && <ReadingForm build={build} onWrite={write} />}
      {kind === "note" && <NoteForm id={id} onWrite={write} />}
      <Box fontSize="sm" color="fg.muted">
        Something broke?{" "}
        <button type="button" className="link" onClick={onTrouble}>
          Find it with Trouble
        </button>
        , which writes the repair down, or say <i>mended tail plug: crimped anew</i>.
      </Box>
    </>
  );
}

/** What one may write; a craft flies. */
const examples = (build: Build) => [
  vehicleOf(build).flies ? "flew 8 min, 3 °C" : "ride 40 min, 3 °C",
  "charged 11.9 to 14.4, 6.2 Ah",
  "rest 12.6 V",
  "timer silicone 24 h",
  "replaced battery",
];

/** A line as one would say it; what is understood is shown before it is kept. */
function SayIt({ id, build, onWrite }: { id: number; build: Build; onWrite: (event: JournalEvent) => void }) {
  const [text, setText] = useState("");
  const [tried, setTried] = useState(false);
  const said = text.trim();
  const asked = useQuery({
    queryKey: ["said", id, numberOf(build), said],
    queryFn: async () => {
      try {
        return { understood: await answer(api.POST("/api/v1/journal/said", { body: { document: build, text: said, now: here() } })) };
      } catch (error) {
        return { refused: problemOf(error) };
      }
    },
    enabled: said !== "",
    staleTime: 30_000,
    gcTime: 10_000,
  });
  const understood = asked.data && "understood" in asked.data ? asked.data.understood : undefined;
  const fault = asked.data && "refused" in asked.data ? asked.data.refused?.errors?.[0] : undefined;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    setTried(true);
    if (!understood) return;
    onWrite(eventAt(understood.kind, understood.at, understood.data));
    setText("");
    setTried(false);
  };
  return (
    <form onSubmit={submit} className="card">
      <label>
        <Box as="span" fontWeight="semibold">
          Say what happened
        </Box>
        <Box display="flex" gap="2" mt="1">
          <input
            className="control"
            value={text}
            placeholder={examples(build)[0]}
            autoCapitalize="off"
            autoComplete="off"
            onChange={(event) => setText(event.target.value)}
          />
          <Button type="submit" size="sm" minH="9" colorPalette="lantern" disabled={said === ""}>
            Write
          </Button>
        </Box>
      </label>
      <Box minH="5" mt="1" fontSize="xs" aria-live="polite">
        {said === "" && (
          <Box color="fg.muted">
            as in{" "}
            {examples(build)
              .slice(1, 4)
              .map((example, index) => (
                <span key={example}>
                  {index > 0 && " · "}
                  <button type="button" className="link" onClick={() => setText(example)}>
                    {example}
                  </button>
                </span>
              ))}
          </Box>
        )}
        {said !== "" && understood && <Box color="good.fg">✓ {inOwn(understood.words)}</Box>}
        {said !== "" && fault && (
          <Box color={tried ? "stop.fg" : "fg.muted"}>
            {tried ? "✕ " : ""}
            {fault.problem}. {fault.remedy}.
          </Box>
        )}
      </Box>
    </form>
  );
}

interface FigureProps {
  label: string;
  unit: string;
  value: string;
  hint?: string;
  onChange: (text: string) => void;
}

/** A figure that may be left open. */
function Typed({ label, unit, value, hint, onChange }: FigureProps) {
  const wrong = value.trim() !== "" && parseQuantity(value, unitOf(unit)) === undefined;
  return (
    <label>
      <Box as="span" fontSize="xs" color="fg.muted">
        {label}
      </Box>
      <Box position="relative">
        <input
          className="control united"
          inputMode="text"
          value={value}
          placeholder={hint}
          aria-invalid={wrong || undefined}
          onChange={(event: ChangeEvent<HTMLInputElement>) => onChange(event.target.value)}
        />
        <Box as="span" aria-hidden position="absolute" right="2" top="1.5" color="fg.muted" fontSize="xs" pointerEvents="none">
          {unit}
        </Box>
      </Box>
      {wrong && (
        <Box as="span" role="alert" fontSize="xs" color="stop.fg">
          `{value}` is not a figure in {unit}
        </Box>
      )}
    </label>
  );
}

/** Texts of a form, and the figures in them; `null` where one cannot be read. */
function useTyped<K extends string>(units: Record<K, string>) {
  const [texts, setTexts] = useState<Partial<Record<K, string>>>({});
  const text = (key: K) => texts[key] ?? "";
  const put = (key: K) => (value: string) => setTexts((now) => ({ ...now, [key]: value }));
  const figures = (): Partial<Record<K, number>> | null => {
    const read: Partial<Record<K, number>> = {};
    for (const key of Object.keys(units) as K[]) {
      if (text(key).trim() === "") continue;
      const value = parseQuantity(text(key), unitOf(units[key]));
      if (value === undefined) return null;
      read[key] = value;
    }
    return read;
  };
  return { text, put, figures };
}

function Form({ title, onSubmit, ready, children }: { title: string; onSubmit: () => void; ready: boolean; children: ReactNode }) {
  return (
    <Card title={title}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onSubmit();
        }}
      >
        <Box display="grid" gridTemplateColumns="1fr 1fr" gap="2" mb="3">
          {children}
        </Box>
        <Button type="submit" size="sm" minH="10" w="full" colorPalette="lantern" disabled={!ready}>
          Write it down
        </Button>
      </form>
    </Card>
  );
}

const RIDE = { distance_km: "km", temperature_c: "°C", from_v: "V", to_v: "V" };

function RideForm({ build, usual, onWrite }: { build: Build; usual: Record<string, number> | undefined; onWrite: (event: JournalEvent) => void }) {
  const [minutes, setMinutes] = useState<Record<string, string>>({});
  const typed = useTyped(RIDE);
  const [more, setMore] = useState(false);
  const of = (scene: string) => minutes[scene] ?? (usual?.[scene] === undefined ? "" : String(usual[scene]));
  const read = build.scenes.map((scene) => [scene.id, of(scene.id).trim() === "" ? 0 : parseQuantity(of(scene.id), unitOf("min"))] as const);
  const lit = read.flatMap(([scene, value]) => (value !== undefined && value > 0 ? [[scene, value] as const] : []));
  const figures = typed.figures();
  const ready = lit.length > 0 && figures !== null && read.every(([, value]) => value !== undefined && value >= 0);
  return (
    <Form title="Out" ready={ready} onSubmit={() => ready && onWrite(eventOf("ride", { minutes: Object.fromEntries(lit), ...figures }))}>
      {build.scenes.map((scene) => (
        <Typed
          key={scene.id}
          label={scene.name || scene.id}
          unit="min"
          value={of(scene.id)}
          hint="0"
          onChange={(value) => setMinutes((now) => ({ ...now, [scene.id]: value }))}
        />
      ))}
      {more ? (
        <>
          <Typed label="How far" unit="km" value={typed.text("distance_km")} onChange={typed.put("distance_km")} />
          <Typed label="Outside" unit="°C" value={typed.text("temperature_c")} onChange={typed.put("temperature_c")} />
          <Typed label="Rested, before" unit="V" value={typed.text("from_v")} onChange={typed.put("from_v")} />
          <Typed label="Rested, after" unit="V" value={typed.text("to_v")} onChange={typed.put("to_v")} />
        </>
      ) : (
        <Button size="xs" minH="8" variant="ghost" gridColumn="1 / -1" justifySelf="start" onClick={() => setMore(true)}>
          Way, temperature, voltages …
        </Button>
      )}
    </Form>
  );
}

const CHARGE = { from_v: "V", to_v: "V", ah: "Ah", minutes: "min", temperature_c: "°C" };

function ChargeForm({ onWrite }: { onWrite: (event: JournalEvent) => void }) {
  const typed = useTyped(CHARGE);
  const figures = typed.figures();
  return (
    <Form title="Charged" ready={figures !== null} onSubmit={() => figures && onWrite(eventOf("charge", figures))}>
      <Typed label="From, rested" unit="V" value={typed.text("from_v")} onChange={typed.put("from_v")} />
      <Typed label="To" unit="V" value={typed.text("to_v")} onChange={typed.put("to_v")} />
      <Typed label="Put in" unit="Ah" value={typed.text("ah")} onChange={typed.put("ah")} />
      <Typed label="Took" unit="min" value={typed.text("minutes")} onChange={typed.put("minutes")} />
      <Typed label="Battery’s temperature" unit="°C" value={typed.text("temperature_c")} onChange={typed.put("temperature_c")} />
      <Box gridColumn="1 / -1" fontSize="xs" color="fg.muted">
        All may stay open: a charge without figures counts as full. A few with both voltages and the amp-hours tell what the battery still holds.
      </Box>
    </Form>
  );
}

const READING = { resting_v: "V", value: "V", temperature_c: "°C" };

function ReadingForm({ build, onWrite }: { build: Build; onWrite: (event: JournalEvent) => void }) {
  const typed = useTyped(READING);
  const [scene, setScene] = useState(build.scenes[0]?.id ?? "");
  const figures = typed.figures();
  const loaded = figures?.value !== undefined;
  return (
    <Form
      title="Measured"
      ready={figures?.resting_v !== undefined}
      onSubmit={() =>
        figures && onWrite(eventOf("reading", { ...figures, probes: ["source+", "source-"], quantity: "volts", unit: "V", ...(loaded ? { scene } : {}) }))
      }
    >
      <Typed label="At rest" unit="V" value={typed.text("resting_v")} onChange={typed.put("resting_v")} />
      <Typed label="Then with lights on" unit="V" value={typed.text("value")} onChange={typed.put("value")} />
      {build.scenes.length > 0 && (
        <label>
          <Box as="span" fontSize="xs" color="fg.muted">
            Lit then
          </Box>
          <select className="control" value={scene} onChange={(event) => setScene(event.target.value)}>
            {build.scenes.map((one) => (
              <option key={one.id} value={one.id}>
                {one.name || one.id}
              </option>
            ))}
          </select>
        </label>
      )}
      <Typed label="Battery’s temperature" unit="°C" value={typed.text("temperature_c")} onChange={typed.put("temperature_c")} />
      <Box gridColumn="1 / -1" fontSize="xs" color="fg.muted">
        At rest is an hour after charging or use. With lights on is what the same meter shows a few seconds after.
      </Box>
    </Form>
  );
}

function NoteForm({ id, onWrite }: { id: number; onWrite: (event: JournalEvent) => void }) {
  const [text, setText] = useState("");
  const [photo, setPhoto] = useState<string | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const take = (file: File) => {
    shrunk(file).then(
      (address) => {
        setPhoto(address);
        setFault(null);
      },
      (error: Error) => setFault(error.message),
    );
  };
  const submit = () => {
    const event = eventOf("note", { text: text.trim(), ...(photo ? { photo: "jpeg" } : {}) });
    if (!photo) return onWrite(event);
    holdPhoto(id, event.id, photo).then(
      () => onWrite(event),
      (error: Error) => setFault(error.message),
    );
  };
  return (
    <Form title="Note" ready={text.trim() !== "" || photo !== null} onSubmit={submit}>
      <Box as="label" gridColumn="1 / -1">
        <Box as="span" fontSize="xs" color="fg.muted">
          What is to be remembered
        </Box>
        <textarea className="control long" rows={3} maxLength={4000} value={text} onChange={(event) => setText(event.target.value)} />
      </Box>
      <Box gridColumn="1 / -1" display="flex" gap="2" alignItems="center">
        <FileButton label="Picture" accept="image/jpeg,image/png,image/webp" onFile={take}>
          {photo ? "Another picture" : "Add a picture"}
        </FileButton>
        {photo && <img src={photo} alt="Chosen" style={{ height: "4rem", borderRadius: "4px" }} />}
      </Box>
      {fault && (
        <Box gridColumn="1 / -1" role="alert" color="stop.fg" fontSize="sm">
          {fault}
        </Box>
      )}
    </Form>
  );
}
