import { Box, Spinner } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { memo, useCallback, useState } from "react";
import { type Applied, type Build, type Caution, type Finding, type Problem, type Remedy, type Solved, answer, api, problemOf } from "../../api/client";
import { EffectView, MARKS } from "../../ui/Effect";
import { Figure, WorkingView } from "../../ui/Figure";
import { Prose } from "../../ui/Prose";
import { hours, share } from "../../units";
import { Icon } from "../../ui/icons";
import { type Remedies, keyOf } from "./useSolved";

interface Props {
  build: Build;
  solved: Pick<Solved, "findings" | "verdict"> | null;
  remedies: Remedies;
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
export const VerdictPanel = memo(function VerdictPanel({ build, solved, remedies, problem, scene, cautions, selected, onSelect, onApply }: Props) {
  const preview = useMutation({
    mutationFn: async ({ of, remedy }: { of: string; remedy: Remedy }): Promise<Preview> => ({
      of,
      remedy,
      build,
      ...(await answer<Applied>(api.POST("/api/v1/apply", { body: { document: build, changes: remedy.changes } }))),
    }),
  });
  const { reset, mutate } = preview;
  const shown = preview.data?.build === build ? preview.data : null;
  // Once done, a preview is over: undo brings the build back, not the question.
  const onDo = useCallback(
    (document: Build) => {
      reset();
      onApply(document);
    },
    [reset, onApply],
  );
  const onPreview = useCallback((finding: Finding, remedy: Remedy) => mutate({ of: keyOf(finding), remedy }), [mutate]);
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
  if (!solved) return <Spinner aria-label="Solving" />;
  const { verdict } = solved;
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
            <Figure label="Time of light" text={hours(cost.hours)} working={cost.working} large />
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
        const group = solved.findings.filter((finding) => finding.severity === severity);
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
                  key={keyOf(finding)}
                  finding={finding}
                  remedies={remedies.of[keyOf(finding)] ?? NONE}
                  fresh={remedies.fresh}
                  selected={selected === finding.subject.split("#")[0]}
                  preview={shown?.of === keyOf(finding) ? shown : null}
                  waiting={preview.isPending && preview.variables.of === keyOf(finding)}
                  fault={preview.error && preview.variables.of === keyOf(finding) ? problemOf(preview.error).detail : null}
                  onSelect={onSelect}
                  onPreview={onPreview}
                  onApply={onDo}
                  onCancel={reset}
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
  finding: Finding;
  remedies: readonly Remedy[];
  /** Whether the remedies are of the build in view. */
  fresh: boolean;
  selected: boolean;
  /** What its remedy would do, where one is being looked at. */
  preview: Preview | null;
  waiting: boolean;
  fault: string | null;
  onSelect: (subject: string, code: string) => void;
  onPreview: (finding: Finding, remedy: Remedy) => void;
  onApply: (document: Build) => void;
  onCancel: () => void;
}

interface Preview extends Applied {
  /** The finding that the remedy belongs to. */
  of: string;
  remedy: Remedy;
  /** The document that it was made from; with another one it means nothing. */
  build: Build;
}

const NONE: readonly Remedy[] = [];

const FindingCard = memo(function FindingCard({
  finding,
  remedies,
  fresh,
  selected,
  preview,
  waiting,
  fault,
  onSelect,
  onPreview,
  onApply,
  onCancel,
}: CardProps) {
  const mark = MARKS[finding.severity];
  const [open, setOpen] = useState(false);
  return (
    <li className={`finding ${mark.colour}${selected ? " on" : ""}`}>
      <button type="button" className="head" onClick={() => onSelect(finding.subject, finding.code)} aria-pressed={selected}>
        <span className={`ink-${mark.colour}`}>
          <span aria-hidden>{mark.sign}</span> {mark.word}:{" "}
        </span>
        {finding.title}
        <span className="message">
          <Prose text={finding.message} />
        </span>
      </button>
      <details onToggle={(event) => setOpen(event.currentTarget.open)}>
        <summary>Why, and how it was found</summary>
        {open && (
          <>
            <p>{finding.why}</p>
            {finding.advice && <p>{finding.advice}</p>}
            <WorkingView working={finding.working} />
          </>
        )}
      </details>
      {preview ? (
        <EffectView title={preview.remedy.title} effect={preview.effect} onApply={() => onApply(preview.document)} onCancel={onCancel} />
      ) : (
        <div className="remedies">
          {remedies.map((remedy) => (
            <button type="button" key={remedy.title} disabled={waiting || !fresh} onClick={() => onPreview(finding, remedy)}>
              {remedy.title} …
            </button>
          ))}
        </div>
      )}
      {fault && (
        <div role="alert" className="field-note fault">
          {fault}
        </div>
      )}
    </li>
  );
});
