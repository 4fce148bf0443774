import { Box, Button } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { type Build, type Offer, answer, api, problemOf } from "../../api/client";
import { EffectView } from "../../job/Effect";
import { say, share, inOwn } from "../../units";
import { capital } from "../../document/fields";
import { Section } from "./parts";

/** What the plan should learn: shown with what it does, taken only by hand. */
export function Offers({ build, offers, onTake }: { build: Build; offers: readonly Offer[]; onTake: (document: Build) => void }) {
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const chosen = offers.filter((offer) => !left.has(offer.at));
  const tried = useMutation({
    mutationFn: async () => ({
      ...(await answer(api.POST("/api/v1/apply", { body: { document: build, changes: chosen.flatMap((offer) => offer.changes) as never } }))),
      build,
    }),
  });
  const shown = tried.data?.build === build ? tried.data : null;
  const figure = (value: number, unit: string) => (unit === "1" ? share(value) : say({ value, unit }));
  return (
    <Section title="Update the plan from your readings">
      {offers.length === 0 ? (
        <Box color="fg.muted">Nothing: the plan’s figures and what was written down agree, as far as it goes. Nothing is ever changed by itself.</Box>
      ) : (
        <>
          <Box as="ul" listStyleType="none" mb="2">
            {offers.map((offer) => (
              <Box as="li" key={offer.at} py="1" borderTopWidth="1px">
                <label className="tick">
                  <input
                    type="checkbox"
                    checked={!left.has(offer.at)}
                    onChange={() => {
                      tried.reset();
                      setLeft((now) => new Set(now.has(offer.at) ? [...now].filter((at) => at !== offer.at) : [...now, offer.at]));
                    }}
                  />
                  <span>
                    {capital(offer.words)}: {offer.from === null || offer.from === undefined ? "not in it" : figure(offer.from, offer.unit)} →{" "}
                    <b>{figure(offer.to, offer.unit)}</b>
                    {offer.give !== null && offer.give !== undefined && <span className="quiet"> ± {figure(offer.give, offer.unit)}</span>}
                    <Box as="span" display="block" className="quiet">
                      {inOwn(offer.why)}
                    </Box>
                  </span>
                </label>
              </Box>
            ))}
          </Box>
          {!shown && (
            <Button size="sm" minH="9" variant="outline" disabled={chosen.length === 0} loading={tried.isPending} onClick={() => tried.mutate()}>
              What the plan then says
            </Button>
          )}
          {tried.error && (
            <Box role="alert" color="stop.fg">
              {problemOf(tried.error).detail}
            </Box>
          )}
          {shown && <EffectView title="The plan as it was lived" effect={shown.effect} onApply={() => onTake(shown.document)} onCancel={() => tried.reset()} />}
        </>
      )}
    </Section>
  );
}
