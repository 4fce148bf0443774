import { Box, Button } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { type Build, answer, api, problemOf } from "../../api/client";
import { saveFile } from "../../base/save";
import { Cures, KeepAwake } from "./Cures";
import { Timeline } from "./Timeline";
import { type Tick, dayName, doneOf, minutesSince, momentOf, sayDay, sayMinutes, sayTime } from "./time";
import type { Making, Step } from "./useMake";
import { inOwn } from "../../units";

const PHASES: Record<Step["phase"], string> = {
  fit: "Try it on",
  cut: "Cut and mark",
  bench: "On the bench",
  vehicle: "On the vehicle",
  power: "Power",
  close: "Close it up",
};

interface Props {
  build: Build;
  make: Making;
  onSelect: (id: string | null) => void;
  /** Where one goes whose step went wrong. */
  onTrouble: () => void;
  /** Room for the readings that belong to a step, where there is a journal to keep them. */
  readings?: (step: Step) => ReactNode;
}

/** What to do next, when everything is done, and all of it in order. */
export function StepsView({ build, make, onSelect, onTrouble, readings }: Props) {
  const { made, error, ticks, tick, held } = make;
  const [all, setAll] = useState(false);
  const [open, setOpen] = useState<string | null>(null);
  const [skipped, setSkipped] = useState<readonly string[]>([]);
  if (error)
    return (
      <Box role="alert" color="stop.fg">
        {problemOf(error).detail}
      </Box>
    );
  if (!made) return <p className="quiet">Working out the steps …</p>;
  if (made.steps.length === 0) return <Box color="fg.muted">There is nothing to make yet. Add a light at step 3, Lights; its steps come by themselves.</Box>;
  const isDone = (id: string) => ticks.get(id)?.state === "done";
  const barred = made.stops.length > 0;
  const shown = made.steps.filter((step) => !barred || all || !step.wants_safe);
  const done = made.steps.filter((step) => isDone(step.id)).length;
  const ready = shown.filter((step) => !isDone(step.id) && step.after.every(isDone));
  const next = ready.find((step) => !skipped.includes(step.id)) ?? ready[0];
  const waits = made.steps.filter((step) => step.wait && isDone(step.id));
  const left = made.plan.placed.length;
  return (
    <>
      <Box display="flex" flexWrap="wrap" alignItems="baseline" gap="3">
        <Box as="h2" fontSize="lg" fontWeight="semibold">
          {done} of {made.steps.length} steps done
        </Box>
        {left > 0 && (
          <Box color="fg.muted">
            {sayMinutes(made.plan.work)} of work left, ready on {sayDay(momentOf(made.plan.begins, made.plan.ends))} at{" "}
            {sayTime(momentOf(made.plan.begins, made.plan.ends))}
          </Box>
        )}
        <CalendarButton build={build} make={make} />
      </Box>
      {held > 0 && (
        <Box role="status" color="fix.fg">
          ! {held === 1 ? "1 tick waits" : `${held} ticks wait`} for the server. Go on: they are kept here and sent once it answers.
        </Box>
      )}
      {barred && (
        <Box role="status" className="card" borderColor="stop.solid">
          <b>✕ Not safe to build yet.</b> What goes onto the vehicle waits until this is fixed: {made.stops.join("; ")}. Cutting and the bench may go on.
          <Box mt="2">
            <Button size="sm" minH="9" variant="outline" aria-pressed={all} onClick={() => setAll(!all)}>
              {all ? "Hide what waits" : "Look at the rest all the same"}
            </Button>
          </Box>
        </Box>
      )}
      <KeepAwake />
      {next ? (
        <NextStep
          key={next.id}
          step={next}
          number={made.order.indexOf(next.id) + 1}
          readings={readings?.(next)}
          onSelect={onSelect}
          onDone={() => tick(next.id, "done")}
          onLater={ready.length > 1 ? () => setSkipped([...skipped.filter((id) => id !== next.id), next.id].slice(1 - ready.length)) : undefined}
          onWrong={() => {
            tick(next.id, "wrong");
            onTrouble();
          }}
        />
      ) : (
        left === 0 && (
          <Box role="status" className="card" borderColor="good.solid">
            {waits.length === 0 ? (
              <>
                <b>✓ All done.</b> Look again after the first outing, and after every winter.
              </>
            ) : (
              <>
                <b>Every step is done.</b> Wait until everything below has cured before you use it.
              </>
            )}
          </Box>
        )
      )}
      {/* What runs by itself stands below what hands are to do. */}
      {waits.map((step) => (
        <Cures key={step.id} step={step} tick={ticks.get(step.id)!} />
      ))}
      <Timeline made={made} isDone={isDone} />
      {(Object.keys(PHASES) as Step["phase"][]).map((phase) => {
        const own = shown.filter((step) => step.phase === phase);
        if (own.length === 0) return null;
        return (
          <Box as="section" key={phase} aria-label={PHASES[phase]}>
            <Box as="h3" color="lantern.fg" fontWeight="semibold" mb="1">
              {PHASES[phase]}
              {barred && own[0]!.wants_safe && (
                <Box as="span" color="stop.fg">
                  {" "}
                  ✕ waits for a safe build
                </Box>
              )}
            </Box>
            <Box as="ol" listStyleType="none">
              {own.map((step) => (
                <Row
                  key={step.id}
                  step={step}
                  number={made.order.indexOf(step.id) + 1}
                  tick={ticks.get(step.id)}
                  when={whenOf(made, step.id)}
                  open={open === step.id}
                  readings={open === step.id && step !== next ? readings?.(step) : undefined}
                  onOpen={() => {
                    setOpen(open === step.id ? null : step.id);
                    if (step.about) onSelect(step.about.split("#")[0]!);
                  }}
                  onTick={() => tick(step.id, isDone(step.id) ? "undone" : "done")}
                />
              ))}
            </Box>
          </Box>
        );
      })}
      {made.plan.order_by.length > 0 && <OrderBy made={made} />}
      <p className="quiet">This is advice, not a certificate. Where rules or a licensed person say otherwise, they come first.</p>
    </>
  );
}

function whenOf(made: NonNullable<Props["make"]["made"]>, id: string): string {
  const placed = made.plan.placed.find((one) => one.step === id)?.at[0];
  if (!placed) return "";
  const moment = momentOf(made.plan.begins, placed.from);
  return `${sayDay(moment)}, ${sayTime(moment)}`;
}

interface NextProps {
  step: Step;
  number: number;
  readings: ReactNode;
  onSelect: (id: string | null) => void;
  onDone: () => void;
  onLater: (() => void) | undefined;
  onWrong: () => void;
}

/** One step, large enough for hands that are dirty. */
function NextStep({ step, number, readings, onSelect, onDone, onLater, onWrong }: NextProps) {
  const about = step.about?.split("#")[0] ?? null;
  return (
    <Box as="section" aria-label="Next step" className="card on">
      <Box color="fg.muted" fontSize="sm">
        Step {number} · {PHASES[step.phase].toLowerCase()} · {sayMinutes(step.minutes)}
        {step.wait && `, then ${sayMinutes(step.wait.minutes)}: ${step.wait.what}`}
      </Box>
      <Box as="h2" fontSize="2xl" fontWeight="bold" lineHeight="1.2" my="1">
        {inOwn(step.title)}
      </Box>
      <Details step={step} />
      {readings}
      <Box display="flex" flexWrap="wrap" gap="2" mt="4">
        <Button size="lg" minH="12" flex="1 1 8rem" colorPalette="lantern" onClick={onDone}>
          Done
        </Button>
        {onLater && (
          <Button size="lg" minH="12" variant="outline" onClick={onLater}>
            Not yet
          </Button>
        )}
        <Button size="lg" minH="12" variant="outline" onClick={onWrong}>
          Went wrong
        </Button>
        {about && (
          <Button size="lg" minH="12" variant="ghost" hideBelow="md" onClick={() => onSelect(about)}>
            Where is {about}?
          </Button>
        )}
      </Box>
    </Box>
  );
}

function Details({ step }: { step: Step }) {
  return (
    <Box display="grid" gap="1.5">
      <Box>{step.how}</Box>
      <Box color="fg.muted">{inOwn(step.why)}</Box>
      {step.caution && (
        <Box color="fix.fg" fontWeight="semibold">
          ! {inOwn(step.caution)}
        </Box>
      )}
      <Box>
        <b>Before you go on:</b> {step.checks.join(" ")}
      </Box>
      {(step.tools.length > 0 || step.materials.length > 0) && (
        <Box color="fg.muted" fontSize="sm">
          {[...step.tools, ...step.materials].join(" · ")}
        </Box>
      )}
      {step.undo !== "nothing" && (
        <Box color="fg.muted" fontSize="sm">
          Undoing it costs {step.undo}.
        </Box>
      )}
    </Box>
  );
}

interface RowProps {
  step: Step;
  number: number;
  tick: Tick | undefined;
  when: string;
  open: boolean;
  readings: ReactNode;
  onOpen: () => void;
  onTick: () => void;
}

function Row({ step, number, tick, when, open, readings, onOpen, onTick }: RowProps) {
  const done = tick?.state === "done";
  const wrong = tick?.state === "wrong";
  return (
    <Box as="li" borderTopWidth="1px" py="1">
      <Box display="grid" gridTemplateColumns="2.5rem 1fr auto" gap="2" alignItems="center">
        <label className="tick" style={{ minHeight: "2.5rem", justifyContent: "center" }}>
          <input type="checkbox" checked={done} onChange={onTick} aria-label={`Done: ${step.title}`} />
        </label>
        <button type="button" className="plain" aria-expanded={open} onClick={onOpen} style={{ textAlign: "left", minHeight: "2.5rem" }}>
          <Box as="span" color={done ? "fg.muted" : "fg"} textDecoration={done ? "line-through" : undefined}>
            {number}. {inOwn(step.title)}
          </Box>
          {wrong && (
            <Box as="span" color="fix.fg">
              {" "}
              ! went wrong
            </Box>
          )}
        </button>
        <Box color="fg.muted" fontSize="sm" textAlign="right" whiteSpace="nowrap">
          {done ? sayDay(new Date(tick.at)) : when || sayMinutes(step.minutes)}
        </Box>
      </Box>
      {open && (
        <Box pl="12" pb="2">
          <Details step={step} />
          {readings}
        </Box>
      )}
    </Box>
  );
}

/** The plan for any calendar. */
function CalendarButton({ build, make }: Pick<Props, "build" | "make">) {
  const get = useMutation({
    mutationFn: async () => {
      const day = dayName(new Date());
      const done = doneOf(make.ticks, day);
      const made = `${new Date().toISOString().slice(0, 19).replace(/[-:]/g, "")}Z`;
      const work = { document: build, day, now: minutesSince(day, new Date()), done };
      return answer(api.POST("/api/v1/make/calendar", { body: { work, made }, parseAs: "text" }));
    },
    onSuccess: (text) => saveFile(`${build.name} - work.ics`, "text/calendar", text as string),
  });
  return (
    <Button size="xs" minH="8" variant="outline" ml="auto" loading={get.isPending} onClick={() => get.mutate()}>
      Add to calendar
    </Button>
  );
}

/** What has to be ordered, by the last day for it. */
function OrderBy({ made }: { made: NonNullable<Props["make"]["made"]> }) {
  const days = new Map<string, string[]>();
  for (const one of made.plan.order_by) days.set(one.date, [...(days.get(one.date) ?? []), one.what]);
  return (
    <Box as="section" aria-label="Order in time" className="card">
      <Box as="h3" fontWeight="semibold" mb="1">
        Order in time
      </Box>
      {[...days]
        .sort(([a], [b]) => a.localeCompare(b))
        .map(([day, what]) => (
          <Box key={day} display="grid" gridTemplateColumns="7rem 1fr" gap="3" borderTopWidth="1px" py="1.5">
            <b>{sayDay(momentOf(day, 0))}</b>
            <span>{what.join(", ")}</span>
          </Box>
        ))}
    </Box>
  );
}
