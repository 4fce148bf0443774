import { Box, Button, Spinner, chakra } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Build, type Choice, type Question, answer, api, problemOf } from "../api/client";
import { share, read, inOwn } from "../units";
import { Figure } from "./Figure";
import { Prose } from "../ui/Prose";
import { Recut } from "./Recut";

interface Props {
  build: Build;
  question: Question;
  /** Figures to show of each way, by key, in this order. */
  figures: readonly string[];
  onTake: (document: Build) => void;
}

/** The ways a helper found, best first, side by side with their figures; one press takes one over. */
export function Choices({ build, question, figures, onTake }: Props) {
  const asked = useQuery({
    queryKey: ["choose", build, question],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/choose", { body: { document: build, question }, signal })),
    staleTime: Infinity,
    gcTime: 20_000,
  });
  const [all, setAll] = useState(false);
  if (asked.error)
    return (
      <Box role="alert" color="stop.fg" fontSize="xs">
        <Prose text={problemOf(asked.error).detail} />
      </Box>
    );
  if (!asked.data) return <Spinner size="sm" role="status" aria-label="Working it out" />;
  const fit = asked.data.filter((choice) => choice.works);
  const rest = asked.data.filter((choice) => !choice.works);
  const shown = all ? fit : fit.slice(0, 3);
  return (
    <Box>
      {fit.length === 0 && <Box color="fix.fg">Nothing fits as it is; see below why.</Box>}
      <Box as="ul" listStyleType="none" display="grid" gap="2">
        {shown.map((choice, index) => (
          <Way key={choice.title + choice.tradeoff} build={build} choice={choice} best={index === 0} figures={figures} onTake={onTake} />
        ))}
      </Box>
      {(fit.length > 3 || rest.length > 0) && (
        <Button size="xs" minH="8" mt="2" variant="ghost" aria-expanded={all} onClick={() => setAll(!all)}>
          {all
            ? "Fewer"
            : `${fit.length > 3 ? `${fit.length - 3} more` : ""}${fit.length > 3 && rest.length > 0 ? ", and " : ""}${rest.length > 0 ? "why not the others" : ""}`}
        </Button>
      )}
      {all && rest.length > 0 && (
        <Box as="ul" listStyleType="none" mt="2" display="grid" gap="2">
          {rest.map((choice) => (
            <Box as="li" key={choice.title} fontSize="xs">
              <b>{inOwn(choice.title)}</b>: {inOwn(choice.caution ?? "")}
            </Box>
          ))}
        </Box>
      )}
    </Box>
  );
}

function Way({
  build,
  choice,
  best,
  figures,
  onTake,
}: {
  build: Build;
  choice: Choice;
  best: boolean;
  figures: readonly string[];
  onTake: (document: Build) => void;
}) {
  const take = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/apply", { body: { document: build, changes: choice.changes ?? [] } })),
    onSuccess: (applied) => onTake(applied.document),
  });
  const there = choice.changes !== undefined && choice.changes !== null && choice.changes.length === 0;
  const facts = figures.flatMap((key) => choice.figures.find((fact) => fact.key === key) ?? []);
  return (
    <Box as="li" borderWidth="1px" borderColor={best ? "lantern.border" : "border"} borderRadius="sm" px="2.5" py="2" fontSize="xs">
      <Box display="flex" gap="2" alignItems="center" justifyContent="space-between">
        <Box fontWeight="semibold" fontSize="sm">
          {inOwn(choice.title)}
        </Box>
        {there ? (
          <Box color="good.fg" whiteSpace="nowrap">
            ✓ as it is
          </Box>
        ) : choice.changes ? (
          <Button
            size="xs"
            minH="8"
            flex="none"
            variant={best ? "solid" : "outline"}
            colorPalette="lantern"
            loading={take.isPending}
            aria-label={`Use ${choice.title}`}
            onClick={() => take.mutate()}
          >
            Use
          </Button>
        ) : null}
      </Box>
      <Box color="fg.muted" mt="0.5">
        {choice.tradeoff}
      </Box>
      {choice.caution && <Box color="fix.fg">{inOwn(choice.caution)}</Box>}
      {facts.length > 0 && (
        <chakra.dl display="flex" flexWrap="wrap" columnGap="4" mt="1">
          {facts.map((fact) => (
            <Box key={fact.key} display="flex" alignItems="baseline" gap="1.5">
              <Box as="dt" color="fg.muted">
                {fact.label}
              </Box>
              <dd>
                <Figure label={fact.label} text={read(fact)} working={fact.working} />
                {fact.used !== undefined && fact.used !== null && (
                  <Box as="span" color={fact.used > 1 ? "stop.fg" : "fg.muted"}>
                    {" "}
                    {share(fact.used)}
                  </Box>
                )}
              </dd>
            </Box>
          ))}
        </chakra.dl>
      )}
      {choice.pick.kind === "recut" && choice.pick.soldering && <Recut soldering={choice.pick.soldering} />}
      {take.error && (
        <Box role="alert" color="stop.fg">
          {problemOf(take.error).detail}
        </Box>
      )}
    </Box>
  );
}

/** A helper behind a button: it is asked only when someone wants to know. */
export function Helper({ title, children }: { title: string; children: () => React.ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <Box mt="2">
      <Button
        size="xs"
        minH="8"
        variant="outline"
        colorPalette="lantern"
        color="lantern.fg"
        borderColor="lantern.border"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        {title} {open ? "▴" : "▾"}
      </Button>
      {open && <Box mt="2">{children()}</Box>}
    </Box>
  );
}
