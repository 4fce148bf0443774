import { Box, Button, Heading } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { answer, api, problemOf } from "../api/client";
import { Failure } from "../ui/Failure";
import { Prose } from "../ui/Prose";
import { saveFile } from "../base/save";
import { useRemove } from "../shelf/useRemove";
import { HistoryDialog } from "./HistoryDialog";

/** The text with line breaks, where it is JSON at all; what is exported stays as it was. */
const indented = (text: string) => {
  try {
    return JSON.stringify(JSON.parse(text), null, 2);
  } catch {
    return text;
  }
};

/** A build that this version cannot read: what is wrong with it, its text, and the ways on. */
export function Unreadable({ id, onMended }: { id: number; onMended: () => void }) {
  const navigate = useNavigate();
  const kept = useQuery({ queryKey: ["text", id], queryFn: () => answer(api.GET("/api/v1/builds/{id}/text", { params: { path: { id } } })), gcTime: 0 });
  const remove = useRemove({ id, revision: kept.data?.revision ?? 0, name: kept.data?.name ?? "" }, () => void navigate({ to: "/" }));
  if (kept.error) return <Failure problem={problemOf(kept.error)} retry={() => void kept.refetch()} />;
  if (!kept.data) return null;
  const { name, text, errors, revision } = kept.data;
  return (
    <Box as="main" maxW="52rem" mx="auto" px="4" py="6" display="grid" gap="4">
      <Heading as="h1" size="lg">
        {name}
      </Heading>
      <Box role="alert" color="stop.fg">
        This build cannot be read by this version. It is kept as it is; nothing of it is lost.
      </Box>
      <ul>
        {errors.map((fault) => (
          <li key={fault.pointer + fault.problem}>
            <Prose text={`\`${fault.pointer || "the document"}\`: ${fault.problem}. ${fault.remedy}.`} />
          </li>
        ))}
      </ul>
      <Box display="flex" flexWrap="wrap" gap="3" alignItems="center">
        <Button size="sm" colorPalette="lantern" onClick={() => saveFile(`${name || "build"}.json`, "application/json", text)}>
          Export it
        </Button>
        <Box display="flex" alignItems="center" gap="1">
          <HistoryDialog id={id} revision={revision} onRestore={onMended} />
          Restore an earlier revision
        </Box>
        <Button size="sm" variant="outline" loading={remove.isPending} onClick={() => remove.mutate()}>
          Delete it
        </Button>
        <Button asChild size="sm" variant="ghost">
          <Link to="/">Back to the shelf</Link>
        </Button>
      </Box>
      <Box as="pre" tabIndex={0} aria-label="Its text" bg="bg.muted" p="3" borderRadius="md" fontSize="xs" maxH="50vh" overflow="auto">
        {indented(text)}
      </Box>
    </Box>
  );
}
