import { useQuery } from "@tanstack/react-query";
import { type Build, type ShelfEntry, type Viewpoint, answer, api } from "../api/client";
import { NightPicture } from "../scene/night/NightPicture";
import { useNight } from "../scene/night/useNight";

const SIZE = [320, 172] as const;
const WHOLE = { position: "absolute", inset: 0, width: "100%", height: "100%", objectFit: "cover" } as const;

interface Props {
  entry: ShelfEntry;
  from: Viewpoint;
}

/** A build on the shelf as it looks at night; until it is known, and where it cannot be solved, what stands there stays. */
export default function CardNight({ entry, from }: Props) {
  const kept = useQuery({
    queryKey: ["card", entry.id, entry.revision],
    queryFn: async () => (await answer(api.GET("/api/v1/builds/{id}", { params: { path: { id: entry.id } } }))).document as Build,
    staleTime: Infinity,
    retry: false,
  });
  return kept.data ? <Night build={kept.data} from={from} /> : null;
}

function Night({ build, from }: { build: Build; from: Viewpoint }) {
  const shown = useNight({ build, from, size: SIZE }, 0);
  if (!shown.data) return null;
  // It says nothing that the card does not say in words.
  return <NightPicture planes={shown.data.planes} falling={shown.data.night} label="" plain style={WHOLE} />;
}
