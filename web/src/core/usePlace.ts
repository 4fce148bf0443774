import { useSyncExternalStore } from "react";
import { onPlace, placeNow } from "./transport";

/** Where questions are answered at the moment. */
export const usePlace = () => useSyncExternalStore(onPlace, placeNow);
