import { useMutation, useQueryClient } from "@tanstack/react-query";
import { answer, api, problemOf } from "../api/client";
import { toaster } from "../base/toaster";

/** Takes a build off the shelf, with a way back while it is told. */
export function useRemove(build: { id: number; revision: number; name: string }, removed?: () => void) {
  const client = useQueryClient();
  const path = { params: { path: { id: build.id }, header: { "If-Match": `"${build.revision}"` } } };
  const refresh = () => void client.invalidateQueries({ queryKey: ["shelf"] });
  const onError = (error: Error) => toaster.create({ title: problemOf(error).detail, type: "error" });
  const back = useMutation({ mutationFn: () => answer(api.POST("/api/v1/builds/{id}/undelete", path)), onSuccess: refresh, onError });
  return useMutation({
    mutationFn: () => answer(api.DELETE("/api/v1/builds/{id}", path)),
    onSuccess: () => {
      refresh();
      toaster.create({ title: `“${build.name}” deleted`, duration: 15_000, action: { label: "Undo", onClick: () => back.mutate() } });
      removed?.();
    },
    onError,
  });
}
