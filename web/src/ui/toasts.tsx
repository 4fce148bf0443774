import { Box, Toast, Toaster } from "@chakra-ui/react";
import { useEffect } from "react";
import { STORE_FULL } from "../base/kept";
import { toaster } from "../base/toaster";

/** Short news with at most one thing to do about them. */
export function Toasts() {
  useEffect(() => {
    const say = () => {
      if (toaster.isVisible(STORE_FULL)) return;
      const description = "What is not saved yet is lost when the page is closed. Free some room, or keep the page open until all is saved.";
      toaster.create({ id: STORE_FULL, type: "warning", title: "This browser's store is full", description });
    };
    window.addEventListener(STORE_FULL, say);
    return () => window.removeEventListener(STORE_FULL, say);
  }, []);
  return (
    <Toaster toaster={toaster}>
      {(toast) => (
        <Toast.Root bg="bg.panel" color="fg" borderWidth="1px" borderColor="border.emphasized" width="min(24rem, calc(100vw - 2rem))">
          <Box flex="1" minW="0" pr="6">
            <Toast.Title>{toast.title}</Toast.Title>
            {toast.description && <Toast.Description>{toast.description}</Toast.Description>}
          </Box>
          {toast.action && (
            <Toast.ActionTrigger color="lantern.fg" minH="8">
              {toast.action.label}
            </Toast.ActionTrigger>
          )}
          <Toast.CloseTrigger minW="8" minH="8" />
        </Toast.Root>
      )}
    </Toaster>
  );
}
