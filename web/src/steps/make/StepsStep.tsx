import { Box, Button } from "@chakra-ui/react";
import type { ReactNode } from "react";
import type { Build, Made } from "../../api/client";
import type { EditorProps } from "../../document/editor";
import { called, wordsOf } from "../../document/fields";
import { JOB } from "../../document/job";
import { Field } from "../../job/Field";
import { Choice, FieldGrid } from "../../job/fields";
import { Card, StepHeading } from "../../ui/StepHeading";
import { type Make, makeOf } from "./decided";
import { sayMinutes } from "./time";
import { inOwn } from "../../units";

type Fixings = Made["fixings"];
type Surface = NonNullable<Make["fixings"][number]["surface"]>;

const SURFACES = wordsOf("Surface");

/** Evenings of a plan as a person writes them down. */
const sessionsOf = (evenings: Made["plan"]["evenings"]): Make["sessions"] =>
  evenings.map(([from, to]) => {
    const start = new Date(60_000 * (from! % 1440)).toISOString().slice(11, 16);
    return { weekday: wordsOf("Weekday")[Math.floor(from! / 1440)]![0] as Make["sessions"][number]["weekday"], start, minutes: to! - from! };
  });

/** When there is time, and how things are fixed. */
export function StepsStep({
  build,
  edit,
  selected,
  onSelect,
  fixings,
  evenings,
  children,
}: EditorProps & { fixings: Fixings; evenings: Made["plan"]["evenings"]; children: ReactNode }) {
  const sessions = build.make?.sessions ?? [];
  return (
    <>
      <StepHeading title="Steps">What to do, one thing after the other, with what to check before you go on.</StepHeading>
      <Card
        title="When there is time"
        aside={
          sessions.length === 0 ? (
            <Button
              size="xs"
              minH="8"
              variant="outline"
              disabled={evenings.length === 0}
              onClick={() => edit((draft) => (makeOf(draft).sessions = sessionsOf(evenings)), "/make")}
            >
              Change
            </Button>
          ) : (
            <Button
              size="xs"
              minH="8"
              variant="outline"
              onClick={() => edit((draft) => makeOf(draft).sessions.push({ ...JOB.time } as Make["sessions"][number]), "/make")}
            >
              Add a time
            </Button>
          )
        }
      >
        {sessions.length === 0 && (
          <Box color="fg.muted">A Friday evening, a Saturday and a Sunday, as people usually have them. Say when you have time, and the plan follows.</Box>
        )}
        {sessions.map((_, index) => (
          <Box key={index} display="grid" gridTemplateColumns="minmax(0, 1fr) minmax(0, 1fr)" gap="2" alignItems="end" mb="3">
            <Field at={`/make/sessions/${index}/weekday`} label="Day" />
            <Field at={`/make/sessions/${index}/start`} label="From" />
            <Field at={`/make/sessions/${index}/minutes`} label="for" />
            <Button
              size="sm"
              minH="9"
              variant="ghost"
              justifySelf="start"
              aria-label={`Take out time ${index + 1}`}
              onClick={() => edit((draft) => makeOf(draft).sessions.splice(index, 1), "/make")}
            >
              ✕
            </Button>
          </Box>
        ))}
        <Box mt="3">
          <FieldGrid>
            <Field at="/make/begins" hint="If left blank: today" absent={undefined} />
            <Field at="/make/hands" none="Nobody said: soldering" />
            <Field at="/make/people" />
            <Field at="/make/workshop_c" hint="If left blank: 20 °C. Below 10 °C glue takes twice as long" />
            <Field at="/make/delivery_days" hint="Days. If left blank: 5" />
          </FieldGrid>
        </Box>
      </Card>
      {children}
      <Card title="How parts are fixed">
        {fixings.length === 0 && <Box color="fg.muted">There is nothing to fix yet. Start at step 3, Lights.</Box>}
        {fixings.map((one) => (
          <Fixing
            key={one.part}
            build={build}
            edit={edit}
            one={one}
            open={selected === one.part}
            onOpen={() => onSelect(selected === one.part ? null : one.part)}
          />
        ))}
      </Card>
    </>
  );
}

interface FixingProps {
  build: Build;
  edit: EditorProps["edit"];
  one: Fixings[number];
  open: boolean;
  onOpen: () => void;
}

/** One part: with what, on what, and why so. */
function Fixing({ build, edit, one, open, onOpen }: FixingProps) {
  const now = one.ways[0]!;
  const decided = build.make?.fixings.find((fixed) => fixed.part === one.part);
  const put = (change: Partial<Make["fixings"][number]>) =>
    edit((draft) => {
      const { fixings } = makeOf(draft);
      const known = fixings.find((fixed) => fixed.part === one.part);
      if (known) Object.assign(known, change);
      else fixings.push({ part: one.part, ...change });
    }, "/make/fixings");
  return (
    <Box borderTopWidth="1px" py="2">
      <button type="button" className="plain" aria-expanded={open} onClick={onOpen} style={{ width: "100%", textAlign: "left", minHeight: "2rem" }}>
        <Box display="flex" gap="3">
          <Box flex="1" fontWeight="semibold">
            {one.part}
          </Box>
          <Box color={now.ruled_out ? "stop.fg" : "fg.muted"}>
            {now.ruled_out ? "✕ " : ""}
            {called("Fixing", now.fixing)} {open ? "▾" : "▸"}
          </Box>
        </Box>
      </button>
      {open && (
        <Box mt="2" display="grid" gap="2">
          <Choice
            label="Fixed with"
            value={now.fixing}
            options={one.ways.map((way) => [way.fixing, `${called("Fixing", way.fixing)}${way.ruled_out ? " (not here)" : ""}`] as const)}
            onChange={(fixing) => put({ fixing })}
          />
          <Choice
            label="On"
            value={decided?.surface ?? ""}
            options={[["", "as such vehicles have it"], ...SURFACES]}
            onChange={(surface) => put({ surface: surface === "" ? undefined : (surface as Surface) })}
          />
          <Box fontSize="sm">
            {now.pro.map((words) => (
              <Box key={words} color="good.fg">
                ✓ {words}
              </Box>
            ))}
            {now.con.map((words) => (
              <Box key={words} color={now.ruled_out ? "stop.fg" : "fix.fg"}>
                ! {words}
              </Box>
            ))}
            <Box color="fg.muted">
              {now.curing.full_min > 0 ? `Loaded after ${sayMinutes(now.curing.load_min)}, full after ${sayMinutes(now.curing.full_min)}.` : "Holds at once."}{" "}
              Covered with {one.protection.replaceAll("_", " ")}: {inOwn(one.why)}.
            </Box>
          </Box>
          <label className="tick">
            <input type="checkbox" checked={decided?.coat ?? false} onChange={() => put({ coat: !decided?.coat })} />A light-blocking coat, twice
          </label>
        </Box>
      )}
    </Box>
  );
}
