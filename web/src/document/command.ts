/** Something that the palette finds. */
export interface Command {
  name: string;
  keys?: string;
  act: () => void;
}
