import { Button, type ButtonProps } from "@chakra-ui/react";
import { type ReactNode, useRef } from "react";

interface Props extends Omit<ButtonProps, "onClick"> {
  /** What the field for the file is called. */
  label: string;
  /** Endings and types that are offered. */
  accept: string;
  onFile: (file: File) => void;
  children: ReactNode;
}

/** A button that asks for a file; the same file may be chosen again. */
export function FileButton({ label, accept, onFile, children, ...button }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        hidden
        aria-label={label}
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) onFile(file);
        }}
      />
      <Button size="sm" minH="9" variant="outline" {...button} onClick={() => input.current?.click()}>
        {children}
      </Button>
    </>
  );
}
