/** Said on the window once the browser has no more room. */
export const STORE_FULL = "orthavis-store-full";

/** What a browser remembers for a page; a page opened from a phone's storage may have nowhere to keep it. */
export const kept = {
  get(key: string): string | null {
    try {
      return localStorage.getItem(key);
    } catch {
      return null;
    }
  },
  drop(key: string): void {
    try {
      localStorage.removeItem(key);
    } catch {
      // Nothing was kept.
    }
  },
  set(key: string, value: string): void {
    try {
      localStorage.setItem(key, value);
    } catch (error) {
      // It is remembered until the page is closed. Where there is a store and it is full, that is said.
      if ((error as Error).name === "QuotaExceededError") window.dispatchEvent(new Event(STORE_FULL));
    }
  },
};
