import { Suspense, lazy, useDeferredValue } from "react";
import { type Build, problemOf } from "../../api/client";
import { Failure } from "../../ui/Failure";
import type { Edit } from "../../document/useBuild";
import { AuditView } from "./AuditView";
import { ChargingView } from "./ChargingView";
import { UseView } from "./UseView";
import { WhatIf } from "./WhatIf";
import { useDrained } from "./useDrained";
import type { View } from "./views";

// The charts are by far the largest part; they come when they are looked at.
const OverTime = lazy(() => import("./OverTime"));

interface Props {
  build: Build;
  scene: string;
  view: Exclude<View, "vehicle">;
  edit: Edit;
  onTake: (document: Build) => void;
}

/** What the lights cost the battery. */
export default function DrainView({ build: newest, scene, view, edit, onTake }: Props) {
  const build = useDeferredValue(newest);
  const asked = useDrained(build);
  if (asked.error) return <Failure problem={problemOf(asked.error)} retry={() => void asked.refetch()} />;
  if (!asked.data) return <p className="quiet">Working it out …</p>;
  switch (view) {
    case "use":
      return <UseView build={build} drained={asked.data} />;
    case "time":
      return (
        <Suspense fallback={<p className="quiet">Fetching the charts …</p>}>
          <OverTime build={build} scene={scene} />
        </Suspense>
      );
    case "what-if":
      return <WhatIf build={build} scene={scene} onTake={onTake} />;
    case "audit":
      return <AuditView build={build} drained={asked.data} edit={edit} />;
    case "charging":
      return <ChargingView build={build} drained={asked.data} />;
  }
}
