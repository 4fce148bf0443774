import { Box, Button } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { type JournalEvent, answer, api, problemOf } from "../../api/client";
import { Card } from "../../ui/StepHeading";

/** Takes in what was ticked on a sheet that was taken along; what is known already is not taken twice. */
export function BringTicks({ id }: { id: number }) {
  const file = useRef<HTMLInputElement>(null);
  const client = useQueryClient();
  const bring = useMutation({
    mutationFn: async (chosen: File) => {
      const lines = (await chosen.text()).split("\n").filter((line) => line.trim() !== "");
      const events = lines.map((line, number) => {
        try {
          return JSON.parse(line) as JournalEvent;
        } catch {
          throw new Error(`Line ${number + 1} of ${chosen.name} is not an event. Choose the file that the sheet saved.`);
        }
      });
      await answer(api.POST("/api/v1/builds/{id}/journal", { params: { path: { id } }, body: { events } }));
      return events.length;
    },
    onSuccess: () => client.invalidateQueries({ queryKey: ["journal", id] }),
  });
  return (
    <Card title="From a sheet">
      <Box color="fg.muted" mb="3">
        Steps that were ticked on a sheet taken along come back as a file.
      </Box>
      <input
        ref={file}
        type="file"
        hidden
        accept=".jsonl,application/jsonl"
        aria-label="File of ticks"
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          if (chosen) bring.mutate(chosen);
          event.target.value = "";
        }}
      />
      <Button size="sm" minH="9" variant="outline" loading={bring.isPending} onClick={() => file.current?.click()}>
        Import ticks …
      </Button>
      {bring.data !== undefined && (
        <Box role="status" color="good.fg" mt="2">
          ✓ {bring.data === 1 ? "1 tick is" : `${bring.data} ticks are`} in the journal.
        </Box>
      )}
      {bring.error && (
        <Box role="alert" color="stop.fg" mt="2">
          {problemOf(bring.error).detail}
        </Box>
      )}
    </Card>
  );
}
