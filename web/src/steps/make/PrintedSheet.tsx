import { useEffect } from "react";
import { problemOf } from "../../api/client";
import { toaster } from "../../base/toaster";
import { useSaving } from "../../document/useSaving";
import { useSite } from "../module";
import { usePrintedSheet } from "./SheetCard";
import { useMake } from "./useMake";
import { useStock } from "./useStock";

/** Prints the build sheet once, from whatever step is open. */
export default function PrintedSheet({ onDone }: { onDone: () => void }) {
  const { id, editor } = useSite();
  const { build } = editor;
  const { stock } = useStock();
  const { ticks } = useMake(id, build);
  const { print, error, paper } = usePrintedSheet({ build, revision: useSaving().revision, stock, ticks }, onDone);
  useEffect(() => {
    const waiting = setTimeout(print);
    return () => clearTimeout(waiting);
  }, [print]);
  useEffect(() => {
    if (error) toaster.create({ type: "error", title: "The build sheet cannot be printed", description: problemOf(error).detail });
  }, [error]);
  return paper;
}
