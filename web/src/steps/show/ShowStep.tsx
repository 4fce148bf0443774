import { Box, Button } from "@chakra-ui/react";
import { useState } from "react";
import type { Cards, PixelEffect, Scene } from "../../api/client";
import type { EditorProps } from "../../document/editor";
import { called, escaped } from "../../document/fields";
import { useChange } from "../../document/useChange";
import { Choice } from "../../job/fields";
import { Card, StepHeading } from "../../ui/StepHeading";
import { Brightness, EffectEditor } from "./EffectEditor";
import { FirstRun } from "./FirstRun";
import { Thumb } from "./Thumb";
import { useCards } from "./useShow";
import type { ShowState } from "./useShowState";

type Props = EditorProps & { show: ShowState; goScene: (id: string) => void };

/** What the lights do: ready shows, effects, and the order of the data wire. */
export function ShowStep(props: Props) {
  const { build } = props;
  const cards = useCards(build).data;
  const pixels = build.lights.filter((light) => light.load.kind === "pixels");
  return (
    <>
      <StepHeading title="Show">What the lights do, and what that takes of the battery.</StepHeading>
      {pixels.length === 0 ? (
        <Card title="No pixels yet">
          <p className="quiet">Only addressable lights can move. Add one at the step Lights.</p>
        </Card>
      ) : (
        <>
          <OfLights {...props} cards={cards} pixels={pixels.map((light) => light.id)} />
          <ReadyShows {...props} cards={cards} />
          <ChainsCard {...props} />
        </>
      )}
    </>
  );
}

/** The light that is chosen, its effect in this scene, and others to pick. */
function OfLights({ build, edit, scene, selected, onSelect, cards, pixels }: Props & { cards: Cards | undefined; pixels: string[] }) {
  const [pointed, setPointed] = useState<string | null>(null);
  const own = selected && pixels.includes(selected) ? selected : pixels[0]!;
  const index = build.scenes.findIndex((known) => known.id === scene);
  const lit = build.scenes[index]?.lights[own];
  const at = `/scenes/${index}/lights/${escaped(own)}`;
  // Pieces that share their numbers show the same.
  const alike = (build.controllers ?? []).flatMap((one) => one.outputs).flatMap((output) => (output.kind === "data" ? output.chain : []));
  const copies = alike.find((link) => link.copies?.includes(own))?.copies ?? [own];
  const put = (effect: PixelEffect, lights: readonly string[]) =>
    edit((draft) => {
      for (const light of lights) {
        const known = draft.scenes[index]!.lights[light];
        draft.scenes[index]!.lights[light] = { level: known?.level ?? 1, colour: known?.colour ?? [1, 1, 1], duty: 1, effect: structuredClone(effect) };
      }
    });
  return (
    <Card title="What this scene shows">
      <Choice label="Light" value={own} options={pixels.map((id) => [id, id] as const)} onChange={onSelect} />
      {copies.length > 1 && <p className="quiet">{`Shares its numbers with ${copies.filter((id) => id !== own).join(", ")}: they show the same.`}</p>}
      <Box mt="2">
        <b>{lit?.effect ? called("EffectKind", lit.effect.kind) : lit && lit.level > 0 ? "one colour, steady" : "dark in this scene"}</b>
      </Box>
      {lit?.effect && cards && (
        <EffectEditor
          at={`${at}/effect`}
          effect={lit.effect}
          inputs={cards.inputs}
          begun={cards.effects.map((card) => card.effect)}
          onChange={(then) =>
            edit((draft) => {
              for (const light of copies) {
                const effect = draft.scenes[index]!.lights[light]?.effect;
                if (effect) then(effect);
              }
            }, `effect.${own}`)
          }
        />
      )}
      {lit && <Brightness at={`${at}/level`} />}
      <Box display="grid" gridTemplateColumns="repeat(auto-fill, minmax(8.5rem, 1fr))" gap="2" mt="3" role="group" aria-label="Effects">
        {(cards?.effects ?? []).map((card) => (
          <button
            key={card.effect.kind}
            type="button"
            className="pick"
            title={card.about}
            aria-pressed={lit?.effect?.kind === card.effect.kind}
            onPointerEnter={() => setPointed(card.effect.kind)}
            onPointerLeave={() => setPointed(null)}
            onClick={() => put(card.effect, copies)}
          >
            <Thumb thumbnail={card.thumbnail} moves={pointed === card.effect.kind && !STILL.matches} />
            {card.called}
          </button>
        ))}
      </Box>
      {lit?.effect && pixels.length > copies.length && (
        <Button size="xs" minH="8" mt="2" variant="outline" onClick={() => put(lit.effect!, pixels)}>
          The same on every piece
        </Button>
      )}
    </Card>
  );
}

const STILL = window.matchMedia("(prefers-reduced-motion: reduce)");

/** Whole shows: each becomes a scene of its own. */
function ReadyShows({ edit, goScene, cards, build }: Props & { cards: Cards | undefined }) {
  const [pointed, setPointed] = useState<string | null>(null);
  return (
    <Card title="Ready shows">
      <p className="quiet">Each becomes a scene of its own; what is there stays.</p>
      <Box display="grid" gap="2" mt="2">
        {(cards?.shows ?? []).map(({ ready, thumbnail }) => (
          <button
            key={ready.show}
            type="button"
            className="pick wide"
            disabled={build.scenes.length >= 100}
            onPointerEnter={() => setPointed(ready.show)}
            onPointerLeave={() => setPointed(null)}
            onClick={() => {
              edit((draft) => void draft.scenes.push(structuredClone(ready.scene) as Scene));
              goScene(ready.scene.id);
            }}
          >
            <b>{ready.name}</b>
            <Thumb thumbnail={thumbnail} moves={pointed === ready.show && !STILL.matches} />
            <span className="quiet">{ready.about}</span>
          </button>
        ))}
      </Box>
    </Card>
  );
}

/** The order of the data wire: clicked on the vehicle or here, turned round, and checked by a first run. */
function ChainsCard({ build, edit, replace, show: { view, order, setOrder } }: Props) {
  const { add, busy } = useChange(build, replace);
  // It hangs where its pixels hang.
  const supply = build.lights.find((light) => light.load.kind === "pixels")?.feeds[0]?.from ?? "source";
  const [running, setRunning] = useState<string | null>(null);
  const [ordering, setOrdering] = useState<string | null>(null);
  const chains = (view.data?.chains ?? []).filter((chain) => chain.controller != null);
  const alone = (view.data?.chains ?? []).filter((chain) => chain.controller == null);
  const output = (name: string) =>
    (build.controllers ?? []).flatMap((own, controller) =>
      own.outputs.flatMap((known, place) => (`${own.id}/${known.pin}` === name ? [{ controller, place }] : [])),
    )[0];
  const all = ordering === null ? [] : (chains.find((chain) => chain.output === ordering)?.pieces ?? []);
  // Copies are clicked as one.
  const groups = all.filter((piece, index) => all.findIndex((other) => other.first === piece.first) === index);
  const done = order !== null && groups.length > 0 && groups.every((piece) => all.some((other) => other.first === piece.first && order.includes(other.light)));
  const take = () => {
    const place = ordering === null ? undefined : output(ordering);
    if (place && order)
      edit((draft) => {
        const own = draft.controllers![place.controller]!.outputs[place.place]!;
        if (own.kind !== "data") return;
        const links = own.chain;
        const rank = (link: (typeof links)[number]) =>
          Math.min(...[link.light, ...(link.copies ?? [])].map((id) => (id && order.includes(id) ? order.indexOf(id) : Infinity)));
        own.chain = [...links].sort((a, b) => rank(a) - rank(b));
      });
    leave();
  };
  const leave = () => {
    setOrdering(null);
    setOrder(null);
  };
  return (
    <Card title="The data wire">
      {alone.length > 0 && (
        <>
          <p className="quiet">{`${alone.map((chain) => chain.output).join(", ")} ${alone.length > 1 ? "have" : "has"} no controller yet: the board that tells pixels what to show.`}</p>
          <Button size="sm" minH="9" mt="2" colorPalette="lantern" loading={busy} onClick={() => add({ kind: "controller", from: supply })}>
            Add a controller
          </Button>
        </>
      )}
      {chains.map((chain) => (
        <Box key={chain.output} mt="2">
          <b>{chain.output}</b> <span className="quiet">{`${chain.count} numbers`}</span>
          <Box as="ol" listStyleType="none" display="grid" gap="1" mt="1" aria-label={`Pieces of ${chain.output}`}>
            {chain.pieces.map((piece) => (
              <Box as="li" key={piece.light} display="flex" gap="2" alignItems="center" flexWrap="wrap">
                <Box flex="1 1 6rem">
                  {piece.light} <span className="quiet">{`${piece.first} to ${piece.last}${piece.copy ? ", a copy" : ""}`}</span>
                </Box>
                {ordering === chain.output ? (
                  <Button
                    size="xs"
                    minH="8"
                    variant="outline"
                    disabled={order?.includes(piece.light) ?? false}
                    onClick={() => setOrder([...(order ?? []), piece.light])}
                  >
                    {order?.includes(piece.light) ? String(order.indexOf(piece.light) + 1) : "next"}
                  </Button>
                ) : (
                  <Button
                    size="xs"
                    minH="8"
                    variant="outline"
                    aria-label={`Turn ${piece.light} round: data from ${piece.against ? "the far end" : "where its place begins"}`}
                    onClick={() => {
                      const place = output(chain.output);
                      if (place)
                        edit((draft) => {
                          const own = draft.controllers![place.controller]!.outputs[place.place]!;
                          const links = own.kind === "data" ? own.chain : [];
                          const link = links.find((known) => known.light === piece.light || known.copies?.includes(piece.light));
                          if (link) link.mounted = piece.against ? "along" : "against";
                        });
                    }}
                  >
                    {piece.against ? "← from its far end" : "→ from its near end"}
                  </Button>
                )}
              </Box>
            ))}
          </Box>
          {ordering === chain.output ? (
            <>
              <p className="quiet">Click the pieces on the vehicle in the order in which the data wire passes them.</p>
              <Box display="flex" gap="2" mt="1">
                <Button size="xs" minH="8" colorPalette="lantern" disabled={!done} onClick={take}>
                  Take this order
                </Button>
                <Button size="xs" minH="8" variant="ghost" onClick={leave}>
                  Leave it
                </Button>
              </Box>
            </>
          ) : (
            <Box display="flex" gap="2" mt="2" flexWrap="wrap">
              {chain.pieces.length > 1 && (
                <Button
                  size="xs"
                  minH="8"
                  variant="outline"
                  onClick={() => {
                    setOrdering(chain.output);
                    setOrder([]);
                  }}
                >
                  Put in order by clicking
                </Button>
              )}
              <Button size="xs" minH="8" variant="outline" aria-expanded={running === chain.output} onClick={() => setRunning(chain.output)}>
                First run: which one is red?
              </Button>
            </Box>
          )}
          {running === chain.output && <FirstRun build={build} output={chain.output} replace={replace} onClose={() => setRunning(null)} />}
        </Box>
      ))}
    </Card>
  );
}
