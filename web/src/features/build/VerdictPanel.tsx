import { Box, Button, Spinner, chakra } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { memo, useEffect, useState } from "react";
import { type Applied, type Build, type Caution, type Finding, type Problem, type Remedy, type Report, answer, api, problemOf } from "../../api/client";
import { EffectView, MARKS } from "../../ui/Effect";
import { Figure, WorkingView } from "../../ui/Figure";
import { Prose } from "../../ui/Prose";
import { hours, share } from "../../units";
import { Icon } from "../../ui/icons";

interface Props {
  build: Build;
  report: Report | null;
  problem: Problem | null;
  scene: string;
  /** What no figure shows, for the step that is open. */
  cautions: readonly Caution[];
  selected: string | null;
  onSelect: (subject: string, code: string) => void;
  onApply: (document: Build) => void;
}

const GROUPS = [
  ["stop", "Do not build it before this is mended"],
  ["fix", "Mend it, or it will not do what it should"],
  ["note", "Good to know"],
] as const;

/** Safe or not, how long the light lasts, and what is wrong, worst first. */
export const VerdictPanel = memo(function VerdictPanel({ build, report, problem, scene, cautions, selected, onSelect, onApply }: Props) {
  if (problem)
    return (
      <Box role="alert">
        <Box as="h2" fontSize="lg" fontWeight="bold" color="stop.fg" mb="2">
          <Icon name="remove" /> {problem.title}
        </Box>
        <Box whiteSpace="pre-line" overflowWrap="anywhere">
          <Prose text={problem.detail} />
        </Box>
      </Box>
    );
  if (!report) return <Spinner aria-label="Solving" />;
  const { verdict } = report;
  const cost = verdict.costs.find((known) => known.scene === scene);
  const name = build.scenes.find((known) => known.id === scene)?.name ?? "";
  const tone = verdict.stops > 0 ? "stop.fg" : verdict.safe && verdict.fixes === 0 ? "good.fg" : verdict.safe ? "fix.fg" : "fg.muted";
  const lit = build.lights.length > 0;
  return (
    <Box>
      <Box as="h2" fontSize="xl" fontWeight="bold" lineHeight="1.2" color={tone} aria-live="polite">
        <span aria-hidden>{verdict.stops > 0 ? "✕ " : verdict.safe ? "✓ " : ""}</span>
        {verdict.headline}
      </Box>
      {!lit && (
        <Box mt="3" color="fg.muted">
          Add a light to see whether it is safe and how long the battery carries it.
        </Box>
      )}
      {lit && cost && (
        <Box display="grid" gridTemplateColumns="1.2fr 1fr" columnGap="4" mt="3" alignItems="end">
          <Box>
            <Figure label="Time of light" text={hours(cost.hours)} working={cost.working} size="3xl" weight="bold" />
            <Box color="fg.muted" fontSize="xs">
              of light, {name.toLowerCase()}
              {cost.ends === "dark" ? ", until it is dark" : ", full to reserve"}
            </Box>
          </Box>
          {cost.share !== null && cost.share !== undefined && (
            <Box>
              <Box fontSize="xl" fontWeight="bold">
                {share(cost.share)}
              </Box>
              <Box color="fg.muted" fontSize="xs">
                of the charge per {Math.round(cost.minutes ?? 0)} min
              </Box>
            </Box>
          )}
        </Box>
      )}
      {GROUPS.map(([severity, heading]) => {
        const group = report.findings.filter((finding) => finding.severity === severity);
        return group.length > 0 ? (
          <Box key={severity} mt="4">
            <Box as="h3" fontSize="xs" color="fg.muted" mb="1.5">
              {heading}
            </Box>
            <Box
              as="ul"
              listStyleType="none"
              display="grid"
              gap="2.5"
              gridTemplateColumns={{ base: "minmax(0, 1fr)", md: "repeat(auto-fill, minmax(16rem, 1fr))", lg: "minmax(0, 1fr)" }}
            >
              {group.map((finding) => (
                <FindingCard
                  key={`${finding.code} ${finding.subject}`}
                  build={build}
                  finding={finding}
                  selected={selected === finding.subject.split("#")[0]}
                  onSelect={() => onSelect(finding.subject, finding.code)}
                  onApply={onApply}
                />
              ))}
            </Box>
          </Box>
        ) : null;
      })}
      {cautions.length > 0 && (
        <Box mt="5">
          <Box as="h3" fontSize="xs" color="fg.muted" mb="1.5">
            Keep in mind at this step
          </Box>
          <Box as="ul" listStyleType="none" display="grid" gap="2" fontSize="xs">
            {cautions.map((caution) => (
              <Box as="li" key={caution.title} borderLeftWidth="4px" borderColor="border.emphasized" pl="3">
                <Box fontWeight="semibold">
                  {caution.title}
                  {caution.subject && (
                    <Box as="span" fontWeight="normal" color="fg.muted">
                      {" "}
                      · {caution.subject}
                    </Box>
                  )}
                </Box>
                {caution.text}
              </Box>
            ))}
          </Box>
        </Box>
      )}
      {lit && (
        <Box mt="5" color="fg.muted" fontSize="xs">
          Look up your local rules for lights on the road, in the air and on the water. This is advice, not a certificate.
        </Box>
      )}
    </Box>
  );
});

interface CardProps {
  build: Build;
  finding: Finding;
  selected: boolean;
  onSelect: () => void;
  onApply: (document: Build) => void;
}

function FindingCard({ build, finding, selected, onSelect, onApply }: CardProps) {
  const mark = MARKS[finding.severity];
  const [open, setOpen] = useState(false);
  const preview = useMutation({
    mutationFn: async (remedy: Remedy) => ({
      remedy,
      ...(await answer<Applied>(api.POST("/api/v1/apply", { body: { document: build, changes: remedy.changes } }))),
    }),
  });
  const { reset } = preview;
  // A preview belongs to the document it was made from.
  useEffect(() => reset(), [build, reset]);
  return (
    <Box
      as="li"
      bg={`${mark.colour}.bg`}
      borderLeftWidth="4px"
      borderColor={`${mark.colour}.line`}
      borderRadius="sm"
      outline={selected ? "1px solid" : undefined}
      outlineColor={`${mark.colour}.line`}
      px="3"
      py="2.5"
    >
      <Box as="button" textAlign="left" w="full" cursor="pointer" onClick={onSelect} aria-pressed={selected}>
        <Box fontWeight="semibold">
          <Box as="span" color={`${mark.colour}.fg`} mr="1.5">
            <span aria-hidden>{mark.sign}</span> {mark.word}:
          </Box>
          {finding.title}
        </Box>
        <Box color="fg" fontSize="xs" mt="1">
          <Prose text={finding.message} />
        </Box>
      </Box>
      <chakra.details fontSize="xs" mt="1" onToggle={(event) => setOpen(event.currentTarget.open)}>
        <Box as="summary" cursor="pointer" color="fg.muted" minH="8" display="flex" alignItems="center">
          Why, and how it was found
        </Box>
        {open && (
          <>
            <Box mb="2">{finding.why}</Box>
            {finding.advice && <Box mb="2">{finding.advice}</Box>}
            <WorkingView working={finding.working} />
          </>
        )}
      </chakra.details>
      {preview.data ? (
        <EffectView title={preview.data.remedy.title} effect={preview.data.effect} onApply={() => onApply(preview.data.document)} onCancel={reset} />
      ) : (
        <Box display="flex" flexWrap="wrap" gap="2" mt="1">
          {finding.remedies.map((remedy) => (
            <Button
              key={remedy.title}
              size="xs"
              minH="8"
              h="auto"
              maxW="full"
              py="1.5"
              whiteSpace="normal"
              textAlign="left"
              justifyContent="flex-start"
              variant="outline"
              colorPalette="lantern"
              borderColor="lantern.border"
              color="lantern.fg"
              loading={preview.isPending && preview.variables === remedy}
              onClick={() => preview.mutate(remedy)}
            >
              {remedy.title} …
            </Button>
          ))}
        </Box>
      )}
      {preview.error && (
        <Box role="alert" color="stop.fg" fontSize="xs" mt="2">
          {problemOf(preview.error).detail}
        </Box>
      )}
    </Box>
  );
}
