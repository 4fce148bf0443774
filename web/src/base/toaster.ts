import { createToaster } from "@chakra-ui/react";

/** Short news at the foot of the page. */
export const toaster = createToaster({ placement: "bottom-start", pauseOnPageIdle: true });
