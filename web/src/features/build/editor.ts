import type { Build, Picture, Report, SourceState } from "../../api/client";
import type { Edit } from "./useBuild";

/** What every step's editor is given. */
export interface EditorProps {
  build: Build;
  edit: Edit;
  /** Puts a whole other document in place. */
  replace: (document: Build) => void;
  report: Report | null;
  picture: Picture | null;
  scene: string;
  state: SourceState;
  selected: string | null;
  onSelect: (id: string | null) => void;
}
