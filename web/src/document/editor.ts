import type { Build, Picture, Solved, SourceSheet, SourceState } from "../api/client";
import type { Edit } from "./useBuild";

/** What every step's editor is given. */
export interface EditorProps {
  build: Build;
  edit: Edit;
  /** Puts a whole other document in place. */
  replace: (document: Build) => void;
  /** What every feed carries and loses in the scene and state of the picture, by its id. */
  carried: Solved["feeds"];
  /** What to know of the battery or rail. */
  source: SourceSheet | null;
  /** A place that was clicked, waiting for its light. */
  place: string | null;
  /** Chooses a place; the step Lights is where it gets its light. */
  onPlace: (place: string | null, light?: boolean) => void;
  picture: Picture | null;
  scene: string;
  state: SourceState;
  selected: string | null;
  onSelect: (id: string | null) => void;
  /** The small circuit whose workshop is open. */
  circuit: string | null;
  /** Opens the workshop of a small circuit, at Power where it has room. */
  onCircuit: (id: string | null) => void;
}
