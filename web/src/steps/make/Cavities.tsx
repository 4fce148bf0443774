import { Box, Button } from "@chakra-ui/react";
import type { Build } from "../../api/client";
import type { EditorProps } from "../../document/editor";
import { JOB } from "../../document/job";
import { Field } from "../../job/Field";
import { Choice } from "../../job/fields";
import { Card } from "../../ui/StepHeading";
import { type Make, makeOf } from "./decided";

const SIDES = ["length", "width", "height"] as const;
const WAYS = ["forward", "left", "up"] as const;
const OUTSIDE = "outside";

type Props = Pick<EditorProps, "build" | "edit">;

const partsOf = (build: Build) => [...build.converters, ...build.junctions, ...(build.circuits ?? []), ...build.lights].map((part) => part.id);

/** An id that nothing has yet, after a word. */
function fresh(word: string, taken: readonly string[]): string {
  if (!taken.includes(word)) return word;
  let number = 2;
  while (taken.includes(`${word}-${number}`)) number++;
  return `${word}-${number}`;
}

/** What there is room in, and which part is kept where. */
export function Cavities({ build, edit }: Props) {
  const spaces = build.make?.spaces ?? [];
  const change = (how: (make: Make) => void) => edit((draft) => how(makeOf(draft)), "/make/spaces");
  return (
    <Card
      title="Where it goes"
      aside={
        <Button
          size="xs"
          minH="8"
          variant="outline"
          onClick={() =>
            change((make) => {
              const taken = make.spaces.map((space) => space.id);
              make.spaces.push({ id: fresh("box", taken), size_mm: [120, 80, 40], openings: [] });
            })
          }
        >
          Add a cavity
        </Button>
      }
    >
      {spaces.length === 0 && (
        <Box color="fg.muted">
          A lamp, a seat tube, the box under a deck: measure what is free inside, and see whether converters, their wires and the air they need go in.
        </Box>
      )}
      {spaces.map((space, index) => (
        <Box key={index} borderTopWidth={index > 0 ? "1px" : undefined} py="3" display="grid" gap="2">
          <Box display="grid" gridTemplateColumns="1fr auto" gap="2" alignItems="end">
            <Field at={`/make/spaces/${index}/id`} label="Name" then={(draft) => renamed(draft, space.id, index)} />
            <Button size="sm" minH="9" variant="ghost" aria-label={`Take out ${space.id}`} onClick={() => change((make) => takenOut(make, index))}>
              ✕
            </Button>
          </Box>
          <Field at={`/make/spaces/${index}/size_mm`} three={SIDES} />
          {space.openings.map((_, number) => (
            <Box key={number} display="grid" gridTemplateColumns="1fr 1fr auto" gap="2" alignItems="end">
              <Field at={`/make/spaces/${index}/openings/${number}/width_mm`} />
              <Field at={`/make/spaces/${index}/openings/${number}/height_mm`} />
              <Button
                size="sm"
                minH="9"
                variant="ghost"
                aria-label={`Take out opening ${number + 1} of ${space.id}`}
                onClick={() => change((make) => make.spaces[index]!.openings.splice(number, 1))}
              >
                ✕
              </Button>
            </Box>
          ))}
          <Box>
            <Button size="xs" minH="8" variant="outline" onClick={() => change((make) => make.spaces[index]!.openings.push({ width_mm: 20, height_mm: 12 }))}>
              Add an opening
            </Button>{" "}
            {space.openings.length === 0 && (
              <Box as="span" color="fg.muted" fontSize="sm">
                none: it stands open while parts go in
              </Box>
            )}
          </Box>
          <Field at={`/make/spaces/${index}/cells`} />
        </Box>
      ))}
      {spaces.length > 0 && partsOf(build).map((part) => <Kept key={part} build={build} edit={edit} part={part} />)}
    </Card>
  );
}

/** Whoever was kept in it goes along with a new name. */
function renamed(draft: Build, before: string, index: number) {
  const make = makeOf(draft);
  for (const one of make.inside) if (one.space === before) one.space = make.spaces[index]!.id;
}

function takenOut(make: Make, index: number) {
  const [gone] = make.spaces.splice(index, 1);
  for (const one of make.inside) if (one.space === gone!.id) one.space = undefined;
}

/** Where one part is kept, and its size where it is not the usual one. */
function Kept({ build, edit, part }: Props & { part: string }) {
  const at = build.make?.inside.findIndex((one) => one.part === part) ?? -1;
  const said = build.make?.inside[at];
  // Modules and blocks go inside by themselves, lights only where someone says so.
  const usually = !build.lights.some((light) => light.id === part);
  const put = (how: (one: Make["inside"][number]) => void) =>
    edit((draft) => {
      const { inside } = makeOf(draft);
      let known = inside.find((one) => one.part === part);
      if (!known) inside.push((known = { part }));
      how(known);
    }, "/make/inside");
  const now = said ? (said.space ?? "") : usually ? "" : OUTSIDE;
  return (
    <Box borderTopWidth="1px" py="2" display="grid" gap="2">
      <Choice
        label={part}
        value={now}
        options={[["", "wherever it fits"], ...(build.make?.spaces ?? []).map((space) => [space.id, `in ${space.id}`] as const), [OUTSIDE, "outside"]]}
        onChange={(space) => put((one) => (one.space = space === "" ? undefined : space))}
      />
      {now !== OUTSIDE &&
        (said?.size_mm ? (
          <Field at={`/make/inside/${at}/size_mm`} three={SIDES} />
        ) : (
          <Box>
            <Button size="xs" minH="8" variant="ghost" onClick={() => put((one) => (one.size_mm = [50, 25, 15]))}>
              Give its size
            </Button>
          </Box>
        ))}
    </Box>
  );
}

/** Where parts sit, for the balance of what flies or leans. */
export function Positions({ build, edit }: Props) {
  const positions = build.make?.positions ?? [];
  const free = [...partsOf(build), "source", ...JOB.listens].filter((part) => !positions.some((one) => one.part === part));
  return (
    <Card title="Where parts sit">
      <Box color="fg.muted" mb="2">
        From the point on which it balances now, in mm. It tells how far the centre of mass moves.
      </Box>
      {positions.map((one, index) => (
        <Box key={one.part} borderTopWidth="1px" py="2">
          <Box display="flex" alignItems="center">
            <Box fontWeight="semibold" flex="1">
              {one.part === "source" ? "battery" : one.part}
            </Box>
            <Button
              size="sm"
              minH="9"
              variant="ghost"
              aria-label={`Take out the position of ${one.part}`}
              onClick={() => edit((draft) => makeOf(draft).positions.splice(index, 1), "/make/positions")}
            >
              ✕
            </Button>
          </Box>
          <Field at={`/make/positions/${index}/at_mm`} three={WAYS} />
        </Box>
      ))}
      {free.length > 0 && (
        <Choice
          label="Add a part"
          value=""
          options={[["", "choose …"], ...free.map((part) => [part, part === "source" ? "battery" : part] as const)]}
          onChange={(part) => part && edit((draft) => makeOf(draft).positions.push({ part, at_mm: [0, 0, 0] }), "/make/positions")}
        />
      )}
    </Card>
  );
}
