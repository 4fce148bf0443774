import { Box, Button } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { type Build, type JournalView, answer, api } from "../../api/client";
import { Figure } from "../../job/Figure";
import { saveFile } from "../../base/save";
import { inOwn, say, share } from "../../units";
import { Offers } from "./Offers";
import { capital } from "../../document/fields";
import { Section, StrikeButton } from "./parts";
import { dayText } from "./TimeChart";
import type { Lived } from "./useLived";
import type { JournalPart } from "./views";

interface Props {
  build: Build;
  lived: Lived;
  view: JournalView;
  onTake: (document: Build) => void;
  onPart: (part: JournalPart) => void;
}

const inDays = (days: number) =>
  days < -1 ? `${-days} days overdue` : days < 0 ? "since yesterday" : days === 0 ? "today" : days === 1 ? "tomorrow" : `in ${days} days`;

/** Why they differ, what is due, what is odd: what a person wants to know on coming in. */
export function Now({ build, lived, view, onTake, onPart }: Props) {
  const calendar = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/v1/journal/calendar", { body: { document: build, events: lived.events, now: lived.now }, parseAs: "text" }),
      ) as unknown as Promise<string>,
    onSuccess: (text) => saveFile(`${build.name} - upkeep.ics`, "text/calendar", text),
  });
  const { next } = view;
  const now = next?.in_days !== null && next?.in_days !== undefined && next.in_days < 1;
  return (
    <>
      {next ? (
        <section aria-label="Next charge" className="card next-charge">
          <Box as="h2" fontSize="2xl" fontWeight="bold" lineHeight="1.2" color={now ? "fix.fg" : "good.fg"}>
            {now ? "! " : ""}
            {inOwn(next.title)}
          </Box>
          <Box color="fg.muted">{inOwn(next.why)}</Box>
          {next.facts.length > 0 && (
            <Box as="dl" display="flex" flexWrap="wrap" columnGap="8" rowGap="2" mt="3">
              {next.facts.map((fact) => (
                <Box key={fact.key}>
                  <Box as="dt" fontSize="xs" color="fg.muted">
                    {fact.label}
                  </Box>
                  <Box as="dd" fontSize="xl" fontWeight="semibold">
                    <Figure label={fact.label} text={fact.unit === "1" ? share(fact.value) : say(fact)} working={fact.working} />
                  </Box>
                </Box>
              ))}
            </Box>
          )}
        </section>
      ) : (
        <Section title="Next charge">
          <Box color="fg.muted">This build runs off a steady supply, which has no charge of its own. Hours of light and upkeep are kept all the same.</Box>
        </Section>
      )}
      {view.marks.length > 0 && (
        <Section title="Asked about">
          <Box as="ul" listStyleType="none" display="grid" gap="2">
            {view.marks.slice(0, 5).map((mark) => (
              <Box as="li" key={`${mark.id} ${mark.problem}`} display="grid" gridTemplateColumns="1fr auto" gap="2" alignItems="start">
                <Box>
                  <Box color="fix.fg">! {capital(mark.problem)}</Box>
                  <Box fontSize="sm" color="fg.muted">
                    {dayText(Date.parse(mark.at) / 1000)} · {mark.remedy}. It is kept as it was written.
                  </Box>
                </Box>
                <StrikeButton id={mark.id} what={mark.problem} lived={lived} />
              </Box>
            ))}
          </Box>
          {view.marks.length > 5 && <Box fontSize="sm">and {view.marks.length - 5} more, in Entries</Box>}
        </Section>
      )}
      {view.again.map((again) => (
        <Section key={again.place} title="The same again">
          <Box color="stop.fg" fontWeight="semibold">
            ✕ {again.place.replace(/:.*$/, "")} failed {again.at.length === 2 ? "twice" : `${again.at.length} times`}:{" "}
            {again.at.map((at) => dayText(Date.parse(at) / 1000)).join(" and ")}
          </Box>
          <Box>{again.words}</Box>
          <Box color="fg.muted">{again.advice}</Box>
        </Section>
      ))}
      <Section
        title="Due"
        aside={
          view.reminders.length > 0 && (
            <Button size="xs" minH="8" variant="outline" loading={calendar.isPending} onClick={() => calendar.mutate()}>
              Add to calendar
            </Button>
          )
        }
      >
        {view.reminders.length === 0 ? (
          <Box color="fg.muted">Nothing is due in the next month.</Box>
        ) : (
          <Box as="ul" listStyleType="none">
            {view.reminders.map((one) => (
              <Box as="li" key={one.id} display="grid" gridTemplateColumns="8.5rem 1fr" gap="3" py="1.5" borderTopWidth="1px">
                <Box color={one.in_days < 0 ? "stop.fg" : one.in_days < 3 ? "fix.fg" : "fg.muted"} fontWeight="semibold">
                  {inDays(one.in_days)}
                </Box>
                <Box>
                  {inOwn(one.title)}
                  <Box fontSize="xs" color="fg.muted">
                    {inOwn(one.why)}
                  </Box>
                </Box>
              </Box>
            ))}
          </Box>
        )}
      </Section>
      <Section
        title="Outings against the plan"
        aside={
          <Button size="xs" minH="8" variant="ghost" onClick={() => onPart("charts")}>
            Over time
          </Button>
        }
      >
        <Box mb="2">{inOwn(view.rides.words)}</Box>
        <Box as="dl" display="flex" flexWrap="wrap" columnGap="8" rowGap="1" mb="2">
          {[...view.rides.facts, ...(view.rides.extra ? [view.rides.extra] : [])].map((fact) => (
            <Box key={fact.key}>
              <Box as="dt" fontSize="xs" color="fg.muted">
                {fact.label}
              </Box>
              <Box as="dd" fontWeight="semibold">
                <Figure label={fact.label} text={say(fact)} working={fact.working} />
              </Box>
            </Box>
          ))}
        </Box>
        <RideTable view={view} />
      </Section>
      <Offers build={build} offers={view.offers} onTake={onTake} />
    </>
  );
}

function RideTable({ view }: { view: JournalView }) {
  const [all, setAll] = useState(false);
  const measured = view.last.filter((ride) => ride.measured !== null && ride.measured !== undefined);
  const rows = all ? view.last : measured.slice(0, 6);
  if (view.last.length === 0) return null;
  return (
    <>
      {rows.length > 0 && (
        <Box overflowX="auto" tabIndex={0} role="group" aria-label="The last outings">
          <Box as="table" className="data">
            <thead>
              <tr>
                <th scope="col">Outing</th>
                <th scope="col">Light</th>
                <th scope="col">Outside</th>
                <th scope="col">Computed</th>
                <th scope="col">Measured</th>
                <th scope="col">Why they differ</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((ride) => (
                <tr key={ride.id}>
                  <th scope="row">{dayText(Date.parse(ride.at) / 1000)}</th>
                  <td>{Math.round(ride.minutes)} min</td>
                  <td>{ride.temperature_c === null || ride.temperature_c === undefined ? "–" : `${ride.temperature_c} °C`}</td>
                  <td>{share(ride.computed)}</td>
                  <td>{ride.measured === null || ride.measured === undefined ? "–" : `${share(ride.measured)} ± ${share(ride.give ?? 0)}`}</td>
                  <td style={{ textAlign: "left", whiteSpace: "normal" }}>{ride.reason ?? ""}</td>
                </tr>
              ))}
            </tbody>
          </Box>
        </Box>
      )}
      <Button size="xs" minH="8" variant="ghost" mt="1" aria-expanded={all} onClick={() => setAll(!all)}>
        {all ? "Only those that were measured" : `All of the last ${view.last.length}`}
      </Button>
    </>
  );
}
