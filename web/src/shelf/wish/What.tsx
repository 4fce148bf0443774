import { Box, Button, chakra } from "@chakra-ui/react";
import { Body, Icon } from "../../scene/Body";
import { KINDS, formOf, useViews, vehicle as sheetOf } from "../../scene/outlines";
import { ink, lightColour } from "../../theme";
import { Segments } from "../../ui/Segments";
import { capital, wordsOf } from "../../document/fields";
import { JOB } from "../../document/job";
import type { Told, WishedLight } from "./wish";

interface Props {
  told: Told;
  onTold: (next: Told) => void;
}

/** Which vehicle, where light should be, and what for. */
export function What({ told, onTold }: Props) {
  const forms = sheetOf(told.kind).variants;
  const put = (at: number, change: Partial<WishedLight>) =>
    onTold({ ...told, lights: told.lights.map((one, index) => (index === at ? { ...one, ...change } : one)) });
  const add = (place: string) => onTold({ ...told, lights: [...told.lights, { place, ...JOB.likely[place]!, length_m: null, count: 1 }] });
  return (
    <>
      <Box role="radiogroup" aria-label="Vehicle" display="grid" gridTemplateColumns="repeat(auto-fill, minmax(6.5rem, 1fr))" gap="2" mb="3">
        {KINDS.map((kind) => (
          <Box
            as="label"
            key={kind}
            cursor="pointer"
            borderWidth="2px"
            borderColor={kind === told.kind ? "lantern.solid" : "border"}
            borderRadius="md"
            p="2"
            fontSize="xs"
            textAlign="center"
            _focusWithin={{ outline: "2px solid", outlineColor: "lantern.focusRing", outlineOffset: "2px" }}
          >
            <input
              type="radio"
              name="vehicle"
              style={{ position: "absolute", opacity: 0, width: 1, height: 1 }}
              checked={kind === told.kind}
              onChange={() => onTold({ ...told, kind, variant: formOf({ kind }).id, lights: [] })}
            />
            <Icon kind={kind} variant={kind === told.kind ? told.variant : undefined} height="2.8rem" />
            {sheetOf(kind).name}
          </Box>
        ))}
      </Box>
      {forms.length > 1 && (
        <Box mb="3">
          <Segments
            quiet
            label="Form"
            value={told.variant}
            options={forms.map((form) => [form.id, form.name] as const)}
            onChange={(variant) => onTold({ ...told, variant, lights: [] })}
          />
        </Box>
      )}
      <Places told={told} onPlace={add} />
      {told.lights.length === 0 && <Box color="fg.muted">No light yet: click a place on the drawing, or choose one by its name below it.</Box>}
      <Box as="ul" listStyleType="none" display="grid" gap="2">
        {told.lights.map((light, index) => (
          <Box as="li" key={index} borderWidth="1px" borderRadius="md" p="3" bg="bg.panel" display="flex" flexWrap="wrap" gap="3" alignItems="end">
            <Box fontWeight="semibold" minW="8rem">
              {light.place}
            </Box>
            <Pick
              label="What for"
              value={light.for}
              options={wordsOf("Purpose").map(([word, called]) => [word, capital(called)] as const)}
              onChange={(word) => put(index, { for: word as WishedLight["for"] })}
            />
            {light.for !== "show" && (
              <Pick
                label="Colour"
                value={light.colour}
                options={JOB.colours.map((name) => [name, name] as const)}
                onChange={(colour) => put(index, { colour })}
              />
            )}
            <Length light={light} onLength={(length_m) => put(index, { length_m })} />
            <Pick
              label="How many"
              value={String(light.count)}
              options={[1, 2, 3, 4].map((count) => [String(count), String(count)] as const)}
              onChange={(count) => put(index, { count: Number(count) })}
            />
            <Button size="sm" variant="ghost" ml="auto" onClick={() => onTold({ ...told, lights: told.lights.filter((_, at) => at !== index) })}>
              Delete
            </Button>
          </Box>
        ))}
      </Box>
    </>
  );
}

/** A light is a point, or a row of so many metres. */
function Length({ light, onLength }: { light: WishedLight; onLength: (length: number | null) => void }) {
  return (
    <label>
      <Box as="span" display="block" fontSize="xs" color="fg.muted">
        Length of a row, cm
      </Box>
      <input
        className="control"
        type="number"
        placeholder="a single lamp"
        min={1}
        max={1000}
        value={light.length_m === null ? "" : Math.round(100 * light.length_m)}
        onChange={(event) => onLength(event.target.value === "" ? null : Number(event.target.value) / 100)}
      />
    </label>
  );
}

function Pick({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: string;
  options: readonly (readonly [string, string])[];
  onChange: (word: string) => void;
}) {
  return (
    <label>
      <Box as="span" display="block" fontSize="xs" color="fg.muted">
        {label}
      </Box>
      <chakra.select className="control" value={value} onChange={(event) => onChange(event.target.value)}>
        {options.map(([word, name]) => (
          <option key={word} value={word}>
            {name}
          </option>
        ))}
      </chakra.select>
    </label>
  );
}

/** The vehicle as large as there is room, its places to touch; what is lit shines. */
function Places({ told, onPlace }: { told: Told; onPlace: (place: string) => void }) {
  const views = useViews(told);
  const [view] = views;
  if (!view) return <Box className="dark" bg="bg" h="18rem" borderRadius="md" mb="3" />;
  const lit = (name: string) => told.lights.find((light) => light.place === name);
  return (
    <Box className="dark" bg="bg" color="fg" borderRadius="md" mb="3" p="2">
      <svg viewBox="-20 -6 600 312" role="group" aria-label={view.title} style={{ display: "block", width: "100%", maxHeight: "22rem" }}>
        <Body view={view} />
        {view.places.map((place) => {
          const light = lit(place.name);
          const colour = light && lightColour(light.for === "show" ? "violet" : light.colour);
          return (
            <g key={place.name} aria-hidden style={{ cursor: "pointer" }} onClick={() => onPlace(place.name)}>
              {colour && <circle cx={place.x} cy={place.y} r="26" fill={colour} opacity="0.25" />}
              <circle cx={place.x} cy={place.y} r="17" fill="transparent" />
              <circle
                cx={place.x}
                cy={place.y}
                r="9"
                fill={colour ?? ink.ground}
                stroke={ink.accent}
                strokeWidth="1.6"
                strokeDasharray={colour ? undefined : "3 3"}
              />
              {!colour && <path d={`M${place.x - 4} ${place.y}h8M${place.x} ${place.y - 4}v8`} stroke={ink.accent} strokeWidth="1.6" />}
            </g>
          );
        })}
      </svg>
      <Box role="group" aria-label="Places" display="flex" flexWrap="wrap" gap="1" mt="2">
        {formOf(told).places.map((place) => (
          <Button key={place.name} size="xs" minH="8" variant="outline" onClick={() => onPlace(place.name)}>
            {`+ ${place.name}`}
          </Button>
        ))}
      </Box>
    </Box>
  );
}
