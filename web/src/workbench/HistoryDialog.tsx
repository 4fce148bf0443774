import { Box, Button, CloseButton, Dialog, IconButton, Portal, Spinner } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type KeyboardEvent, useState } from "react";
import { type StoredBuild, answer, api, problemOf } from "../api/client";
import { useDialog } from "../ui/dialog";
import { clock } from "../units";
import { Icon } from "../ui/icons";

interface Props {
  id: number;
  revision: number;
  onRestore: (stored: StoredBuild) => void;
}

/** Every saved revision; an old one comes back as the newest. */
export function HistoryDialog({ id, revision, onRestore }: Props) {
  const [open, setOpen] = useDialog("history", "Earlier revisions");
  const history = useQuery({
    queryKey: ["revisions", id, revision],
    queryFn: () => answer(api.GET("/api/v1/builds/{id}/revisions", { params: { path: { id } } })),
    enabled: open,
  });
  const now = { "If-Match": `"${revision}"` };
  const restore = useMutation({
    mutationFn: (old: number) => answer(api.POST("/api/v1/builds/{id}/revisions/{revision}/restore", { params: { path: { id, revision: old }, header: now } })),
    onSuccess: (stored) => {
      onRestore(stored);
      setOpen(false);
    },
  });
  const client = useQueryClient();
  const naming = useMutation({
    mutationFn: ({ old, label }: { old: number; label: string }) =>
      answer(api.PUT("/api/v1/builds/{id}/revisions/{revision}/label", { params: { path: { id, revision: old }, header: now }, body: { label } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["revisions", id] }),
  });
  const [named, setNamed] = useState<{ revision: number; label: string } | null>(null);
  const finish = () => {
    if (named) naming.mutate({ old: named.revision, label: named.label });
    setNamed(null);
  };
  const error = history.error ?? restore.error ?? naming.error;
  return (
    <Dialog.Root open={open} onOpenChange={(change) => setOpen(change.open)} scrollBehavior="inside" lazyMount unmountOnExit>
      <Dialog.Trigger asChild>
        <IconButton aria-label="Earlier revisions" title="Earlier revisions" size="sm" variant="ghost">
          <Icon name="history" />
        </IconButton>
      </Dialog.Trigger>
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="bg.panel" maxH="70vh">
            <Dialog.Header>
              <Dialog.Title>Earlier revisions</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body>
              {error && (
                <Box role="alert" color="stop.fg" mb="3">
                  {problemOf(error).detail}
                </Box>
              )}
              <Box color="fg.muted" fontSize="sm" mb="3">
                All of the last day are kept, then one an hour for a week, then one a day. A revision that you name is kept for good.
              </Box>
              {history.isPending && <Spinner role="status" aria-label="Reading the history" />}
              <Box as="ol" listStyleType="none">
                {history.data?.map((entry) => (
                  <Box as="li" key={entry.revision} display="flex" alignItems="center" gap="3" py="1.5" borderBottomWidth="1px">
                    <Box w="9" textAlign="right" color="fg.muted">
                      {entry.revision}
                    </Box>
                    <Box flex="1" minW="0">
                      {named?.revision === entry.revision ? (
                        <input
                          className="control"
                          autoFocus
                          aria-label={`Name of revision ${entry.revision}`}
                          maxLength={100}
                          value={named.label}
                          onChange={(event) => setNamed({ ...named, label: event.target.value })}
                          onKeyDown={(event: KeyboardEvent) => {
                            if (event.key === "Enter") finish();
                            if (event.key === "Escape") {
                              // Only the naming ends, not the dialog.
                              event.stopPropagation();
                              setNamed(null);
                            }
                          }}
                        />
                      ) : (
                        <Box fontWeight={entry.label ? "semibold" : undefined}>{entry.label ?? entry.name}</Box>
                      )}
                      <Box color="fg.muted" fontSize="xs">
                        {entry.label ? `${entry.name}, ` : ""}
                        {clock(entry.saved_at)}
                      </Box>
                    </Box>
                    {named?.revision === entry.revision ? (
                      <Button size="xs" variant="outline" onClick={finish}>
                        Keep the name
                      </Button>
                    ) : (
                      <Button
                        size="xs"
                        variant="ghost"
                        aria-label={`Name revision ${entry.revision}`}
                        onClick={() => setNamed({ revision: entry.revision, label: entry.label ?? "" })}
                      >
                        {entry.label ? "Rename" : "Name it"}
                      </Button>
                    )}
                    {entry.revision === revision ? (
                      <Box color="fg.muted" fontSize="xs">
                        this one
                      </Box>
                    ) : (
                      <Button size="xs" variant="outline" loading={restore.isPending} onClick={() => restore.mutate(entry.revision)}>
                        Restore
                      </Button>
                    )}
                  </Box>
                ))}
              </Box>
            </Dialog.Body>
            <Dialog.CloseTrigger asChild>
              <CloseButton aria-label="Close" />
            </Dialog.CloseTrigger>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  );
}
