import { Box } from "@chakra-ui/react";
import type { Build, JournalView } from "../../api/client";
import { Figure } from "../../job/Figure";
import { giveOf, inOwn, say, share } from "../../units";
import { Offers } from "./Offers";
import { Section } from "./parts";
import { TimeChart } from "./TimeChart";
import { useSpan } from "./useSpan";

/** What the battery still holds, how fast it ages, and what that rests on. */
export function BatteryLife({ view, build, onTake }: { view: JournalView; build: Build; onTake: (document: Build) => void }) {
  const { whole, span, setSpan } = useSpan(view);
  const { health } = view;
  if (!health)
    return (
      <Section title="Battery">
        <Box color="fg.muted">This build runs off a steady supply: the battery behind it is another build’s.</Box>
      </Section>
    );
  const offers = view.offers.filter((offer) => offer.at === "/usage/capacity_left" || offer.at === "/source/resistance_ohm");
  return (
    <>
      <section aria-label="How the battery is" className="card next-charge">
        {health.left && health.capacity && (
          <Box display="flex" alignItems="baseline" gap="3" flexWrap="wrap">
            <Box fontSize="3xl" fontWeight="bold">
              <Figure label={health.left.label} text={share(health.left.value)} working={health.left.working} />
            </Box>
            <Box>
              of what is printed on it: <Figure label={health.capacity.now.label} text={say(health.capacity.now)} working={health.capacity.now.working} />
              <span className="quiet"> {giveOf({ value: health.capacity.give, unit: "Ah" })}</span>
            </Box>
          </Box>
        )}
        <Box color={health.capacity ? "fg.muted" : undefined} mt="1">
          {inOwn(health.words)}
        </Box>
        <Box as="dl" display="flex" flexWrap="wrap" columnGap="8" rowGap="2" mt="2">
          {health.worn_out && (
            <Box>
              <Box as="dt" fontSize="xs" color="fg.muted">
                Down to 70 %
              </Box>
              <Box as="dd" fontWeight="semibold">
                {inOwn(health.worn_out.date)}
                <span className="quiet"> {inOwn(`${health.worn_out.early} to ${health.worn_out.late ?? "much later"}`)}</span>
              </Box>
            </Box>
          )}
          {health.capacity?.a_year !== null && health.capacity?.a_year !== undefined && (
            <Box>
              <Box as="dt" fontSize="xs" color="fg.muted">
                In a year
              </Box>
              <Box as="dd" fontWeight="semibold">
                {health.capacity.a_year > 0 ? "+" : "−"}
                {say({ value: Math.abs(health.capacity.a_year), unit: "Ah" })}
                <span className="quiet"> {giveOf({ value: health.capacity.a_year_give ?? 0, unit: "Ah" }, health.capacity.a_year)}</span>
              </Box>
            </Box>
          )}
          {health.resistance && (
            <Box>
              <Box as="dt" fontSize="xs" color="fg.muted">
                {health.resistance.now.label}
              </Box>
              <Box as="dd" fontWeight="semibold">
                <Figure label={health.resistance.now.label} text={say(health.resistance.now)} working={health.resistance.now.working} />
                <span className="quiet"> ± {say({ value: health.resistance.give, unit: "ohm" })}</span>
              </Box>
            </Box>
          )}
        </Box>
      </section>
      {view.charts
        .filter((chart) => chart.key === "capacity" || chart.key === "resistance")
        .map((chart) => (
          <Section key={chart.key} title={chart.title}>
            <TimeChart chart={chart} events={view.events} span={span} whole={whole} onSpan={setSpan} />
          </Section>
        ))}
      {offers.length > 0 && <Offers build={build} offers={offers} onTake={onTake} />}
      <p className="quiet">A pack that is swollen, hot, dented or smells is not charged again, whatever its figures: bring it to who takes used batteries.</p>
    </>
  );
}
