import { Box, Switch } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { type Build, type SourceState, answer, api, problemOf } from "../../api/client";
import { useMe } from "../../garage/role";
import { Card } from "../../ui/StepHeading";

/** How long what is on the bench stays as it is before the instruments hear of it, ms. */
const SETTLED = 250;
const KEY = ["instruments"];
const NAMES: Record<string, string> = { meter: "Meter", supply: "Bench supply", charger: "Charger" };

/** The instruments for other programs: on or off, where they listen, and what is connected to them. */
export function Instruments({ build, scene, state, fault }: { build: Build; scene: string; state: SourceState; fault: string | null }) {
  const client = useQueryClient();
  const own = useMe()?.role === "owner";
  const rack = useQuery({ queryKey: KEY, queryFn: () => answer(api.GET("/api/v1/instruments")), staleTime: 5000, retry: false });
  const bench = { document: build, scene, state, faults: fault ? [fault] : [] };
  const turn = useMutation({
    mutationFn: (on: boolean) => answer(api.PUT("/api/v1/instruments", { body: on ? { on, bench } : { on } })),
    onSuccess: (said) => client.setQueryData(KEY, said),
  });
  const on = (rack.data?.listening.length ?? 0) > 0;
  // What is tried at the bench is what other programs measure.
  useEffect(() => {
    if (!on || !own) return;
    const timer = setTimeout(() => {
      void answer(api.PUT("/api/v1/instruments/bench", { body: { document: build, scene, state, faults: fault ? [fault] : [] } })).then(
        (said) => client.setQueryData(KEY, said),
        () => client.invalidateQueries({ queryKey: KEY }),
      );
    }, SETTLED);
    return () => clearTimeout(timer);
  }, [client, on, own, build, scene, state, fault]);
  const problem = turn.error ? problemOf(turn.error).detail : null;
  return (
    <Card title="Instruments for other programs">
      <Switch.Root
        minH="8"
        checked={on}
        disabled={!own || !rack.data || turn.isPending}
        onCheckedChange={({ checked }) => turn.mutate(checked)}
        colorPalette="lantern"
      >
        <Switch.HiddenInput />
        <Switch.Control />
        <Switch.Label fontWeight="normal">Meter, supply and charger listen on this computer</Switch.Label>
      </Switch.Root>
      {!own && <p className="quiet">They are switched on at the computer that runs the program.</p>}
      {rack.error && <p className="quiet">The server is not answering, so it cannot be said whether they are on.</p>}
      {problem && (
        <p role="alert" className="field-note fault">
          {problem}
        </p>
      )}
      {on && (
        <Box mt="2">
          <table className="data" aria-label="Where the instruments listen">
            <tbody>
              {rack.data?.listening.map(({ instrument, address }) => (
                <tr key={instrument}>
                  <th scope="row">{NAMES[instrument] ?? instrument}</th>
                  <td>
                    <code>{address}</code>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <Box mt="2" fontSize="xs" color="fg.muted">
            They speak SCPI, a line at a time: <code>*IDN?</code>, <code>ROUTe:PROBes &quot;source+&quot;,&quot;source-&quot;</code>,{" "}
            <code>MEASure:VOLTage?</code>. Connected: {rack.data?.connected?.build}, with what is set here.
          </Box>
        </Box>
      )}
    </Card>
  );
}
