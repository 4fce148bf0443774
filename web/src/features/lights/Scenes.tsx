import { Box, Button, IconButton } from "@chakra-ui/react";
import { NumberField } from "../../ui/fields";
import { Term } from "../../ui/Figure";
import { MINUTE } from "../../units";
import { Card } from "../build/StepHeading";
import type { EditorProps } from "../build/editor";
import { Icon } from "../../ui/icons";

const USUAL = ["Riding", "Parked", "Show", "Emergency", "Night"];

/** Which lights are on together. A new scene starts as a copy of the one that is shown. */
export function Scenes({ build, edit, scene }: EditorProps) {
  const add = () =>
    edit((draft) => {
      const shown = draft.scenes.find((known) => known.id === scene);
      const name = USUAL.find((word) => draft.scenes.every((known) => known.name !== word)) ?? `Scene ${draft.scenes.length + 1}`;
      let id = name.toLowerCase().replaceAll(" ", "-");
      while (draft.scenes.some((known) => known.id === id)) id += "-2";
      draft.scenes.push({ id, name, lights: structuredClone(shown?.lights ?? {}) });
      draft.usage.minutes[id] = 10;
    });
  return (
    <Card
      title={
        <Box display="flex" alignItems="center">
          Scenes <Term word="scene" />
        </Box>
      }
    >
      <Box as="ul" listStyleType="none" display="grid" gap="2">
        {build.scenes.map((known, index) => (
          <Box as="li" key={known.id} display="grid" gridTemplateColumns="minmax(0, 1fr) 6.5rem 2rem" gap="2" alignItems="end">
            <input
              className="control"
              aria-label={`Name of scene ${index + 1}`}
              maxLength={200}
              value={known.name}
              onChange={(event) => edit((draft) => void (draft.scenes[index]!.name = event.target.value), `scene.${known.id}`)}
            />
            <NumberField
              label="an outing"
              unit={MINUTE}
              max={100000}
              value={build.usage.minutes[known.id] ?? 0}
              onChange={(v) => edit((draft) => void (draft.usage.minutes[known.id] = v!), `minutes.${known.id}`)}
            />
            <IconButton
              aria-label={`Remove scene ${known.name}`}
              size="xs"
              minW="8"
              minH="8"
              variant="ghost"
              disabled={build.scenes.length === 1}
              onClick={() =>
                edit((draft) => {
                  draft.scenes.splice(index, 1);
                  delete draft.usage.minutes[known.id];
                })
              }
            >
              <Icon name="remove" />
            </IconButton>
          </Box>
        ))}
      </Box>
      <Button mt="3" size="sm" variant="outline" onClick={add}>
        Add a scene
      </Button>
    </Card>
  );
}
