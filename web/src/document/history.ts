/** Undo and redo of a whole document: plain data in, plain data out. */

/** Edits of one field within this time are one step to undo, ms. */
const TOGETHER = 900;
/** Steps that can be undone. */
const MOST = 300;

/** What was done to a document, what it is now, and what was undone. */
export interface History<T> {
  past: T[];
  now: T;
  future: T[];
  /** What the last edit touched, and when. */
  touched: string;
  at: number;
}

/** One step; `touched` names the field that was edited, which shows it by itself if it is `shown`; `at` is when, ms. */
export type Action<T> =
  { kind: "edit"; build: T; touched: string; at: number; shown?: boolean } | { kind: "undo" } | { kind: "redo" } | { kind: "replace"; build: T };

/** A document that nobody has edited yet. */
export const begin = <T>(now: T): History<T> => ({ past: [], now, future: [], touched: "", at: 0 });

/** The history after one step. */
export function reduce<T>(state: History<T>, action: Action<T>): History<T> {
  switch (action.kind) {
    case "edit": {
      const together = action.touched === state.touched && action.at - state.at < TOGETHER;
      const past = together ? state.past : [...state.past, state.now].slice(-MOST);
      return { past, now: action.build, future: [], touched: action.touched, at: action.at };
    }
    case "undo": {
      if (state.past.length === 0) return state;
      return { past: state.past.slice(0, -1), now: state.past.at(-1)!, future: [state.now, ...state.future], touched: "", at: 0 };
    }
    case "redo": {
      if (state.future.length === 0) return state;
      return { past: [...state.past, state.now], now: state.future[0]!, future: state.future.slice(1), touched: "", at: 0 };
    }
    case "replace":
      return { past: [...state.past, state.now], now: action.build, future: [], touched: "", at: 0 };
  }
}
