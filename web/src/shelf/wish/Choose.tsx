import { Box, Button, Spinner } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { type Build, type Design, answer, api, problemOf } from "../../api/client";
import { formOf, useViews } from "../../scene/outlines";
import { NightPicture } from "../../scene/night/NightPicture";
import { useNight } from "../../scene/night/useNight";
import { Prose } from "../../ui/Prose";
import { money, say } from "../../units";
import { order } from "./order";
import { type Told, dropTold, wishOf } from "./wish";

const SIZE = [320, 172] as const;
const MEASURES = ["cheaper", "lighter", "longer", "fewer joints", "more margin"] as const;

/** Designs side by side: what each looks like, is good at, and costs. */
export function Choose({ told }: { told: Told }) {
  const [weights, setWeights] = useState<readonly number[]>([1, 1, 1, 1, 1]);
  const found = useDesigns(told);
  const client = useQueryClient();
  const navigate = useNavigate();
  const take = useMutation({
    mutationFn: (build: Build) => answer(api.POST("/api/v1/builds", { body: build })),
    onSuccess: (stored) => {
      dropTold();
      void client.invalidateQueries({ queryKey: ["shelf"] });
      void navigate({ to: "/builds/$id", params: { id: String(stored.id) }, search: { step: "parts" } });
    },
  });
  if (found.isPending)
    return (
      <Box role="status" display="flex" gap="2" alignItems="center">
        <Spinner aria-hidden color="lantern.solid" /> Trying what there is …
      </Box>
    );
  const error = found.error ?? take.error;
  if (error || !found.data)
    return (
      <Box role="alert" color="stop.fg" whiteSpace="pre-line">
        <Prose text={problemOf(error).detail} />
      </Box>
    );
  const { designs, impossible } = found.data;
  const nearest = impossible?.nearest;
  const shown = nearest ? [nearest] : order(designs, weights);
  return (
    <>
      {impossible && (
        <Box role="alert" mb="3">
          <b>All of it cannot be had together.</b> <Prose text={impossible.why} />
        </Box>
      )}
      {designs.length > 1 && (
        <Box as="fieldset" border="0" p="0" mb="4">
          <Box as="legend" fontWeight="semibold">
            What matters most?
          </Box>
          <Box display="grid" gridTemplateColumns="repeat(auto-fit, minmax(9rem, 1fr))" gap="3">
            {MEASURES.map((name, at) => (
              <label key={name}>
                <Box as="span" fontSize="sm">
                  {name}
                </Box>
                <input
                  type="range"
                  min={0}
                  max={4}
                  step={0.5}
                  value={weights[at]}
                  style={{ width: "100%", minHeight: "2rem" }}
                  onChange={(event) => setWeights(weights.map((own, index) => (index === at ? Number(event.target.value) : own)))}
                />
              </label>
            ))}
          </Box>
        </Box>
      )}
      <Box as="ul" listStyleType="none" display="grid" gridTemplateColumns="repeat(auto-fill, minmax(17rem, 1fr))" gap="4">
        {shown.map((design) => (
          <Box as="li" key={design.says} borderWidth="1px" borderRadius="lg" overflow="hidden" bg="bg.panel" display="flex" flexDirection="column">
            <Night build={design.build} told={told} />
            <Box p="4" display="flex" flexDirection="column" gap="3" flex="1">
              <Box>{design.says}</Box>
              <Figures design={design} />
              {design.notes.length > 0 && (
                <Box fontSize="xs" color="fg.muted">
                  Good to know: {design.notes.join("; ")}
                </Box>
              )}
              <Button mt="auto" colorPalette="lantern" loading={take.isPending} onClick={() => take.mutate(design.build)}>
                Build this
              </Button>
            </Box>
          </Box>
        ))}
      </Box>
    </>
  );
}

/** Designs for what was told: the usual battery is looked up first. */
function useDesigns(told: Told) {
  return useQuery({
    queryKey: ["designs", JSON.stringify(told)],
    queryFn: async ({ signal }) => {
      const { battery, id } = formOf(told);
      const usual = async () => (await answer(api.POST("/api/v1/starter", { body: { name: "wish", vehicle: told.kind, variant: id, ...battery } }))).source;
      const source = told.supply.by === "label" ? told.supply.source : told.supply.by === "usual" ? await usual() : null;
      return answer(api.POST("/api/v1/designs", { body: { wish: wishOf(told, source) as never }, signal }));
    },
    staleTime: Infinity,
    gcTime: 60_000,
  });
}

function Night({ build, told }: { build: Build; told: Told }) {
  const seen = useViews(told)[0]?.seen ?? "beside";
  const shown = useNight({ build, from: seen, size: SIZE }, 0);
  return (
    <Box bg="black" aspectRatio="320 / 172">
      {shown.data && <NightPicture planes={shown.data.planes} falling={shown.data.night} label={`${build.name} at night`} plain />}
    </Box>
  );
}

function Figures({ design: { measures } }: { design: Design }) {
  const rows: readonly (readonly [string, string])[] = [
    ["to buy", money(measures.cost, measures.currency)],
    ["weighs", say({ value: measures.mass_g, unit: "g" })],
    ["lasts", measures.hours == null ? "as long as its supply" : say({ value: measures.hours, unit: "h" })],
    ["work", say({ value: Math.round(measures.minutes / 6) / 10, unit: "h" })],
    ["soldered joints", String(measures.joints)],
    ["margin", `${Math.round(100 * measures.headroom)} %`],
  ];
  return (
    <Box as="dl" display="grid" gridTemplateColumns="auto 1fr" columnGap="3" fontSize="sm">
      {rows.map(([name, value]) => (
        <Box key={name} display="contents">
          <Box as="dt" color="fg.muted">
            {name}
          </Box>
          <Box as="dd" fontWeight="semibold">
            {value}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
