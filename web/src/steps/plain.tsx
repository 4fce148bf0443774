import { type ComponentType, memo } from "react";
import type { EditorProps } from "../document/editor";
import { useSite } from "./module";

/** An editor that needs nothing but the build, drawn again only when something of that changes. */
export function plain(Step: ComponentType<EditorProps>): ComponentType {
  const Quiet = memo(Step);
  return function Plain() {
    return <Quiet {...useSite().editor} />;
  };
}
