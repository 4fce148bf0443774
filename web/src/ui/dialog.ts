import { useLocation, useRouter } from "@tanstack/react-router";
import { useCallback, useEffect } from "react";

/** A dialog with an address of its own, behind `#`: it can be linked to, and Back closes it. */
export function useDialog(name: string, title: string): [open: boolean, setOpen: (open: boolean) => void] {
  const { history } = useRouter();
  const open = useLocation({ select: (at) => at.hash === name });
  const setOpen = useCallback(
    (next: boolean) => {
      const { pathname, search, hash, state } = history.location;
      if (next === (hash === `#${name}`)) return;
      if (next) history.push(`${pathname}${search}#${name}`, { dialog: true });
      // Opened here it is one page back; where its address was opened there is none.
      else if ((state as { dialog?: boolean }).dialog) history.back();
      else history.replace(`${pathname}${search}`);
    },
    [history, name],
  );
  useEffect(() => {
    if (!open) return;
    const before = document.title;
    document.title = `${title} · ${before}`;
    return () => {
      document.title = before;
    };
  }, [open, title]);
  return [open, setOpen];
}
