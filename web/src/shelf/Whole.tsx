import { Box, Button, Dialog, Portal } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type WouldChange, answer, api, problemOf } from "../api/client";
import { useDialog } from "../ui/dialog";
import { FileButton } from "../ui/FileButton";
import { saveBlob } from "../base/save";
import { toaster } from "../base/toaster";
import { clock } from "../units";

const raw = { bodySerializer: (body: unknown) => body as Blob, headers: { "content-type": "application/octet-stream" } };
const SIGNS: Record<string, [string, string]> = {
  same: ["=", "stays as it is"],
  changes: ["≠", "becomes as it was then"],
  comes: ["+", "comes back"],
  goes: ["−", "goes: it is not in the backup"],
};
const dated = () => new Date().toISOString().slice(0, 10);

/** Everything that you have here: a backup, its way back with a look before, and everything in open formats. */
export function WholeDialog() {
  const [open, setOpen] = useDialog("backup", "Everything that you have here");
  return (
    <>
      <Button size="sm" variant="outline" onClick={() => setOpen(true)}>
        Backup
      </Button>
      <Dialog.Root open={open} onOpenChange={(change) => setOpen(change.open)} size="lg" scrollBehavior="inside">
        <Portal>
          <Dialog.Backdrop />
          <Dialog.Positioner>
            <Dialog.Content bg="bg.panel">
              <Dialog.Header>
                <Dialog.Title>Everything that you have here</Dialog.Title>
              </Dialog.Header>
              <Dialog.Body>{open && <Whole onDone={() => setOpen(false)} />}</Dialog.Body>
              <Dialog.Footer>
                <Button variant="ghost" size="sm" onClick={() => setOpen(false)}>
                  Close
                </Button>
              </Dialog.Footer>
            </Dialog.Content>
          </Dialog.Positioner>
        </Portal>
      </Dialog.Root>
    </>
  );
}

function Whole({ onDone }: { onDone: () => void }) {
  const client = useQueryClient();
  const [chosen, setChosen] = useState<File | null>(null);
  const backup = useMutation({
    mutationFn: async () =>
      saveBlob(`workshop-${dated()}.orthavis`, (await answer(api.GET("/api/v1/workshop/backup", { parseAs: "blob" }))) as unknown as Blob),
  });
  const write = useMutation({
    mutationFn: async () => saveBlob(`workshop-${dated()}.json`, (await answer(api.GET("/api/v1/workshop/export", { parseAs: "blob" }))) as unknown as Blob),
  });
  const look = useMutation({
    mutationFn: (file: File) => answer(api.POST("/api/v1/workshop/look", { body: file as unknown as number[], ...raw })),
    onSuccess: (_, file) => setChosen(file),
  });
  const restore = useMutation({
    mutationFn: (force: boolean) => answer(api.POST("/api/v1/workshop/restore", { params: { query: { force } }, body: chosen as unknown as number[], ...raw })),
    onSuccess: ({ kept }) => {
      // Nothing that was read before is true any more.
      void client.resetQueries();
      toaster.create({ title: "Everything is as it was in the backup", description: `What was here is kept in ${kept}`, type: "success", duration: 20_000 });
      onDone();
    },
  });
  const take = useMutation({
    mutationFn: (file: File) => answer(api.POST("/api/v1/workshop/import", { body: file as never, bodySerializer: (body) => body as unknown as string })),
    onSuccess: (came) => {
      void client.invalidateQueries();
      toaster.create({
        title: `${came.builds} builds, ${came.events} events and ${came.parts} parts taken in`,
        description: came.known > 0 ? `${came.known} builds were here already, word for word.` : undefined,
        type: "success",
      });
    },
  });
  const failed = backup.error ?? write.error ?? look.error ?? restore.error ?? take.error;
  return (
    <Box display="grid" gap="4">
      <section aria-label="Backup">
        <b>One file with everything in it</b>
        <Box color="fg.muted" fontSize="sm" mb="2">
          Builds with their history, journals, pictures, parts and what is in the drawer. Keep it on another device.
        </Box>
        <Box display="flex" gap="2" flexWrap="wrap">
          <Button size="sm" minH="9" colorPalette="lantern" loading={backup.isPending} onClick={() => backup.mutate()}>
            Back up
          </Button>
          <FileButton label="Backup file" accept=".orthavis,.db,application/vnd.sqlite3" onFile={(file) => look.mutate(file)} loading={look.isPending}>
            Look at a backup
          </FileButton>
        </Box>
      </section>
      {look.data && chosen && <Look would={look.data} file={chosen.name} busy={restore.isPending} onRestore={(force) => restore.mutate(force)} />}
      <section aria-label="Open formats">
        <b>In open formats, for other programs</b>
        <Box color="fg.muted" fontSize="sm" mb="2">
          One JSON text with every build, journal, picture and part. Taken in, it adds what is not here; what is here word for word stays as it is.
        </Box>
        <Box display="flex" gap="2" flexWrap="wrap">
          <Button size="sm" minH="9" variant="outline" loading={write.isPending} onClick={() => write.mutate()}>
            Export everything
          </Button>
          <FileButton label="Exported file" accept=".json,application/json" onFile={(file) => take.mutate(file)} loading={take.isPending}>
            Import one
          </FileButton>
        </Box>
      </section>
      {failed && (
        <Box role="alert" color="stop.fg">
          {problemOf(failed).detail}
        </Box>
      )}
    </Box>
  );
}

/** What restoring would change, before it does. */
function Look({ would, file, busy, onRestore }: { would: WouldChange; file: string; busy: boolean; onRestore: (force: boolean) => void }) {
  const loses = would.newer || would.builds.some((change) => change.what === "goes");
  return (
    <section aria-label="What it would change" className="card on">
      <Box fontWeight="semibold" mb="1">
        {file} would change this
      </Box>
      <Box as="ul" listStyleType="none" maxH="16rem" overflowY="auto" tabIndex={0}>
        {would.builds.map((change, index) => (
          <Box
            as="li"
            key={index}
            display="grid"
            gridTemplateColumns="1.2rem 1fr"
            gap="2"
            py="1"
            borderTopWidth="1px"
            color={change.what === "same" ? "fg.muted" : undefined}
          >
            <b aria-hidden>{SIGNS[change.what]?.[0]}</b>
            <span>
              {change.name}: {SIGNS[change.what]?.[1]}
              <span className="quiet">
                {change.there && ` · saved ${clock(change.there)}`}
                {change.events_here !== change.events_there && ` · journal ${change.events_here} → ${change.events_there} entries`}
              </span>
            </span>
          </Box>
        ))}
        <Box as="li" py="1" borderTopWidth="1px" className="quiet">
          Parts of your own: {would.parts_here} → {would.parts_there}
        </Box>
      </Box>
      {loses && (
        <Box color="stop.fg" my="2">
          ✕ What is here is newer, or has builds that the backup has not. It is kept in a file beside the database.
        </Box>
      )}
      <Button size="sm" minH="9" colorPalette={loses ? "red" : "lantern"} loading={busy} onClick={() => onRestore(loses)}>
        {loses ? "Restore all the same" : "Restore it"}
      </Button>
    </section>
  );
}
