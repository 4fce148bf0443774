import { useQuery } from "@tanstack/react-query";
import { Box, Button } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type Build, type JournalEvent, type JournalView, answer, api, problemOf } from "../../api/client";
import { photoOf } from "../../journal/photos";
import { FileButton } from "../../ui/FileButton";
import { saveBlob } from "../../base/save";
import { Section, StrikeButton } from "./parts";
import { dayText } from "./TimeChart";
import type { Lived } from "./useLived";
import { inOwn } from "../../units";

const KINDS: Record<JournalEvent["kind"], string> = {
  ride: "Outing",
  charge: "Charge",
  reading: "Reading",
  fault: "Repair",
  part: "Part",
  timer: "Timer",
  note: "Note",
  tick: "Tick",
  drill: "Drill",
};
/** A newer version may have written what has no word here. */
const called = (kind: string) => (KINDS as Record<string, string | undefined>)[kind] ?? kind;
/** Entries that are shown before more are asked for. */
const SOME = 60;

/** Every entry, newest first, with what is odd about it; files out and in. */
export function Entries({ id, build, lived, view }: { id: number; build: Build; lived: Lived; view: JournalView }) {
  const [kind, setKind] = useState("");
  const [count, setCount] = useState(SOME);
  const marks = new Map<string, string[]>();
  for (const mark of view.marks) marks.set(mark.id, [...(marks.get(mark.id) ?? []), `${mark.problem}. ${mark.remedy}`]);
  const photos = new Set(lived.events.filter((event) => event.kind === "note" && event.data.photo).map((event) => event.id));
  const entries = view.events.filter((event) => kind === "" || event.kind === kind).reverse();
  const kinds = [...new Set(view.events.map((event) => event.kind))];
  return (
    <>
      <Section
        title={`${entries.length} entries`}
        aside={
          <select
            className="control"
            style={{ width: "9rem" }}
            aria-label="Which entries"
            value={kind}
            onChange={(event) => setKind(event.target.value as typeof kind)}
          >
            <option value="">all</option>
            {kinds.map((known) => (
              <option key={known} value={known}>
                {called(known)}
              </option>
            ))}
          </select>
        }
      >
        {entries.length === 0 && <Box color="fg.muted">Nothing is written down yet. The first outing or charge takes two taps.</Box>}
        <Box as="ul" listStyleType="none">
          {entries.slice(0, count).map((entry) => (
            <Box
              as="li"
              key={entry.id}
              display="grid"
              gridTemplateColumns={{ base: "1fr auto", md: "7rem 5rem 1fr auto" }}
              gap="2"
              py="1.5"
              borderTopWidth="1px"
              alignItems="start"
            >
              <Box color="fg.muted">{dayText(entry.s)}</Box>
              <Box color="fg.muted" hideBelow="md">
                {called(entry.kind)}
              </Box>
              <Box gridColumn={{ base: "1", md: "auto" }} minW="0" overflowWrap="anywhere">
                {inOwn(entry.words)}
                {photos.has(entry.id) && <Photo build={id} event={entry.id} alt={`Picture of ${dayText(entry.s)}`} />}
                {marks.get(entry.id)?.map((mark) => (
                  <Box key={mark} color="fix.fg" fontSize="sm">
                    ! {mark}
                  </Box>
                ))}
              </Box>
              <StrikeButton id={entry.id} what={`${inOwn(entry.words)}, ${dayText(entry.s)}`} lived={lived} />
            </Box>
          ))}
        </Box>
        {entries.length > count && (
          <Button size="sm" minH="9" variant="outline" mt="2" onClick={() => setCount(count + 200)}>
            {entries.length - count} older
          </Button>
        )}
      </Section>
      <Files id={id} build={build} />
    </>
  );
}

function Files({ id, build }: { id: number; build: Build }) {
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: async (format: "jsonl" | "csv") => {
      const text = (await answer(
        api.GET("/api/v1/builds/{id}/journal/export", { params: { path: { id }, query: { format } }, parseAs: "text" }),
      )) as unknown as string;
      saveBlob(`${build.name} - journal.${format}`, new Blob([text], { type: format === "csv" ? "text/csv" : "application/jsonl" }));
    },
  });
  const take = useMutation({
    mutationFn: async (file: File) =>
      answer(
        api.POST("/api/v1/builds/{id}/journal/import", {
          params: { path: { id } },
          body: { format: file.name.endsWith(".csv") ? "csv" : "jsonl", text: await file.text() },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["journal", id] }),
  });
  const failed = save.error ?? take.error;
  return (
    <Section title="Import and export">
      <Box display="flex" gap="2" flexWrap="wrap">
        <Button size="sm" minH="9" variant="outline" onClick={() => save.mutate("jsonl")}>
          JSON Lines
        </Button>
        <Button size="sm" minH="9" variant="outline" onClick={() => save.mutate("csv")}>
          CSV
        </Button>
        <FileButton label="Journal file" accept=".jsonl,.csv,.json,text/csv" onFile={(file) => take.mutate(file)} loading={take.isPending}>
          Import a file
        </FileButton>
      </Box>
      {failed && (
        <Box role="alert" color="stop.fg" mt="2">
          {problemOf(failed).detail}
        </Box>
      )}
      {take.data && (
        <Box role="status" mt="2">
          {take.data.kept} taken in, {take.data.known} were here already.
          {take.data.bad.length > 0 && (
            <Box as="ul" listStyleType="none" color="fix.fg" fontSize="sm">
              {take.data.bad.slice(0, 20).map((bad) => (
                <li key={`${bad.line} ${bad.problem}`}>
                  ! Line {bad.line}: {bad.problem}. {bad.remedy}.
                </li>
              ))}
              {take.data.bad.length > 20 && <li>and {take.data.bad.length - 20} more</li>}
            </Box>
          )}
        </Box>
      )}
    </Section>
  );
}

/** The picture of an entry: from here while it waits, else from the server. */
function Photo({ build, event, alt }: { build: number; event: string; alt: string }) {
  const src = useQuery({ queryKey: ["photo", build, event], queryFn: () => photoOf(build, event), staleTime: 2000 }).data;
  if (src === undefined) return null;
  return (
    <a href={src} target="_blank" rel="noreferrer">
      <img src={src} alt={alt} loading="lazy" style={{ maxHeight: "9rem", borderRadius: "4px", marginTop: "4px" }} />
    </a>
  );
}
