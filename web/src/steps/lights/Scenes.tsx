import { Box, Button, IconButton } from "@chakra-ui/react";
import { escaped } from "../../document/fields";
import { useChange } from "../../document/useChange";
import { Field } from "../../job/Field";
import { Term } from "../../job/Figure";
import { Card } from "../../ui/StepHeading";
import type { EditorProps } from "../../document/editor";
import { Icon } from "../../ui/icons";

/** Which lights are on together. A new scene starts as a copy of the one that is shown. */
export function Scenes({ build, edit, replace, scene }: EditorProps) {
  const { add, remove } = useChange(build, replace);
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
            <Field at={`/usage/minutes/${escaped(known.id)}`} absent={0} />
            <IconButton
              aria-label={`Remove scene ${known.name}`}
              size="xs"
              minW="8"
              minH="8"
              variant="ghost"
              disabled={build.scenes.length === 1}
              onClick={() => remove({ kind: "scene", id: known.id })}
            >
              <Icon name="remove" />
            </IconButton>
          </Box>
        ))}
      </Box>
      <Button mt="3" size="sm" variant="outline" onClick={() => add({ kind: "scene", like: scene || null })}>
        Add a scene
      </Button>
    </Card>
  );
}
