import { useMutation } from "@tanstack/react-query";
import { type Wish, type Build, type Removal, answer, api, problemOf } from "../api/client";
import { toaster } from "../base/toaster";
import { holdPlace, offerUndo } from "./removed";

/** Adding parts to a build and taking them out: what comes with a part and what goes with it is the core's to say. */
export function useChange(build: Build, replace: (document: Build) => void) {
  const refuse = (error: unknown) => toaster.create({ type: "error", title: problemOf(error).title, description: problemOf(error).detail, duration: 20_000 });
  const add = useMutation({
    mutationFn: (part: Wish) => answer(api.POST("/api/v1/add", { body: { document: build, part } })),
    onSuccess: replace,
    onError: refuse,
  });
  const remove = useMutation({
    mutationFn: (part: Removal) => answer(api.POST("/api/v1/remove", { body: { document: build, part } })),
    onMutate: holdPlace,
    onSuccess: (document, part, back) => {
      replace(document);
      offerUndo(build.scenes.find((scene) => part.kind === "scene" && scene.id === part.id)?.name ?? part.id, document);
      back?.();
    },
    onError: refuse,
  });
  return { add: add.mutate, remove: remove.mutate, busy: add.isPending || remove.isPending };
}
