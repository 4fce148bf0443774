import { Box } from "@chakra-ui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, problemOf } from "../../api/client";
import { Helper } from "../../job/Choices";
import { FieldGrid, NumberField } from "../../job/fields";
import { Prose } from "../../ui/Prose";
import { Readout } from "../../ui/StepHeading";
import { say, unitOf } from "../../units";

/** More LEDs than pins: the table of cross-wired LEDs, and what else could be done. */
export function Pins() {
  return <Helper title="More LEDs than pins">{() => <Table />}</Helper>;
}

function Table() {
  const [ask, setAsk] = useState({ pins: 4, logic_v: 3.3, vf_v: 2, pin_max_a: 0.02, ohm: 47 });
  const asked = useQuery({
    queryKey: ["pins", ask],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/pins", { body: ask, signal })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
  const set = (field: keyof typeof ask) => (value: number | null) => value !== null && setAsk({ ...ask, [field]: value });
  const found = asked.data;
  return (
    <Box mt="2">
      <FieldGrid>
        <NumberField label="Free pins" value={ask.pins} unit={unitOf("")} whole min={2} max={12} onChange={set("pins")} />
        <NumberField label="Signal voltage" value={ask.logic_v} unit={unitOf("V")} open max={24} onChange={set("logic_v")} />
        <NumberField label="Forward voltage of an LED" value={ask.vf_v} unit={unitOf("V")} open max={24} onChange={set("vf_v")} />
        <NumberField label="Current per pin" value={ask.pin_max_a} unit={unitOf("mA")} open max={1} onChange={set("pin_max_a")} />
        <NumberField label="Resistor at each pin" value={ask.ohm} unit={unitOf("ohm")} open max={1e6} onChange={set("ohm")} />
      </FieldGrid>
      {asked.error && (
        <Box role="alert" color="stop.fg" mt="2">
          <Prose text={problemOf(asked.error).detail} />
        </Box>
      )}
      {found && (
        <>
          <Readout
            rows={[
              ["LEDs on these pins", String(found.most)],
              ["The one that is lit carries", say({ value: found.peak_a, unit: "A" })],
              ["Each of them over time", say({ value: found.mean_a, unit: "A" })],
              ["The next one is lit at least", `${say({ value: found.step_hz, unit: "Hz" })}`],
              ["Two in a row begin at", `${say({ value: found.through_two_v, unit: "V" })}, ${found.stays_dark ? "and stay dark" : "and glow along"}`],
              ...found.others.map((one) => [`Or ${one.called}`, `${one.pins} pin${one.pins > 1 ? "s" : ""}, ${one.takes}`] as const),
            ]}
          />
          {found.cautions.map((caution) => (
            <Box key={caution} color="fix.fg" mt="1">
              {caution}
            </Box>
          ))}
          <Box overflowX="auto" mt="2" tabIndex={0} role="region" aria-label="Pins of each LED">
            <table className="plain">
              <thead>
                <tr>
                  <th>LED</th>
                  <th>High</th>
                  <th>Low</th>
                  <th>Left alone</th>
                </tr>
              </thead>
              <tbody>
                {found.table.map((one) => (
                  <tr key={one.led}>
                    <th scope="row">{one.led}</th>
                    <td>{one.high}</td>
                    <td>{one.low}</td>
                    <td>{one.floating.join(", ") || "–"}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </Box>
        </>
      )}
    </Box>
  );
}
