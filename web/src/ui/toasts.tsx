import { Box, Toast, Toaster } from "@chakra-ui/react";
import { toaster } from "../base/toaster";

/** Short news with at most one thing to do about them. */
export function Toasts() {
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
