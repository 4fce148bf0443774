import { Box, Button } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Taught, answer, api, problemOf } from "../../api/client";
import { Card } from "../../ui/StepHeading";
import { say } from "../../units";

interface Props {
  id: string;
  /** Told once: whether the first answer was right. */
  onDone: (good: boolean) => void;
  onClose: () => void;
  next: { id: string; title: string } | undefined;
  onNext: (id: string) => void;
}

/** One idea: say first what will happen, then change it and look. */
export function Lesson({ id, onDone, onClose, next, onNext }: Props) {
  const asked = useQuery({
    queryKey: ["lesson", id],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/lesson", { body: { lesson: id }, signal })),
    staleTime: Infinity,
  });
  const [said, setSaid] = useState<number | null>(null);
  const [at, setAt] = useState(0);
  if (asked.error)
    return (
      <Box role="alert" color="stop.fg">
        {problemOf(asked.error).detail}
      </Box>
    );
  if (!asked.data) return <p className="quiet">Setting it up …</p>;
  const lesson = asked.data;
  const shown = lesson.positions[at]!;
  const right = said === lesson.right;
  return (
    <Card
      title={lesson.title}
      aside={
        <Button size="xs" minH="8" variant="outline" onClick={onClose}>
          Back to the list
        </Button>
      }
    >
      <Box mb="3">{lesson.idea}</Box>
      <Box as="fieldset" mb="3">
        <Box as="legend" fontWeight="semibold" mb="1.5">
          {lesson.question}
        </Box>
        <Box display="grid" gap="2">
          {lesson.choices.map((choice, index) => (
            <Button
              key={choice}
              size="sm"
              minH="10"
              h="auto"
              py="2"
              whiteSpace="normal"
              textAlign="left"
              justifyContent="flex-start"
              variant={said === index ? "solid" : "outline"}
              colorPalette={said === index ? "lantern" : undefined}
              aria-pressed={said === index}
              disabled={said !== null && said !== index && index !== lesson.right}
              onClick={() => {
                if (said !== null) return;
                setSaid(index);
                onDone(index === lesson.right);
              }}
            >
              {said !== null && index === lesson.right ? "✓ " : said === index ? "✕ " : ""}
              {choice}
            </Button>
          ))}
        </Box>
      </Box>
      {said !== null && (
        <>
          <Box role="status" mb="3">
            <Box as="span" fontWeight="semibold" color={right ? "good.fg" : "fix.fg"}>
              {right ? "Right. " : "Not so. "}
            </Box>
            {lesson.why}
          </Box>
          <Box as="fieldset" borderTopWidth="1px" pt="3">
            <Box as="legend" srOnly>
              {lesson.control}
            </Box>
            <Box className="dial">
              <label htmlFor="lesson-at">{lesson.control}</label>
              <output>{shown.label}</output>
              <input
                id="lesson-at"
                type="range"
                min="0"
                max={lesson.positions.length - 1}
                step="1"
                value={at}
                aria-valuetext={shown.label}
                onChange={(event) => setAt(Number(event.target.value))}
              />
            </Box>
          </Box>
          <Glowing glow={shown.glow} />
          <Box as="dl" aria-live="polite" mt="3" display="grid" gap="1">
            {shown.figures.map((figure) => (
              <Box key={figure.name} display="flex" justifyContent="space-between" gap="3" alignItems="baseline">
                <Box as="dt" color="fg.muted">
                  {figure.name}
                </Box>
                <Box as="dd" fontSize="xl" fontWeight="semibold" fontVariantNumeric="tabular-nums">
                  {figure.value === null || figure.value === undefined
                    ? figure.unit === "s"
                      ? "never"
                      : "nothing"
                    : say({ value: figure.value, unit: figure.unit })}
                </Box>
              </Box>
            ))}
          </Box>
          {shown.harm && (
            <Box role="alert" mt="3" color="stop.fg" fontWeight="semibold">
              ✕ {shown.harm}
            </Box>
          )}
          {next && (
            <Button size="sm" minH="9" mt="4" colorPalette="lantern" onClick={() => onNext(next.id)}>
              Next: {next.title}
            </Button>
          )}
        </>
      )}
    </Card>
  );
}

/** How bright the light is along its length. */
function Glowing({ glow }: { glow: Taught["positions"][number]["glow"] }) {
  if (glow.length === 0) return null;
  const most = Math.max(...glow);
  const words = most < 0.02 ? "dark" : `${Math.round(100 * glow[0]!)} % of its rated light at the start, ${Math.round(100 * glow.at(-1)!)} % at the end`;
  return (
    <Box role="img" aria-label={`The light: ${words}`} display="flex" mt="3" h="6" borderRadius="sm" overflow="hidden" bg="black">
      {glow.map((share, index) => (
        <Box key={index} flex="1" style={{ background: "#ffcf8a", opacity: Math.max(0.02, share / Math.max(1, most)) }} />
      ))}
    </Box>
  );
}
