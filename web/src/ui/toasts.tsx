import { Toast, Toaster, createToaster } from "@chakra-ui/react";

export const toaster = createToaster({ placement: "bottom-start", pauseOnPageIdle: true });

/** Short news with at most one thing to do about them. */
export function Toasts() {
  return (
    <Toaster toaster={toaster}>
      {(toast) => (
        <Toast.Root bg="bg.panel" color="fg" borderWidth="1px" borderColor="border.emphasized">
          <Toast.Title flex="1">{toast.title}</Toast.Title>
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
