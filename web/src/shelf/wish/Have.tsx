import { Box, Button, chakra } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { answer, api, problemOf } from "../../api/client";
import { capital, wordsOf } from "../../document/fields";
import { formOf } from "../../scene/outlines";
import type { Hands } from "../../api/client";
import type { Supply, Told } from "./wish";

/** What each asks of a person. */
const ASKS: Record<Hands, string> = {
  plug: "Wires go into clamps by hand; nothing is pressed or melted.",
  crimp: "Connectors are pressed onto wires with pliers.",
  solder: "Wires are joined with an iron: everything can be built.",
};

interface Props {
  told: Told;
  onTold: (next: Told) => void;
}

/** What gives the power, for how long, and what hands can do. */
export function Have({ told, onTold }: Props) {
  const usual = formOf(told).battery;
  const chemistry = wordsOf("Chemistry").find(([word]) => word === usual.chemistry)?.[1] ?? usual.chemistry;
  const supply = (next: Supply) => onTold({ ...told, supply: next });
  const ways: readonly (readonly [Supply["by"], string, string])[] = [
    ["usual", "The battery that such a vehicle usually has", `${capital(chemistry)}, ${usual.series} cells in a row, ${usual.capacity_ah} Ah`],
    ["label", "What is printed on my battery", "Type it as it stands there"],
    ["own", "A pack of their own", "The vehicle's battery is not touched"],
  ];
  return (
    <Box display="grid" gap="6">
      <Radios
        label="Where does the power come from?"
        value={told.supply.by}
        options={ways}
        onChange={(by) => supply(by === "label" ? { by, text: "", source: null } : { by })}
      />
      {told.supply.by === "label" && <Label supply={told.supply} onSupply={supply} />}
      <label>
        <Box as="span" fontWeight="semibold">
          How long on a charge? {told.hours} h
        </Box>
        <Box as="span" color="fg.muted" fontSize="sm">
          {" "}
          with every light on
        </Box>
        <input
          type="range"
          min={0.5}
          max={24}
          step={0.5}
          value={told.hours}
          aria-valuetext={`${told.hours} hours`}
          style={{ width: "100%", minHeight: "2rem" }}
          onChange={(event) => onTold({ ...told, hours: Number(event.target.value) })}
        />
      </label>
      <Radios
        label="What can and do you want to do?"
        value={told.hands}
        options={wordsOf("Hands").map(([word, called]) => [word as Hands, capital(called), ASKS[word as Hands]] as const)}
        onChange={(hands) => onTold({ ...told, hands })}
      />
      <Box display="flex" gap="4" flexWrap="wrap">
        <Most label="At most, EUR" nothing="whatever it takes" value={told.most_cost} onChange={(most_cost) => onTold({ ...told, most_cost })} />
        <Most label="At most, grams" nothing="whatever it weighs" value={told.most_mass_g} onChange={(most_mass_g) => onTold({ ...told, most_mass_g })} />
      </Box>
    </Box>
  );
}

function Most({ label, nothing, value, onChange }: { label: string; nothing: string; value: number | null; onChange: (value: number | null) => void }) {
  return (
    <label>
      <Box as="span" display="block" fontSize="xs" color="fg.muted">
        {label}
      </Box>
      <input
        className="control"
        type="number"
        placeholder={nothing}
        min={0}
        value={value ?? ""}
        onChange={(event) => onChange(event.target.value === "" ? null : Math.max(0, Number(event.target.value)))}
      />
    </label>
  );
}

interface RadiosProps<T extends string> {
  label: string;
  value: T;
  options: readonly (readonly [T, string, string])[];
  onChange: (value: T) => void;
}

function Radios<T extends string>({ label, value, options, onChange }: RadiosProps<T>) {
  return (
    <Box as="fieldset" border="0" p="0">
      <Box as="legend" fontWeight="semibold" mb="2">
        {label}
      </Box>
      <Box display="grid" gridTemplateColumns="repeat(auto-fit, minmax(13rem, 1fr))" gap="2">
        {options.map(([word, name, about]) => (
          <chakra.label
            key={word}
            cursor="pointer"
            borderWidth="2px"
            borderColor={word === value ? "lantern.solid" : "border"}
            borderRadius="md"
            p="3"
            _focusWithin={{ outline: "2px solid", outlineColor: "lantern.focusRing", outlineOffset: "2px" }}
          >
            <input type="radio" name={label} checked={word === value} onChange={() => onChange(word)} style={{ marginRight: "0.5rem" }} />
            <b>{name}</b>
            <Box fontSize="sm" color="fg.muted">
              {about}
            </Box>
          </chakra.label>
        ))}
      </Box>
    </Box>
  );
}

/** A label as it is printed; what it leaves open is asked before one goes on. */
function Label({ supply, onSupply }: { supply: Extract<Supply, { by: "label" }>; onSupply: (supply: Supply) => void }) {
  const label = useMutation({
    mutationFn: (text: string) => answer(api.POST("/api/v1/label", { body: { text } })),
    onSuccess: ({ source, question }, text) => onSupply({ by: "label", text, source: question ? null : (source ?? null) }),
  });
  const { data: said } = label;
  return (
    <Box asChild>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (supply.text.trim()) label.mutate(supply.text);
        }}
      >
        <label>
          <Box as="span" display="block" fontSize="sm">
            On the label
          </Box>
          <input
            className="control"
            value={supply.text}
            placeholder="36 V 14 Ah"
            onChange={(event) => onSupply({ by: "label", text: event.target.value, source: null })}
          />
        </label>
        <Button type="submit" mt="2" size="sm" variant="outline" loading={label.isPending}>
          Read this label
        </Button>
        {label.error && (
          <Box role="alert" color="stop.fg" fontSize="sm">
            {problemOf(label.error).detail}
          </Box>
        )}
        {said && supply.source && (
          <Box role="status" fontSize="sm">
            {said.understood.join(", ")}
            {said.assumed.map((line) => (
              <Box key={line} color="fg.muted">
                Assumed: {line}
              </Box>
            ))}
          </Box>
        )}
        {said?.question && !supply.source && (
          <Box role="group" aria-label={said.question.says} mt="2">
            {said.question.says}
            {said.question.choices.map((choice) => (
              <Button
                key={choice.says}
                type="button"
                display="block"
                mt="1"
                size="sm"
                variant="outline"
                onClick={() => onSupply({ ...supply, source: choice.source })}
              >
                {choice.says}
              </Button>
            ))}
          </Box>
        )}
      </form>
    </Box>
  );
}
