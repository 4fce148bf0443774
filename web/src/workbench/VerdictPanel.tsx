import { Box, Spinner } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { memo, useCallback, useEffect, useRef, useState } from "react";
import {
  type Applied,
  type Build,
  type Card,
  type Caution,
  type Fact,
  type Finding,
  type MendedAll,
  type Problem,
  type Remedy,
  answer,
  api,
  problemOf,
} from "../api/client";
import { type Progress, work } from "../document/jobs";
import { EffectView, MARKS } from "../job/Effect";
import { Figure, WorkingView } from "../job/Figure";
import { Prose } from "../ui/Prose";
import { usePrefs } from "../base/prefs";
import { counted, hours, read, share, inOwn } from "../units";
import { Icon } from "../ui/icons";
import { useFold } from "./useFold";
import { type Judged, type Mending, type Remedies, type SolvedBuild, keyOf, numberOf, useNewest } from "../document/useSolved";

interface Props {
  build: Build;
  solved: Omit<Judged, "build"> | null;
  remedies: Remedies;
  problem: Problem | null;
  scene: string;
  /** What no figure shows, for the step that is open. */
  cautions: readonly Caution[];
  selected: string | null;
  onSelect: (subject: string, code: string) => void;
  /** Absent where the build is only looked at: remedies are then told, not done. */
  onApply?: (document: Build) => void;
}

const GROUPS = [
  ["stop", "Fix this before you build"],
  ["fix", "Fix this too, or it will not do what it should"],
  ["note", "Good to know"],
] as const;

/** The verdict of the build as it was edited last, which is there before the rest of the page is drawn. */
export const NewestVerdict = memo(function NewestVerdict({ drawn, build, ...props }: Omit<Props, "solved"> & { drawn: SolvedBuild | undefined }) {
  const solved = useNewest(drawn);
  return <VerdictPanel {...props} build={solved?.build ?? build} solved={solved ?? null} />;
});

/** Safe or not, how long the light lasts, and what is wrong, worst first. */
export const VerdictPanel = memo(function VerdictPanel({ build, solved, remedies, problem, scene, cautions, selected, onSelect, onApply }: Props) {
  usePrefs();
  const preview = useMutation({
    mutationFn: async ({ of, remedy }: { of: string; remedy: Remedy }): Promise<Preview> => ({
      of,
      remedy,
      build,
      ...(await answer<Applied>(api.POST("/api/v1/apply", { body: { document: build, changes: remedy.changes } }))),
    }),
  });
  const [folded, fold] = useFold(solved?.findings.filter((one) => one.severity === "stop").map((one) => `${one.code} ${one.subject}`));
  const { reset, mutate } = preview;
  const shown = preview.data?.build === build ? preview.data : null;
  // Once done, a preview is over: undo brings the build back, not the question.
  const onDo = useCallback(
    (document: Build) => {
      reset();
      onApply?.(document);
    },
    [reset, onApply],
  );
  // A remedy of the build as it was a moment ago waits for its twin of the build as it is.
  const [wanted, setWanted] = useState<{ of: string; title: string } | null>(null);
  const onPreview = useCallback((card: Card, remedy: Remedy) => setWanted({ of: keyOf(card), title: remedy.title }), []);
  useEffect(() => {
    if (!wanted || !remedies.fresh) return;
    setWanted(null);
    const remedy = remedies.of?.[wanted.of]?.remedies.find((known) => known.title === wanted.title);
    if (remedy) mutate({ of: wanted.of, remedy });
  }, [wanted, remedies, mutate]);
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
  // The first time what is wrong comes with what mends it, so that nothing moves under the eye.
  if (!solved || !remedies.of) return <Spinner role="status" aria-label="Solving" />;
  const { verdict } = solved;
  const cost = verdict.costs.find((known) => known.scene === scene);
  const name = build.scenes.find((known) => known.id === scene)?.name ?? "";
  const tone = verdict.stops > 0 ? "ink-stop" : verdict.safe && verdict.fixes === 0 ? "ink-good" : verdict.safe ? "ink-fix" : "ink-muted";
  const lit = build.lights.length > 0;
  const drawn = cost ? undefined : solved.picture?.reaches[0]?.facts.find((fact) => fact.key === "current_a");
  return (
    <div className={folded ? "folded" : undefined}>
      <button type="button" className="fold" aria-expanded={!folded} title={folded ? "Show all of it" : "Fold to its headline"} onClick={() => fold(!folded)}>
        <span className="heard">{folded ? "Show all of the verdict" : "Fold the verdict"}</span>
        <span aria-hidden>{folded ? "◂" : "▸"}</span>
      </button>
      <h2 className={`headline ${tone}`} aria-live="polite">
        <span aria-hidden>{verdict.stops > 0 ? "✕ " : verdict.safe && verdict.fixes === 0 ? "✓ " : ""}</span>
        {verdict.headline}
      </h2>
      <p className="heard" aria-live="polite">
        {lit && `${counted(verdict.stops, "danger")}, ${counted(verdict.fixes, "thing")} to fix, ${counted(verdict.notes, "tip")}`}
      </p>
      {!lit && <p className="ink-muted">Then you see how long the battery lasts, too.</p>}
      {lit && cost && (
        <div className="costs">
          <div>
            <Figure label="Time of light" text={hours(cost.hours)} working={cost.working} large />
            <div className="quiet">
              of light, {name.toLowerCase()}
              {cost.ends === "dark" ? ", until it is dark" : ", on a full battery"}
            </div>
          </div>
          {cost.share !== null && cost.share !== undefined && (
            <div>
              <div className="share">{share(cost.share)}</div>
              <div className="quiet">of the battery for {Math.round(cost.minutes ?? 0)} min</div>
            </div>
          )}
        </div>
      )}
      {lit && drawn && <Drawn fact={drawn} scene={name} source={build.source.kind} />}
      {!folded && verdict.stops > 0 && onApply && <MendEverything key={numberOf(build)} build={build} onApply={onDo} />}
      {(folded ? [] : GROUPS).map(([severity, heading]) => {
        const group = solved.cards.filter((card) => card.severity === severity);
        return group.length > 0 ? (
          <div key={severity} className="group">
            <h3>{heading}</h3>
            <ul>
              {group.map((card) => (
                <FindingCard
                  key={keyOf(card)}
                  card={card}
                  findings={solved.findings}
                  mending={remedies.of?.[keyOf(card)] ?? NONE}
                  selected={card.findings.some((index) => solved.findings[index]?.subject.split("#")[0] === selected)}
                  preview={shown?.of === keyOf(card) ? shown : null}
                  waiting={wanted?.of === keyOf(card) || (preview.isPending && preview.variables.of === keyOf(card))}
                  fault={preview.error && preview.variables.of === keyOf(card) ? problemOf(preview.error).detail : null}
                  onSelect={onSelect}
                  onPreview={onApply && onPreview}
                  onApply={onDo}
                  onCancel={reset}
                />
              ))}
            </ul>
          </div>
        ) : null;
      })}
      {!folded && cautions.length > 0 && (
        <div className="group">
          <h3>Keep in mind at this step</h3>
          <ul className="cautions">
            {cautions.map((caution) => (
              <li key={caution.title}>
                <b>
                  {inOwn(caution.title)}
                  {caution.subject && <span className="ink-muted"> · {caution.subject}</span>}
                </b>
                {inOwn(caution.text)}
              </li>
            ))}
          </ul>
        </div>
      )}
      {lit && <p className="quiet group">Look up your local rules for lights on the road, in the air and on the water. This is advice, not a certificate.</p>}
    </div>
  );
});

/** What a rail or track gives, where there is no charge to count. */
function Drawn({ fact, scene, source }: { fact: Fact; scene: string; source: string }) {
  const limit = fact.working.given.find((given) => given.symbol === "limit");
  return (
    <div className="costs">
      <div>
        <Figure label={fact.label} text={read(fact)} working={fact.working} large />
        <div className="quiet">
          from the {source}, {scene.toLowerCase()}
          {limit && `, of ${read(limit)} that it gives`}
        </div>
      </div>
    </div>
  );
}

/** The whole set of changes that makes it safe, shown before it is done. */
function MendEverything({ build, onApply }: { build: Build; onApply: (document: Build) => void }) {
  const [progress, setProgress] = useState<Progress>({ done: 0, of: 0 });
  const [andFixes, setAndFixes] = useState(false);
  const calling = useRef(new AbortController());
  // Nobody waits for it once the panel is gone.
  useEffect(() => () => calling.current.abort(), []);
  const search = useMutation({
    mutationFn: async (): Promise<{ mended: MendedAll; applied: Applied }> => {
      calling.current = new AbortController();
      setProgress({ done: 0, of: 0 });
      const mended = await work({ kind: "mend", document: build, and_fixes: andFixes }, calling.current.signal, setProgress);
      return { mended, applied: await answer<Applied>(api.POST("/api/v1/apply", { body: { document: build, changes: mended.changes } })) };
    },
  });
  const found = search.data;
  if (!found)
    return (
      <div className="remedies">
        {search.isPending ? (
          <>
            <p role="status">Looking for a way …{progress.of > 0 && ` ${progress.done} of ${progress.of} cleared`}</p>
            <button type="button" onClick={() => calling.current.abort()}>
              Stop looking
            </button>
          </>
        ) : (
          <>
            <button type="button" onClick={() => search.mutate()}>
              Fix it for me …
            </button>
            <label className="tick">
              <input type="checkbox" checked={andFixes} onChange={(event) => setAndFixes(event.target.checked)} />
              and everything else
            </label>
          </>
        )}
        {search.error && !calling.current.signal.aborted && <p role="alert">{problemOf(search.error).detail}</p>}
      </div>
    );
  const { mended, applied } = found;
  return (
    <div role="group" aria-label="Fix it for me" className="mend-all">
      {mended.steps.length > 0 ? (
        <>
          <p>
            <b>{mended.steps.length === 1 ? "One change" : `${mended.steps.length} changes`}, one undo:</b>
          </p>
          <ol>
            {mended.steps.map((step) => (
              <li key={step}>
                <Prose text={step} />
              </li>
            ))}
          </ol>
        </>
      ) : (
        <p>We could not find a fix for what is dangerous here. Try powering the light another way.</p>
      )}
      {mended.left.map((left) => (
        <p key={left.title}>
          <b className="ink-stop">✕ left: {inOwn(left.title)}.</b> <Prose text={left.advice} />
        </p>
      ))}
      {mended.steps.length > 0 ? (
        <EffectView title="All of it together" effect={mended.effect} onApply={() => onApply(applied.document)} onCancel={() => search.reset()} />
      ) : (
        <div className="remedies">
          <button type="button" onClick={() => search.reset()}>
            Close
          </button>
        </div>
      )}
    </div>
  );
}

interface CardProps {
  card: Card;
  /** All findings, of which the card names its own. */
  findings: readonly Finding[];
  mending: Mending;
  selected: boolean;
  /** What its remedy would do, where one is being looked at. */
  preview: Preview | null;
  waiting: boolean;
  fault: string | null;
  onSelect: (subject: string, code: string) => void;
  /** Absent where remedies are only told. */
  onPreview?: (card: Card, remedy: Remedy) => void;
  onApply: (document: Build) => void;
  onCancel: () => void;
}

interface Preview extends Applied {
  /** The card that the remedy belongs to. */
  of: string;
  remedy: Remedy;
  /** The document that it was made from; with another one it means nothing. */
  build: Build;
}

const NONE: Mending = { remedies: [] };

const FindingCard = memo(function FindingCard({
  card,
  findings,
  mending,
  selected,
  preview,
  waiting,
  fault,
  onSelect,
  onPreview,
  onApply,
  onCancel,
}: CardProps) {
  usePrefs();
  const mark = MARKS[card.severity];
  const [open, setOpen] = useState(false);
  const element = useRef<HTMLLIElement>(null);
  // A part chosen on the vehicle or the river brings what is wrong with it into view.
  useEffect(() => {
    if (selected && window.matchMedia("(min-width: 64rem)").matches) element.current?.scrollIntoView({ block: "nearest" });
  }, [selected]);
  const members = card.findings.flatMap((index) => findings[index] ?? []);
  const first = members[0];
  if (!first) return null;
  return (
    <li ref={element} className={`finding ${mark.colour}${selected ? " on" : ""}${card.follows ? " follows" : ""}`}>
      <button type="button" className="head" onClick={() => onSelect(card.subject, card.code)} aria-pressed={selected}>
        <span className={`ink-${mark.colour}`}>
          <span aria-hidden>{mark.sign}</span> {mark.word}:{" "}
        </span>
        {inOwn(card.title)}
        {members.length === 1 && (
          <span className="message">
            <Prose text={first.message} />
          </span>
        )}
      </button>
      {members.length > 1 && (
        <ul className="members">
          {members.map((finding) => (
            <li key={finding.subject}>
              <button type="button" onClick={() => onSelect(finding.subject, finding.code)}>
                {finding.subject}
              </button>
              <Figure label={finding.title} text={read(finding)} working={finding.working} />
            </li>
          ))}
        </ul>
      )}
      <details onToggle={(event) => setOpen(event.currentTarget.open)}>
        <summary>Why, and how we found it</summary>
        {open && (
          <>
            <p>{inOwn(first.why)}</p>
            {members.length > 1 && (
              <p>
                <Prose text={first.message} />
              </p>
            )}
            {mending.advice && mending.remedies.length > 0 && <p>{inOwn(mending.advice)}</p>}
            <WorkingView working={first.working} />
          </>
        )}
      </details>
      {preview ? (
        <EffectView title={preview.remedy.title} effect={preview.effect} onApply={() => onApply(preview.document)} onCancel={onCancel} />
      ) : (
        <div className="remedies">
          {mending.remedies.map((remedy) =>
            onPreview ? (
              <button type="button" key={remedy.title} disabled={waiting} onClick={() => onPreview(card, remedy)}>
                {inOwn(remedy.title)} …
              </button>
            ) : (
              <p key={remedy.title}>→ {inOwn(remedy.title)}</p>
            ),
          )}
          {mending.advice && mending.remedies.length === 0 && <p>{inOwn(mending.advice)}</p>}
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
