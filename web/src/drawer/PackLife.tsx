import { Box, Button } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type Part, answer, api, problemOf } from "../api/client";
import { eventOf, here } from "../journal/event";
import { Figure } from "../job/Figure";
import { toaster } from "../base/toaster";
import { say, share, inOwn } from "../units";

const day = (at: string) => at.slice(0, 10);

/** A pack as a thing with a history: where it was, how it is, and where it goes next. */
export function PackLife({ part }: { part: Part }) {
  const client = useQueryClient();
  const battery = part.what.kind === "battery" ? part.what.battery : null;
  const lived = useQuery({ queryKey: ["pack", part.id], queryFn: () => answer(api.GET("/api/v1/packs/{pack}", { params: { path: { pack: part.id } } })) });
  const life = useQuery({
    queryKey: ["pack-life", part, lived.data],
    queryFn: () =>
      answer(
        api.POST("/api/v1/journal/pack", {
          body: { pack: part.id, battery: battery!, builds: lived.data!.map(({ document, events }) => ({ document, events })), now: here() },
        }),
      ),
    enabled: battery !== null && lived.data !== undefined,
  });
  const shelf = useQuery({ queryKey: ["shelf-names"], queryFn: () => answer(api.GET("/api/v1/builds", { params: { query: {} } })) });
  const [into, setInto] = useState("");
  const fit = useMutation({
    mutationFn: async (id: number) => {
      const stored = await answer(api.GET("/api/v1/builds/{id}", { params: { path: { id } } }));
      if (stored.document.source.kind !== "battery") throw new Error(`${stored.document.name} runs off a steady supply and takes no battery.`);
      // Where it sits now it is taken out of first.
      for (const one of lived.data ?? []) {
        const said = one.events.map((event) => event.data as { part?: string; pack?: string; change?: string });
        const last = said.reverse().find((data) => data.part === "battery");
        if (one.id !== id && last?.pack === part.id && last.change !== "removed")
          await answer(
            api.POST("/api/v1/builds/{id}/journal", {
              params: { path: { id: one.id } },
              body: { events: [eventOf("part", { part: "battery", change: "removed", pack: part.id })] },
            }),
          );
      }
      await answer(
        api.POST("/api/v1/builds/{id}/journal", {
          params: { path: { id } },
          body: { events: [eventOf("part", { part: "battery", change: "fitted", pack: part.id })] },
        }),
      );
      const document = await answer(api.POST("/api/v1/add", { body: { document: stored.document, part: { kind: "pack", part } } }));
      await answer(api.PUT("/api/v1/builds/{id}", { params: { path: { id }, header: { "If-Match": `"${stored.revision}"` } }, body: document }));
      return stored.document.name;
    },
    onSuccess: (name) => {
      toaster.create({ title: `${part.name} is in ${name}; its plan has the pack’s figures`, type: "success" });
      setInto("");
      void client.invalidateQueries({ queryKey: ["pack", part.id] });
      void client.invalidateQueries({ queryKey: ["shelf"] });
    },
    onError: (error) => toaster.create({ title: problemOf(error).detail, type: "error", duration: 15_000 }),
  });
  if (!battery) return null;
  const health = life.data?.health;
  return (
    <section aria-label="Its life" className="card">
      <header>
        <h3>Its life</h3>
      </header>
      {life.error && (
        <Box role="alert" color="stop.fg">
          {problemOf(life.error).detail}
        </Box>
      )}
      {life.data?.stints.length === 0 && <Box color="fg.muted">It was in no build yet. Put it in one, and what is written down there becomes its history.</Box>}
      {health && (
        <Box mb="2">
          {health.left && (
            <Box as="span" fontSize="2xl" fontWeight="bold" mr="2">
              <Figure label={health.left.label} text={share(health.left.value)} working={health.left.working} />
            </Box>
          )}
          {inOwn(health.words)}
          {life.data?.cycles && (
            <Box>
              {life.data.cycles.label} <Figure label={life.data.cycles.label} text={say(life.data.cycles)} working={life.data.cycles.working} /> times
            </Box>
          )}
        </Box>
      )}
      <Box as="ul" listStyleType="none">
        {life.data?.stints.map((stint) => (
          <Box as="li" key={`${stint.build} ${stint.from}`} borderTopWidth="1px" py="1.5">
            <b>{stint.build}</b>, {day(stint.from)} to {stint.to ? day(stint.to) : "now"}
            <span className="quiet">
              {" "}
              {stint.rides} outings, {stint.charges} charges
            </span>
          </Box>
        ))}
      </Box>
      {!part.retired && (
        <Box display="flex" gap="2" mt="2" alignItems="end" flexWrap="wrap">
          <label>
            <Box as="span" fontSize="xs" color="fg.muted">
              Put it into
            </Box>
            <select className="control" value={into} onChange={(event) => setInto(event.target.value)}>
              <option value="">choose a build</option>
              {shelf.data?.builds.map((entry) => (
                <option key={entry.id} value={entry.id}>
                  {entry.name}
                </option>
              ))}
            </select>
          </label>
          <Button size="sm" minH="9" variant="outline" disabled={into === ""} loading={fit.isPending} onClick={() => fit.mutate(Number(into))}>
            Fit it
          </Button>
          <Box fontSize="xs" color="fg.muted" flexBasis="full">
            The build’s plan takes over its figures; its earlier revision stays in the history. Match plug, polarity and charger before you mate it.
          </Box>
        </Box>
      )}
    </section>
  );
}
