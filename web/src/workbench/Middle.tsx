import { type ReactNode, Suspense, useCallback } from "react";
import { usePrefs } from "../base/prefs";
import { STEP_NAMES, groupOf } from "../document/steps";
import { EditingProvider } from "../job/Field";
import { River } from "../scene/River";
import { Split } from "../scene/Split";
import { Vehicle } from "../scene/Vehicle";
import { useDrawn, useSite } from "../steps/module";
import { FirstVisit } from "../steps/FirstVisit";
import { MODULES } from "../steps/registry";
import { Guard } from "../ui/Guard";

interface Props {
  /** On a phone the step is a page of its own; else the verdict is. */
  open: boolean;
  /** What stands in a pane: its own step, view and part. Going to another of them begins anew. */
  shown: string;
  /** Why there are no figures. */
  noFigures?: string;
}

const away = (classes: string, open: boolean) => (open ? classes : `${classes} away`);

/** The editor of the step that is open, and what stands beside it: its own view, or the vehicle and the river. */
export function Middle({ open, shown, noFigures }: Props) {
  const site = useSite();
  const { step, editor, stands, go } = site;
  const module = MODULES[step];
  const view = module.view?.(site);
  const drawing = !view || module.withDrawing?.(site) === true;
  const leave = { title: "Go to Battery", act: () => go({ step: "battery", circuit: undefined }) };
  const guarded = (children: ReactNode, fetching = "") => (
    <Guard what="This view" of={shown} leave={leave}>
      <Suspense fallback={<p className="quiet">{fetching}</p>}>{children}</Suspense>
    </Guard>
  );
  return (
    <>
      <section aria-label={STEP_NAMES[step]} data-step={step} className={away("pane editor", open)} tabIndex={module.scrolls ? 0 : undefined}>
        <Guard what="The editor" of={shown} leave={leave}>
          <EditingProvider build={editor.build} edit={editor.edit} stands={stands}>
            <FirstVisit step={step} />
            <Suspense fallback={<p className="quiet">{view?.fetching}</p>}>
              <module.Editor />
            </Suspense>
          </EditingProvider>
        </Guard>
      </section>
      {view && (
        <section aria-label={view.label} data-step={step} className={away(view.after ? "pane drain after" : "pane drain", open)}>
          {view.Head && (
            <header>
              <view.Head />
            </header>
          )}
          {(!drawing || !view.Head) && <div className="drain-body">{guarded(<view.View />, view.fetching)}</div>}
        </section>
      )}
      {drawing && <Drawing below={view !== undefined} open={open} shown={shown} noFigures={noFigures} />}
    </>
  );
}

/** The vehicle with its lights, and the watts that flow to them. */
function Drawing({ below, open, shown, noFigures }: Props & { below: boolean }) {
  const { editor, planned, problem, step } = useSite();
  const { build, selected, onSelect, place, onPlace } = editor;
  const { picture = planned, pinch } = useDrawn();
  const { blink } = usePrefs();
  const chooses = step === "places" || step === "lights" || (build.lights.length === 0 && groupOf(step).name === "Plan");
  // A place is measured at Places; from everywhere else a click on it puts a light there.
  const put = useCallback((name: string) => onPlace(name, step !== "places"), [onPlace, step]);
  return (
    <section aria-label="The build" className={`pane scene${below ? " below" : ""}${open && !below ? " away" : ""}${problem ? " faded" : ""}`}>
      <Guard what="The drawing" of={shown}>
        <Split
          upper={
            <Vehicle
              kind={build.vehicle.kind}
              variant={build.vehicle.variant}
              picture={picture}
              selected={selected}
              onSelect={onSelect}
              place={place}
              onPlace={chooses ? put : undefined}
              hint={step === "places" ? "click a place to measure it" : chooses ? "click a place to put a light there" : undefined}
              blink={blink}
            />
          }
          lower={<River picture={picture} selected={selected} onSelect={onSelect} pinch={pinch} empty={noFigures} />}
        />
      </Guard>
    </section>
  );
}
