import { createContext, useContext, useSyncExternalStore } from "react";
import type { Saver, Saving } from "./saver";

const Context = createContext<Saver | null>(null);

/** Lets what stands below it say what is saved where. */
export const SavingProvider = Context.Provider;

export function useSaver(): Saver {
  const saver = useContext(Context);
  if (!saver) throw new Error("nothing is saved here");
  return saver;
}

/** What is saved, where, and since when: a change of it draws nothing but who asks. */
export function useSaving(): Saving {
  const saver = useSaver();
  return useSyncExternalStore(saver.subscribe, saver.now);
}
