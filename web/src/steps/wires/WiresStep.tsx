import { Box, Button, chakra } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { type Build, type Fact, type Feed, answer, api, problemOf } from "../../api/client";
import { called, fedLists, put, valueAt, wordsOf } from "../../document/fields";
import { JOB, supplierName } from "../../document/job";
import { Choices, Helper } from "../../job/Choices";
import { EffectView } from "../../job/Effect";
import { Field, MoreFields } from "../../job/Field";
import { Choice, FieldGrid, gaugeName } from "../../job/fields";
import { Figure } from "../../job/Figure";
import { of, read, share, inOwn } from "../../units";
import { Card, Readout, StepHeading } from "../../ui/StepHeading";
import type { EditorProps } from "../../document/editor";

interface FeedHere {
  id: string;
  owner: string;
  feed: Feed;
  /** Its place in the document. */
  at: string;
}

/** Every feed of the document: the lists whose members are fed are in the core's table. */
function feedsOf(build: Build): FeedHere[] {
  return fedLists().flatMap(([list, field, several]) => {
    const members = (build as unknown as Record<string, Record<string, unknown>[] | undefined>)[list] ?? [];
    return members.flatMap((one, i) => {
      const owner = one["id"] as string;
      const all = (several ? one[field] : [one[field]]) as Feed[];
      return all.map((feed, j) => ({ id: j ? `${owner}#${j}` : owner, owner, feed, at: `/${list}/${i}/${field}${several ? `/${j}` : ""}` }));
    });
  });
}

/** What a feed begins with that goes over to something that moves. */
const MOVES = { ...JOB.moves[wordsOf("MovingKind")[0]![0]]! };

/** Another way of moving: a wire that only bends never loses touch. */
const moved = (at: string) => (draft: Build) => {
  const { resistance_ohm, bounce_share, bends } = JOB.moves[String(valueAt(draft, `${at}/moving/kind`))] ?? { bends: false };
  if (!bends) return;
  put(draft, `${at}/moving/resistance_ohm`, resistance_ohm);
  put(draft, `${at}/moving/bounce_share`, bounce_share);
};

/** How a feed gets over to something that turns, folds or slides. */
function MovingFields({ at, moving }: { at: string; moving: NonNullable<Feed["moving"]> }) {
  const { bends } = JOB.moves[moving.kind]!;
  return (
    <>
      {!bends && <Field at={`${at}/resistance_ohm`} />}
      {!bends && <Field at={`${at}/bounce_share`} />}
      {bends && <Field at={`${at}/angle_deg`} />}
      {bends && <Field at={`${at}/radius_m`} />}
    </>
  );
}

/** Every feed: length, thickness, fuse, switch and plugs. */
export function WiresStep(props: EditorProps) {
  const all = feedsOf(props.build);
  return (
    <>
      <StepHeading title="Wires">Lengths one way, with slack where something folds, steers or is lifted.</StepHeading>
      {all.length === 0 && <Box color="fg.muted">Wires come with the first converter or light. Start at step 3, Lights.</Box>}
      {all.length > 0 && <SizeEverything {...props} />}
      {all.map((here) => (
        <FeedCard key={here.id} {...props} here={here} others={all.filter((other) => other !== here)} />
      ))}
    </>
  );
}

function FeedCard({ build, edit, replace, carried, selected, onSelect, here, others }: EditorProps & { here: FeedHere; others: FeedHere[] }) {
  const { feed, at } = here;
  const form = JOB.lights.find(({ load }) => load !== null && load === build.lights.find((light) => light.id === here.owner)?.load.kind);
  const long = form?.cut === true;
  const open = selected === here.owner;
  const facts = carried[here.id] ?? [];
  return (
    <Card
      title={
        <chakra.button type="button" textAlign="left" cursor="pointer" minH="8" aria-expanded={open} onClick={() => onSelect(open ? null : here.owner)}>
          {supplierName(build, feed.from)} → {here.id}
          <Box as="span" display="block" fontWeight="normal" fontSize="xs" color="fg.muted">
            {gaugeName(feed.gauge)}, {feed.fuse ? `${read(of(feed.fuse, "rating_a"))} ${called("FuseStyle", feed.fuse.style)}` : "no fuse"}
          </Box>
        </chakra.button>
      }
      selected={open}
    >
      <Budgets facts={facts} />
      {open && (
        <>
          <FieldGrid>
            <Field at={`${at}/length_m`} />
            <Field at={`${at}/gauge`} />
            <Field at={`${at}/fuse/style`} none="No fuse" clears={`${at}/fuse`} />
            {feed.fuse && <Field at={`${at}/fuse/rating_a`} />}
            <Field at={`${at}/switch/rating_a`} clears={`${at}/switch`} />
            <Field at={`${at}/slack_m`} />
            <Field at={`${at}/plus_colour`} />
            <Field at={`${at}/minus_colour`} />
            <Field at={`${at}/contacts`} />
            {feed.contacts > 0 && <Field at={`${at}/contact_rating_a`} />}
            <Field
              at={`${at}/moving/kind`}
              none="It does not move"
              clears={`${at}/moving`}
              begins={{ resistance_ohm: MOVES.resistance_ohm, bounce_share: MOVES.bounce_share }}
              then={moved(at)}
            />
            {feed.moving && <MovingFields at={`${at}/moving`} moving={feed.moving} />}
            <Field at={`${at}/bundled`} />
            <Field at={`${at}/return`} />
            {long && <Field at={`${at}/at_m`} hint="from its start" />}
            <Field at={`${at}/dimmer/rating_a`} clears={`${at}/dimmer`} />
            {feed.dimmer && <Field at={`${at}/dimmer/hz`} />}
          </FieldGrid>
          <MoreFields title="Where its fuse sits, its contacts">
            {feed.fuse && <Field at={`${at}/fuse/at_m`} />}
            {feed.fuse && <Field at={`${at}/fuse/side`} none="Plus, where it belongs" />}
            {feed.switch && <Field at={`${at}/switch/rating_v`} />}
            {feed.contacts > 0 && <Field at={`${at}/contact_rating_v`} />}
            <Field at={`${at}/keyed`} />
            {feed.contacts > 0 && <Field at={`${at}/plugs_sealed`} />}
          </MoreFields>
          {others.length > 0 && (
            <Box mt="3">
              <Choice
                label="The same wire, fuse and switch as"
                value=""
                options={[["", "choose a feed to copy …"], ...others.map((other) => [other.id, other.id] as const)]}
                onChange={(id) => {
                  const like = others.find((other) => other.id === id)?.feed;
                  // Where it goes and how long it is stay its own.
                  if (like)
                    edit((draft) => {
                      const { from, at_m, length_m, slack_m } = feed;
                      put(draft, at, { ...structuredClone(like), from, at_m, length_m, slack_m });
                    }, `${at}/copy`);
                }}
              />
            </Box>
          )}
          <Readout
            rows={facts.map(
              (fact) =>
                [
                  fact.label,
                  <>
                    <Figure label={fact.label} text={read(fact)} working={fact.working} />
                    {typeof fact.used === "number" && ` · ${share(fact.used)} used`}
                  </>,
                ] as const,
            )}
          />
          <Helper title="How thick">
            {() => <Choices build={build} question={{ kind: "wire", feed: here.id }} figures={["drop_v", "drop_share", "current_a"]} onTake={replace} />}
          </Helper>
          <Helper title="Which fuse">
            {() => <Choices build={build} question={{ kind: "fuse", feed: here.id }} figures={["rating_a", "fault_a", "opens_s"]} onTake={replace} />}
          </Helper>
        </>
      )}
    </Card>
  );
}

/** What a feed uses of what it may: current against its wire in its bundle, loss against 3 % of the supply. */
function Budgets({ facts }: { facts: readonly Fact[] }) {
  return (
    <div className="budgets">
      {facts.map(
        (fact) =>
          typeof fact.used === "number" && (
            <div key={fact.key} className={fact.used > 1 ? "budget over" : "budget"}>
              <span>
                {read(fact)} {fact.key === "drop_v" ? "lost" : "carried"}
              </span>
              <span>
                {share(fact.used)} of {read(fact.working.given.find((given) => given.symbol === "limit") ?? { value: 0, unit: fact.unit })}
              </span>
              <div aria-hidden>
                <div style={{ width: `${Math.min(100, 100 * fact.used)}%` }} />
              </div>
            </div>
          ),
      )}
    </div>
  );
}

/** All gauges and fuses at once, shown before anything changes. */
function SizeEverything({ build, replace }: EditorProps) {
  const preview = useMutation({
    mutationFn: async () => {
      const sized = await answer(api.POST("/api/v1/size", { body: { document: build } }));
      return { sized, ...(await answer(api.POST("/api/v1/apply", { body: { document: build, changes: sized.changes } }))) };
    },
  });
  const { data, reset } = preview;
  return (
    <Card title="Choose wire and fuse sizes for me">
      <Box color="fg.muted" fontSize="xs" mb="2">
        Every wire for its current and 3 % loss, every fuse for its wire. What is thicker than needed stays.
      </Box>
      {data ? (
        <>
          {data.sized.lines.length === 0 ? (
            <Box role="status">Nothing to change: every wire and fuse already fits.</Box>
          ) : (
            <Box as="ul" listStyleType="none" fontSize="xs" display="grid" gap="1" mb="2">
              {data.sized.lines.map((line) => (
                <Box as="li" key={line.feed}>
                  <b>{line.feed}</b>: {line.before} → <b>{line.after}</b>
                  <Box color="fg.muted">{inOwn(line.why)}</Box>
                </Box>
              ))}
            </Box>
          )}
          {data.sized.lines.length > 0 && (
            <EffectView
              title="All of it"
              effect={data.effect}
              onApply={() => {
                replace(data.document);
                reset();
              }}
              onCancel={reset}
            />
          )}
        </>
      ) : (
        <Button size="sm" colorPalette="lantern" loading={preview.isPending} onClick={() => preview.mutate()}>
          Preview changes
        </Button>
      )}
      {preview.error && (
        <Box role="alert" mt="2" color="stop.fg" fontSize="xs">
          {problemOf(preview.error).detail}
        </Box>
      )}
    </Card>
  );
}
