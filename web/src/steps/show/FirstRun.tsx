import { Box, Button } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Build, type SawRed, answer, api, problemOf } from "../../api/client";
import { numberOf } from "../../document/useSolved";
import { Segments } from "../../ui/Segments";

interface Props {
  build: Build;
  output: string;
  replace: (document: Build) => void;
  onClose: () => void;
}

/** The first run of a chain: one number is red, somebody says where, and the plan becomes what was soldered. */
export function FirstRun({ build, output, replace, onClose }: Props) {
  const [seen, setSeen] = useState<SawRed[]>([]);
  const [lights, setLights] = useState<string[]>([]);
  const [far, setFar] = useState(false);
  const run = useQuery({
    queryKey: ["first run", numberOf(build), output, JSON.stringify(seen)],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/show/sort", { body: { document: build, output, seen }, signal })),
  });
  const apply = useMutation({
    mutationFn: (changes: unknown[]) => answer(api.POST("/api/v1/apply", { body: { document: build, changes: changes as never } })),
    onSuccess: (applied) => {
      replace(applied.document);
      onClose();
    },
  });
  const told = run.data;
  const answered = () => {
    setSeen([...seen, { lights, far }]);
    setLights([]);
    setFar(false);
  };
  const error = run.error ?? apply.error;
  return (
    <Box role="group" aria-label={`First run of ${output}`} mt="2" pt="2" borderTopWidth="1px">
      {error && (
        <Box role="alert" color="stop.fg">
          {problemOf(error).detail}
        </Box>
      )}
      {told?.red != null && (
        <>
          <p>
            {`Let the controller light number ${told.red} in red and nothing else. `}
            <b>Which piece has the red pixel, and at which end?</b>
          </p>
          <Box display="flex" gap="2" flexWrap="wrap" my="2">
            {told.left.map((id) => (
              <Button
                key={id}
                size="sm"
                variant={lights.includes(id) ? "solid" : "outline"}
                colorPalette="lantern"
                aria-pressed={lights.includes(id)}
                onClick={() => setLights(lights.includes(id) ? lights.filter((known) => known !== id) : [...lights, id])}
              >
                {id}
              </Button>
            ))}
          </Box>
          <Segments
            label="At which end"
            value={far ? "far" : "near"}
            options={[
              ["near", "where its place begins"],
              ["far", "at the far end"],
            ]}
            onChange={(end) => setFar(end === "far")}
          />
          {lights.length > 1 && <p className="quiet">Red on several at once: they share their numbers.</p>}
          <Box display="flex" gap="2" mt="2">
            <Button size="sm" colorPalette="lantern" disabled={lights.length === 0} onClick={answered}>
              That is it
            </Button>
            {seen.length > 0 && (
              <Button size="sm" variant="outline" onClick={() => setSeen(seen.slice(0, -1))}>
                One back
              </Button>
            )}
            <Button size="sm" variant="ghost" onClick={onClose}>
              Leave it
            </Button>
          </Box>
        </>
      )}
      {told && told.red == null && (
        <>
          {told.differs.length === 0 ? (
            <p>It is soldered as the plan has it.</p>
          ) : (
            <>
              <p>The plan differs from what you saw:</p>
              <ul>
                {told.differs.map((line) => (
                  <li key={line}>{line}.</li>
                ))}
              </ul>
            </>
          )}
          <Box display="flex" gap="2" mt="2">
            {told.differs.length > 0 && (
              <Button size="sm" colorPalette="lantern" loading={apply.isPending} onClick={() => apply.mutate(told.changes)}>
                Make the plan what was soldered
              </Button>
            )}
            <Button size="sm" variant="outline" onClick={() => setSeen([])}>
              Once more
            </Button>
            <Button size="sm" variant="ghost" onClick={onClose}>
              Done
            </Button>
          </Box>
        </>
      )}
    </Box>
  );
}
