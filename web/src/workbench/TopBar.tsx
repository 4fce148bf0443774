import { Box, IconButton, VisuallyHidden, chakra } from "@chakra-ui/react";
import { useMutation } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type ChangeEvent, memo } from "react";
import { type Scene, type SourceState, type StoredBuild, answer, api, problemOf } from "../api/client";
import { STATE_NAMES } from "../document/steps";
import { useMayEdit } from "../garage/role";
import { Icon } from "../ui/icons";
import { Segments } from "../ui/Segments";
import { saveFile } from "../base/save";
import { Settings } from "../ui/Settings";
import { HistoryDialog } from "./HistoryDialog";
import type { Edit } from "../document/useBuild";
import { toaster } from "../base/toaster";
import { useSaving } from "../document/useSaving";
import { SaveNote } from "./Saving";

interface Props extends ToolbarProps {
  name: string;
  scenes: readonly Scene[];
  scene: string;
  states: readonly SourceState[];
  state: SourceState;
  edit: Edit;
  go: (change: { scene?: string; state?: SourceState }) => void;
}

/** Name, saving, tools, and the two dials: scene and battery. */
export const TopBar = memo(function TopBar({
  id,
  name,
  scenes,
  scene,
  states,
  state,
  canUndo,
  canRedo,
  edit,
  undo,
  redo,
  go,
  onRestore,
  onExport,
  onPalette,
}: Props) {
  return (
    <Box
      as="header"
      display="flex"
      flexWrap="wrap"
      alignItems="center"
      columnGap={{ base: "2", md: "3" }}
      rowGap={{ base: "1", md: "2" }}
      px={{ base: "2", md: "4" }}
      py={{ base: "1", md: "1.5" }}
      minH="13"
      bg="bg.subtle"
      borderBottomWidth="1px"
    >
      <Box asChild color="lantern.fg" fontWeight="bold" minH="8" display="inline-flex" alignItems="center">
        <Link to="/" aria-label="Orthavis, back to the shelf">
          <Box as="span" hideBelow="md">
            Orthavis
          </Box>
          {/* On a phone the name of the build needs the room. */}
          <Box as="span" hideFrom="md" aria-hidden fontSize="xl" minW="8" textAlign="center">
            ‹
          </Box>
        </Link>
      </Box>
      <VisuallyHidden asChild>
        <h1>{name}</h1>
      </VisuallyHidden>
      <Box flex={{ base: "1 1 6rem", md: "1 1 8rem" }} maxW="16rem" minW="0">
        <chakra.input
          aria-label="Name of the build"
          value={name}
          maxLength={200}
          onChange={(event: ChangeEvent<HTMLInputElement>) => edit((draft) => void (draft.name = event.target.value), "name")}
          fontSize="md"
          fontWeight="semibold"
          bg="transparent"
          minW="0"
          w="full"
          minH="7"
          px="1"
          borderRadius="sm"
          textOverflow="ellipsis"
          _hover={{ bg: "bg.muted" }}
        />
        <SaveNote />
      </Box>
      <Toolbar id={id} canUndo={canUndo} canRedo={canRedo} undo={undo} redo={redo} onRestore={onRestore} onExport={onExport} onPalette={onPalette} />
      <Box display="flex" flexWrap="wrap" alignItems="center" columnGap={{ base: "2", md: "3" }} rowGap={{ base: "1", md: "2" }} minW="0">
        {scenes.length > 0 && (
          <>
            <Box hideBelow="md" minW="0">
              <Segments label="Scene" value={scene} options={scenes.map((known) => [known.id, known.name] as const)} onChange={(next) => go({ scene: next })} />
            </Box>
            <Box hideFrom="md" w="7.5rem">
              <select className="control" aria-label="Scene" value={scene} onChange={(event) => go({ scene: event.target.value })}>
                {scenes.map((known) => (
                  <option key={known.id} value={known.id}>
                    {known.name}
                  </option>
                ))}
              </select>
            </Box>
          </>
        )}
        <Segments
          label="Battery at"
          value={state}
          options={states.map((known) => [known, STATE_NAMES[known]] as const)}
          onChange={(next) => go({ state: next })}
        />
      </Box>
    </Box>
  );
});

interface ToolbarProps {
  id: number;
  canUndo: boolean;
  canRedo: boolean;
  undo: () => void;
  redo: () => void;
  onRestore: (stored: StoredBuild) => void;
  onExport: (none: void) => void;
  onPalette: (none: void) => void;
}

const Toolbar = memo(function Toolbar({ id, canUndo, canRedo, undo, redo, onRestore, onExport, onPalette }: ToolbarProps) {
  return (
    <Box display="flex" alignItems="center" ml={{ lg: "auto" }} css={{ "& > button": { minWidth: { base: "8", md: "9" } } }}>
      <IconButton aria-label="Undo" title="Undo (Ctrl Z)" size="sm" variant="ghost" disabled={!canUndo} onClick={undo}>
        <Icon name="undo" />
      </IconButton>
      <IconButton aria-label="Redo" title="Redo (Ctrl Shift Z)" size="sm" variant="ghost" disabled={!canRedo} onClick={redo}>
        <Icon name="redo" />
      </IconButton>
      {useMayEdit() && <History id={id} onRestore={onRestore} />}
      <IconButton aria-label="Export the build as a file" title="Export as a file" size="sm" variant="ghost" onClick={() => onExport()}>
        <Icon name="save" />
      </IconButton>
      <TakeAlong id={id} />
      <IconButton aria-label="Commands and shortcuts" title="Commands (Ctrl K)" size="sm" variant="ghost" hideBelow="md" onClick={() => onPalette()}>
        <Icon name="command" />
      </IconButton>
      <Settings />
    </Box>
  );
});

/** Earlier revisions, as of the one that is saved. */
function History(props: { id: number; onRestore: (stored: StoredBuild) => void }) {
  return <HistoryDialog {...props} revision={useSaving().revision} />;
}

/** The saved build as one page of HTML that opens without a server. */
function TakeAlong({ id }: { id: number }) {
  const take = useMutation({
    mutationFn: () => answer(api.GET("/api/v1/builds/{id}/sheet", { params: { path: { id } }, parseAs: "text" })),
    onSuccess: (page) => saveFile(`sheet-${id}.html`, "text/html", page),
    onError: (error) => toaster.create({ title: problemOf(error).detail, type: "error", duration: 20_000 }),
  });
  return (
    <IconButton
      aria-label="Save as one page for your phone"
      title="Save as one page for your phone"
      size="sm"
      variant="ghost"
      loading={take.isPending}
      onClick={() => take.mutate()}
    >
      <Icon name="phone" />
    </IconButton>
  );
}
