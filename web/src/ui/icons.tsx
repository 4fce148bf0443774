/** Signs on buttons, drawn here so that they look alike on every machine. */
const PATHS = {
  copy: "M6 6h8v8H6zM4 11H3V3h8v1",
  remove: "M4 4l8 8M12 4l-8 8",
  rename: "M3 13l1-3 7-7 2 2-7 7zM10 4l2 2",
  undo: "M6 3L3 6l3 3M3 6h6a4 4 0 0 1 0 8H6",
  redo: "M10 3l3 3-3 3M13 6H7a4 4 0 0 0 0 8h3",
  history: "M3 8a5 5 0 1 0 1.6-3.7M3 3v3h3M8 5v3l2 2",
  save: "M8 3v7M5 7.5L8 10.5l3-3M3 13h10",
  phone: "M5 2h6a1 1 0 0 1 1 1v10a1 1 0 0 1-1 1H5a1 1 0 0 1-1-1V3a1 1 0 0 1 1-1M7 12h2",
  command: "M3 4h10M3 8h10M3 12h6",
  settings:
    "M8 5.8a2.2 2.2 0 1 0 0 4.4 2.2 2.2 0 0 0 0-4.4M6.9 1.5h2.2l.3 1.8 1.3.6 1.6-1 1.5 1.6-1 1.5.5 1.4 1.7.3v2.2l-1.7.3-.5 1.3 1 1.5-1.5 1.6-1.6-1-1.3.5-.3 1.8H6.9l-.3-1.8-1.3-.5-1.6 1-1.5-1.6 1-1.5-.5-1.3-1.7-.3V7.7l1.7-.3.5-1.4-1-1.5 1.5-1.6 1.6 1 1.3-.6z",
  sun: "M8 5.2a2.8 2.8 0 1 0 0 5.6 2.8 2.8 0 0 0 0-5.6M8 1.5v1.6M8 12.9v1.6M1.5 8h1.6M12.9 8h1.6M3.4 3.4l1.1 1.1M11.5 11.5l1.1 1.1M3.4 12.6l1.1-1.1M11.5 4.5l1.1-1.1",
  moon: "M13 9.5A5.5 5.5 0 1 1 6.5 3a4.5 4.5 0 0 0 6.5 6.5z",
} as const;

export function Icon({ name }: { name: keyof typeof PATHS }) {
  return (
    <svg
      viewBox="0 0 16 16"
      width="16"
      height="16"
      aria-hidden
      fill="none"
      stroke="currentColor"
      strokeWidth="1.5"
      strokeLinecap="round"
      strokeLinejoin="round"
    >
      <path d={PATHS[name]} />
    </svg>
  );
}
