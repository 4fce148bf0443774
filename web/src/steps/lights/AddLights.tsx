import { Box, Button } from "@chakra-ui/react";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type Wish, type Build, type Part, answer, api, problemOf } from "../../api/client";
import { useParts, useReference } from "../../api/reference";
import { fieldOf } from "../../document/fields";
import { JOB, type LightForm, supplierName, suppliersOf } from "../../document/job";
import { numberOf } from "../../document/useSolved";
import { Like } from "../../job/Field";
import { Choice, FieldGrid, TextField } from "../../job/fields";
import { Segments } from "../../ui/Segments";
import { of, read, ruler, say } from "../../units";
import { kept } from "../../base/kept";
import { Card } from "../../ui/StepHeading";
import type { EditorProps } from "../../document/editor";
import { formOf } from "../../scene/outlines";

/** Whether a part of the drawer is a light of this kind. */
const fits = (part: Part, { what, load }: LightForm): boolean =>
  part.what.kind === what && (load === null || ("load" in part.what && part.what.load.kind === load));

/** What was added last is added again most often. */
const LAST = "orthavis.last-light";
const lastForm = () => JOB.lights.find((one) => one.kind === kept.get(LAST)) ?? JOB.lights[0]!;

const LED = fieldOf("Led.colour").suggests ?? [];

/** The parts drawer: what it is, how much of it, where. The core finds a supply that fits. */
export function AddLights({ build, replace, onSelect, place: asked, onPlace }: EditorProps) {
  const places = formOf(build.vehicle).places;
  const suppliers = suppliersOf(build);
  const all = useParts(build.parts);
  const shipped = useReference()?.parts ?? [];
  const [form, setForm] = useState(lastForm);
  const [chosen, setChosen] = useState<string | null>(null);
  const [count, setCount] = useState(6);
  const [piece, setPiece] = useState(0.5);
  const [own, setPlace] = useState<string | null>(null);
  const [from, setFrom] = useState("");
  const [typed, setLength] = useState<number | null>(null);
  const [sheet, setSheet] = useState(false);
  const place = own ?? asked ?? places[1]?.name ?? "";
  // Measured by string at Places, else a metre.
  const length = typed ?? build.places?.find((known) => known.name === place)?.string_m ?? 1;
  const parts = all.filter((part) => fits(part, form));
  const part = parts.find((known) => known.id === chosen) ?? parts.find((known) => known.id === "led-5mm-red") ?? parts[0];
  const wish: Wish | undefined = part && {
    kind: "light",
    part,
    place,
    from: from || null,
    length_m: length,
    count: form.counted ? count : null,
    piece_m: form.cut ? piece : null,
  };
  const add = useMutation({
    mutationFn: () => {
      if (!wish) throw new Error("Choose a part first.");
      return answer(api.POST("/api/v1/add", { body: { document: build, part: wish } }));
    },
    onSuccess: (document) => {
      // A part of the person's own travels with the build.
      const mine = part !== undefined && !shipped.some((known) => known.id === part.id) && !document.parts?.some((known) => known.id === part.id);
      replace(mine ? { ...document, parts: [...(document.parts ?? []), part] } : document);
      onSelect(document.lights.at(-1)?.id ?? null);
      onPlace(null);
      setPlace(null);
      setLength(null);
    },
  });
  return (
    <Card title="Add a light">
      <Segments
        quiet
        stacked
        label="Kind"
        value={form.kind}
        options={JOB.lights.map((one) => [one.kind, one.called] as const)}
        onChange={(kind) => {
          kept.set(LAST, kind);
          setForm(lastForm());
        }}
      />
      <Box mt="3">
        <Choice label="Part" value={part?.id ?? ""} options={parts.map((known) => [known.id, known.name] as const)} onChange={setChosen} />
        {part && (
          <Box fontSize="xs" color="fg.muted" mt="1">
            {describe(part)}
          </Box>
        )}
      </Box>
      <Box mt="3">
        <FieldGrid>
          {form.counted && <Like field="LedArray.series" label="How many" value={count} onChange={(v) => setCount(v!)} />}
          {form.cut && <Like field="Strip.length_m" label="Measured length" hint="cut to whole segments" value={piece} onChange={(v) => setPiece(v!)} />}
          <TextField label="Place" value={place} suggestions={places.map((known) => known.name)} onChange={setPlace} />
          <Like field="Feed.length_m" label="Wire length, one way" value={length} onChange={(v) => setLength(v!)} />
          <Choice
            label="Powered from"
            value={suppliers.includes(from) ? from : ""}
            options={[["", "choose for me"], ...suppliers.map((supplier) => [supplier, supplierName(build, supplier)] as const)]}
            onChange={setFrom}
          />
        </FieldGrid>
      </Box>
      {wish && <Arriving build={build} wish={wish} />}
      {add.error && (
        <Box role="alert" mt="2" color="stop.fg">
          {problemOf(add.error).detail}
        </Box>
      )}
      <Box display="flex" flexWrap="wrap" gap="2" mt="3">
        <Button size="sm" colorPalette="lantern" disabled={!part} loading={add.isPending} onClick={() => add.mutate()}>
          Add it
        </Button>
        {form.counted && (
          <Button size="sm" variant="ghost" aria-expanded={sheet} onClick={() => setSheet(!sheet)}>
            I have a datasheet
          </Button>
        )}
      </Box>
      {sheet && form.counted && (
        <Datasheet
          onKept={(id) => {
            setChosen(id);
            setSheet(false);
          }}
        />
      )}
      {form.counted && (
        <Box mt="2" fontSize="xs" color="fg.muted">
          We pick resistors that run the LEDs at ¾ of their rated current: nearly as bright, and they last longer.
        </Box>
      )}
    </Card>
  );
}

/** What would come with it, and what it asks, before it is added. */
function Arriving({ build, wish }: { build: Build; wish: Wish }) {
  const asked = useQuery({
    queryKey: ["adding", numberOf(build), wish],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/adding", { body: { document: build, part: wish }, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
    retry: false,
  });
  if (asked.error)
    return (
      <Box mt="2" fontSize="sm" color="fix.fg">
        {problemOf(asked.error).detail}
      </Box>
    );
  if (!asked.data) return null;
  const { parts, source_a, eur, minutes } = asked.data;
  return (
    <Box mt="3" fontSize="sm" role="group" aria-label="What comes with it">
      <Box as="ul" listStyleType="none">
        {parts.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </Box>
      <Box color="fg.muted" fontSize="xs" mt="1">
        {source_a !== null && source_a !== undefined && `takes up to ${say({ value: source_a, unit: "A" })} more · `}
        about {say({ value: eur, unit: "€" })} and {5 * Math.ceil(minutes / 5)} min of work
      </Box>
    </Box>
  );
}

function describe(part: Part): string {
  const { what } = part;
  if (what.kind === "led") return `${read(of(what.led, "vf_v"))} at ${read(of(what.led, "if_a"))}, at most ${read(of(what.led, "if_max_a"))}`;
  if (what.kind === "bulb" && what.load.kind === "module") return `${read(of(what.load, "power_w"))}, ${read(of(what, "lumens"))}, ${what.holder}`;
  if (what.kind !== "light") return part.figures_from;
  const { load } = what;
  if (load.kind === "strip") return `${read(of(load, "voltage_v"))}, ${read(of(load, "power_w_per_m"))}, marks every ${ruler(of(load, "segment_m"))}`;
  if (load.kind === "pixels") return `${read(of(load, "voltage_v"))}, a pixel every ${ruler(of(load, "pitch_m"))}`;
  return load.kind === "module" ? `${read(of(load, "power_w"))}, ${read(of(load, "min_v"))} to ${read(of(load, "max_v"))}` : "";
}

/** An LED by its datasheet, kept among the person's own parts. */
function Datasheet({ onKept }: { onKept: (id: string) => void }) {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const [colour, setColour] = useState<string>("white");
  const [vf, setVf] = useState(3.1);
  const [rated, setRated] = useState(0.02);
  const [most, setMost] = useState(0.03);
  const keep = useMutation({
    mutationFn: () => {
      const title = name.trim() || `${colour} LED, ${vf} V`;
      const id = `own-${title.toLowerCase().replace(/[^a-z0-9]+/g, "-")}`;
      const part: Part = {
        id,
        name: title,
        figures_from: "Entered from a datasheet",
        what: { kind: "led", led: { colour, vf_v: vf, if_a: rated, if_max_a: most, n: null, rs_ohm: null } },
      };
      return answer(api.PUT("/api/v1/parts/{id}", { params: { path: { id } }, body: part }));
    },
    onSuccess: (part) => {
      void client.invalidateQueries({ queryKey: ["parts"] });
      onKept(part.id);
    },
  });
  return (
    <Box mt="3" borderTopWidth="1px" pt="3">
      <FieldGrid>
        <TextField label="Name" value={name} placeholder="as you will look for it" onChange={setName} />
        <Choice label="Colour" value={colour} options={LED.map((word) => [word, word] as const)} onChange={setColour} />
        <Like field="Led.vf_v" value={vf} onChange={(v) => setVf(v!)} />
        <Like field="Led.if_a" value={rated} onChange={(v) => setRated(v!)} />
        <Like field="Led.if_max_a" value={most} onChange={(v) => setMost(v!)} />
      </FieldGrid>
      <Button mt="3" size="sm" variant="outline" loading={keep.isPending} onClick={() => keep.mutate()}>
        Keep it among my parts
      </Button>
      {keep.error && (
        <Box role="alert" mt="2" color="stop.fg">
          {problemOf(keep.error).detail}
        </Box>
      )}
    </Box>
  );
}
