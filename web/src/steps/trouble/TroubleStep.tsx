import { Box, Button } from "@chakra-ui/react";
import type { Dispatch, SetStateAction } from "react";
import type { Build, SawRequest } from "../../api/client";
import { Segments } from "../../ui/Segments";
import { Card, StepHeading } from "../../ui/StepHeading";
import { counted } from "../../units";
import { useProven } from "./TroubleView";
import { type Known, LOOKS, type Look, NOTHING_KNOWN, SIGNS } from "./known";

interface Props {
  id: number;
  build: Build;
  scene: string;
  known: Known;
  onKnown: Dispatch<SetStateAction<Known>>;
  onSelect: (id: string | null) => void;
}

type Said = Look | "unsaid";
const SAID: readonly (readonly [Said, string])[] = [["unsaid", "Don’t know"], ...LOOKS];

/** What a person sees: light by light, and of the whole. */
export function TroubleStep({ id, build, scene, known, onKnown, onSelect }: Props) {
  const lit = build.lights.filter((light) => (build.scenes.find((one) => one.id === scene)?.lights[light.id]?.level ?? 0) > 0);
  const outings = useProven(id, build).proven?.outings ?? 0;
  const worked = known.worked ?? outings > 0;
  // What is known may have grown since a dial was drawn.
  const put = (light: string, saw: SawRequest | null) =>
    onKnown((now) => ({ ...now, saw: [...now.saw.filter((one) => one.light !== light), ...(saw ? [saw] : [])] }));
  return (
    <>
      <StepHeading title="Trouble">Something is not as it should be? Say what you see; leave open what you do not know.</StepHeading>
      {lit.length === 0 && <Box color="fg.muted">Nothing is lit in this scene. Choose another above.</Box>}
      {lit.length > 0 && (
        <Card
          title="The lights of this scene"
          aside={
            (known.saw.length > 0 || known.read.length > 0) && (
              <Button size="xs" minH="8" variant="outline" onClick={() => onKnown(NOTHING_KNOWN)}>
                Start over
              </Button>
            )
          }
        >
          <Box display="grid" gap="3">
            {lit.map((light) => {
              const saw = known.saw.find((one) => one.light === light.id);
              return (
                <Box key={light.id} onFocusCapture={() => onSelect(light.id)}>
                  <Box fontWeight="semibold" mb="1">
                    {light.id}
                  </Box>
                  <Segments
                    label={`How ${light.id} looks`}
                    quiet
                    value={(saw?.symptom as Said | undefined) ?? "unsaid"}
                    options={SAID}
                    onChange={(look) => put(light.id, look === "unsaid" ? null : { light: light.id, symptom: look, from: null })}
                  />
                  {saw?.symptom === "part" && (
                    <label>
                      <Box as="span" fontSize="xs" color="fg.muted">
                        Dark from which LED, segment or pixel on?
                      </Box>
                      <input
                        className="control"
                        type="number"
                        min="1"
                        value={saw.from ?? ""}
                        onChange={(event) =>
                          put(light.id, { light: light.id, symptom: "part", from: event.target.value ? Math.max(1, Number(event.target.value)) : null })
                        }
                      />
                    </label>
                  )}
                </Box>
              );
            })}
          </Box>
        </Card>
      )}
      <Card title="And otherwise">
        <label className="tick">
          <input type="checkbox" checked={worked} onChange={() => onKnown((now) => ({ ...now, worked: !worked }))} />
          <span>
            It has worked before, wired as it is now
            {known.worked === undefined && outings > 0 && (
              <Box as="span" color="fg.muted">
                {" "}
                (your journal has {counted(outings, "outing")})
              </Box>
            )}
          </span>
        </label>
        {SIGNS.filter(([sign]) => sign !== "cold" || known.saw.some((one) => one.symptom === "hot")).map(([sign, words]) => {
          const on = known.saw.some((one) => one.symptom === sign);
          return (
            <label key={sign} className="tick">
              <input
                type="checkbox"
                checked={on}
                onChange={() =>
                  onKnown((now) => ({
                    ...now,
                    saw: on ? now.saw.filter((one) => one.symptom !== sign) : [...now.saw, { light: null, symptom: sign, from: null }],
                  }))
                }
              />
              {words}
            </label>
          );
        })}
      </Card>
      <Box color="stop.fg" fontSize="sm" mt="3">
        Smoke, a swollen cell, a wire too hot to hold: battery off first, outside if it is lithium. Look for the fault afterwards.
      </Box>
    </>
  );
}
