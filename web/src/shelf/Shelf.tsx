import { Box, Button, Heading, IconButton, Spinner, chakra } from "@chakra-ui/react";
import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { type ChangeEvent, type KeyboardEvent, Suspense, lazy, useEffect, useState } from "react";
import { type Build, type ShelfEntry, answer, api, problemOf } from "../api/client";
import { Failure } from "../ui/Failure";
import { FileButton } from "../ui/FileButton";
import { usePrefs } from "../base/prefs";
import { useDialog } from "../ui/dialog";
import { Settings } from "../ui/Settings";
import { toaster } from "../base/toaster";
import { clock } from "../units";
import { Glows, shining } from "../scene/Glows";
import { Body } from "../scene/Body";
import { useViews, vehicleName } from "../scene/outlines";
import { NewBuild } from "./NewBuild";
import { PhoneDialog } from "../garage/PhoneDialog";
import { useMayEdit, useMe } from "../garage/role";
import { Due } from "./Due";
import { useRemove } from "./useRemove";
import { WholeDialog } from "./Whole";
import { capital } from "../document/fields";
import { Icon } from "../ui/icons";
import { Segments } from "../ui/Segments";
import { ALL, MANY, ORDERS, type Wanted, ordered, tagsOf } from "./order";

// What shines comes after what is drawn.
const CardNight = lazy(() => import("./CardNight"));

/** All builds, and the way to a new one. */
export function Shelf() {
  usePrefs();
  const client = useQueryClient();
  const shelf = useInfiniteQuery({
    queryKey: ["shelf"],
    queryFn: ({ pageParam }) => answer(api.GET("/api/v1/builds", { params: { query: { after: pageParam } } })),
    initialPageParam: undefined as string | undefined,
    getNextPageParam: (last) => last.next ?? undefined,
    staleTime: 0,
  });
  const [starting, setStarting] = useDialog("new", "New build");
  const near = useMe()?.role === "owner";
  const mayEdit = useMayEdit();
  const refresh = () => void client.invalidateQueries({ queryKey: ["shelf"] });
  const [wanted, setWanted] = useState(ALL);
  // What is searched is all of it.
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = shelf;
  useEffect(() => {
    if (wanted !== ALL && hasNextPage && !isFetchingNextPage) void fetchNextPage();
  }, [wanted, hasNextPage, isFetchingNextPage, fetchNextPage]);

  if (shelf.error) return <Failure problem={problemOf(shelf.error)} retry={() => void shelf.refetch()} />;
  const builds = shelf.data?.pages.flatMap((page) => page.builds) ?? [];
  const empty = shelf.data !== undefined && builds.length === 0;
  const shown = ordered(builds, wanted, vehicleName);
  return (
    <Box as="main" maxW="72rem" mx="auto" px={{ base: "4", md: "8" }} py="6">
      <Box as="header" display="flex" alignItems="center" flexWrap="wrap" gap="3" mb="8">
        <Heading as="h1" size="xl" color="lantern.fg" mr="auto">
          Orthavis
        </Heading>
        <Button asChild size="sm" variant="outline">
          <Link to="/drawer">Drawer</Link>
        </Button>
        {near && <WholeDialog />}
        {near && <PhoneDialog />}
        {mayEdit && <ImportButton onDone={refresh} />}
        {mayEdit && !empty && (
          <Button colorPalette="lantern" size="sm" onClick={() => setStarting(true)}>
            New build
          </Button>
        )}
        <Settings />
      </Box>
      {shelf.isPending && <Spinner role="status" aria-label="Reading the shelf" color="lantern.solid" />}
      {empty && (mayEdit ? <FirstUse onStart={() => setStarting(true)} /> : <Box color="fg.muted">There is no build here yet.</Box>)}
      {(builds.length > MANY || shelf.hasNextPage) && <Find builds={builds} wanted={wanted} onWanted={setWanted} />}
      {builds.length > 0 && shown.length === 0 && <Box color="fg.muted">No build here fits. Search for fewer words.</Box>}
      {!empty && shelf.data && (
        <Box as="ul" listStyleType="none" display="grid" gap="5" gridTemplateColumns="repeat(auto-fill, minmax(17rem, 1fr))">
          {shown.map((entry) => (
            <BuildCard key={entry.id} entry={entry} refresh={refresh} />
          ))}
        </Box>
      )}
      {shelf.hasNextPage && (
        <Box mt="6" textAlign="center">
          <Button variant="outline" size="sm" loading={shelf.isFetchingNextPage} onClick={() => void shelf.fetchNextPage()}>
            Older builds
          </Button>
        </Box>
      )}
      <NewBuild open={starting} onClose={() => setStarting(false)} />
    </Box>
  );
}

/** Search, kinds of vehicles and order, once there is much to look through. */
function Find({ builds, wanted, onWanted }: { builds: readonly ShelfEntry[]; wanted: Wanted; onWanted: (wanted: Wanted) => void }) {
  const kinds = [...new Set(builds.map((entry) => entry.summary?.vehicle).filter((kind) => kind != null))].sort();
  const tags = [...new Set(builds.flatMap(tagsOf))].sort();
  return (
    <Box role="search" display="flex" flexWrap="wrap" gap="3" alignItems="end" mb="5">
      <Box flex="1 1 14rem" maxW="24rem">
        <input
          className="control"
          type="search"
          aria-label="Search your builds"
          placeholder="Search your builds"
          value={wanted.text}
          onChange={(event) => onWanted({ ...wanted, text: event.target.value })}
        />
      </Box>
      <Segments
        quiet
        label="Vehicle"
        value={wanted.vehicle}
        options={[["", "All"], ...kinds.map((kind) => [kind, capital(vehicleName(kind))] as [string, string])]}
        onChange={(vehicle) => onWanted({ ...wanted, vehicle })}
      />
      {tags.length > 0 && (
        <Segments
          quiet
          label="Tag"
          value={wanted.tag}
          options={[["", "Any tag"], ...tags.map((tag) => [tag, `#${tag}`] as [string, string])]}
          onChange={(tag) => onWanted({ ...wanted, tag })}
        />
      )}
      <Segments quiet label="Order" value={wanted.order} options={ORDERS} onChange={(order) => onWanted({ ...wanted, order })} />
    </Box>
  );
}

/** Builds that ship with the program: to see what a finished one is like, and to begin from. */
function Samples() {
  const navigate = useNavigate();
  const samples = useQuery({ queryKey: ["samples"], queryFn: () => answer(api.GET("/api/v1/samples")), staleTime: Infinity });
  const copy = useMutation({
    mutationFn: (build: Build) => answer(api.POST("/api/v1/builds", { body: build })),
    onSuccess: (stored) => void navigate({ to: "/builds/$id", params: { id: String(stored.id) } }),
    onError: (error) => toaster.create({ title: problemOf(error).detail, type: "error" }),
  });
  if (!samples.data) return null;
  return (
    <Box as="section" aria-labelledby="samples" gridColumn={{ md: "1 / -1" }}>
      <Heading as="h2" id="samples" size="md" mb="1">
        Or begin with a sample
      </Heading>
      <Box color="fg.muted" mb="3">
        A click copies it to your shelf. Not every one is safe yet: see what the program says, and fix it.
      </Box>
      <Box display="flex" flexWrap="wrap" gap="2">
        {samples.data.map((build) => (
          <Button key={build.name} size="sm" minH="9" variant="outline" disabled={copy.isPending} onClick={() => copy.mutate(build)}>
            {build.name}
          </Button>
        ))}
      </Box>
    </Box>
  );
}

function FirstUse({ onStart }: { onStart: () => void }) {
  const trike = useViews({ kind: "bicycle" })[0];
  const lamp = trike?.places.find((place) => place.name === "handlebar");
  return (
    <Box display="grid" gridTemplateColumns={{ md: "1fr 1fr" }} gap="10" alignItems="center" alignContent="center" minH={{ md: "65vh" }}>
      <Box>
        <Heading as="h2" size="3xl" mb="4" lineHeight="1.15">
          Light on your vehicle, from the battery it already has
        </Heading>
        <Box fontSize="md" color="fg.muted" mb="6">
          Say what battery there is and where light should go. Orthavis works out resistors, converters, wires and fuses, shows how long the light lasts, and
          stops you where someone could get hurt.
        </Box>
        <Box display="flex" flexWrap="wrap" gap="3">
          <Button colorPalette="lantern" size="lg" onClick={onStart}>
            Start your first build
          </Button>
          <Button asChild size="lg" variant="outline">
            <Link to="/wish">Plan it from what I want</Link>
          </Button>
        </Box>
      </Box>
      <svg viewBox="0 0 560 300" aria-hidden>
        <defs>
          <radialGradient id="first">
            <stop offset="0" stopColor="#ffd98a" stopOpacity="0.8" />
            <stop offset="1" stopColor="#ffd98a" stopOpacity="0" />
          </radialGradient>
        </defs>
        {trike && <Body view={trike} />}
        {lamp && <circle cx={lamp.x} cy={lamp.y} r="90" fill="url(#first)" />}
      </svg>
      <Samples />
    </Box>
  );
}

function BuildCard({ entry, refresh }: { entry: ShelfEntry; refresh: () => void }) {
  const { summary } = entry;
  const views = useViews({ kind: summary?.vehicle ?? "other", variant: summary?.variant });
  const outline = summary?.vehicle ? views[0] : undefined;
  const path = { params: { path: { id: entry.id } } };
  const failed = (error: Error) => toaster.create({ title: problemOf(error).detail, type: "error" });
  const remove = useRemove(entry);
  const mayEdit = useMayEdit();
  const copy = useMutation({ mutationFn: () => answer(api.POST("/api/v1/builds/{id}/duplicate", path)), onSuccess: refresh, onError: failed });
  const rename = useMutation({
    mutationFn: (name: string) =>
      answer(api.POST("/api/v1/builds/{id}/rename", { params: { path: { id: entry.id }, header: { "If-Match": `"${entry.revision}"` } }, body: { name } })),
    onSuccess: refresh,
    onError: failed,
  });
  const [name, setName] = useState<string | null>(null);
  const finish = () => {
    if (name !== null && name.trim() && name !== entry.name) rename.mutate(name.trim());
    setName(null);
  };
  return (
    <Box as="li" position="relative" bg="bg.panel" borderWidth="1px" borderRadius="lg" overflow="hidden" _hover={{ borderColor: "lantern.border" }}>
      {/* A window into the night in either theme. */}
      <Box className="dark" bg="bg" px="6" py="4" position="relative">
        <svg viewBox="0 0 560 300" aria-hidden style={{ display: "block", width: "100%", height: "8.5rem", overflow: "visible" }}>
          {outline && (
            <>
              <Body view={outline} />
              <Glows lights={shining(outline, summary?.glows ?? [])} of={`shelf-${entry.id}`} />
            </>
          )}
        </svg>
        {summary?.readable && summary.lights > 0 && (
          <Suspense fallback={null}>
            <CardNight entry={entry} from={outline?.seen ?? "beside"} />
          </Suspense>
        )}
      </Box>
      <Box p="4">
        {name === null ? (
          <Box asChild fontSize="md" fontWeight="semibold" _before={{ content: '""', position: "absolute", inset: "0" }}>
            <Link to="/builds/$id" params={{ id: String(entry.id) }}>
              {entry.name}
            </Link>
          </Box>
        ) : (
          <chakra.input
            aria-label="New name"
            autoFocus
            value={name}
            maxLength={200}
            onChange={(event: ChangeEvent<HTMLInputElement>) => setName(event.target.value)}
            onBlur={finish}
            onKeyDown={(event: KeyboardEvent) => {
              if (event.key === "Enter") finish();
              if (event.key === "Escape") setName(null);
            }}
            w="full"
            bg="bg.muted"
            px="2"
            minH="8"
          />
        )}
        <Verdict entry={entry} />
        {summary?.readable && <Due id={entry.id} revision={entry.revision} />}
        <Box display="flex" alignItems="center" mt="3" color="fg.muted" fontSize="xs">
          <Box flex="1">
            {summary?.readable && `${summary.lights} light${summary.lights === 1 ? "" : "s"} · `}
            {clock(entry.saved_at)}
            {tagsOf(entry).map((tag) => (
              <Box as="span" key={tag} color="lantern.fg">
                {" "}
                #{tag}
              </Box>
            ))}
            {summary?.readable && summary.lights > 0 && (
              <Box asChild position="relative" display="block" w="fit-content" minH="6" textDecoration="underline" textUnderlineOffset="0.2em">
                <Link to="/builds/$id" params={{ id: String(entry.id) }} search={{ step: "trouble" }}>
                  Something is dark?
                </Link>
              </Box>
            )}
          </Box>
          {(
            [
              ["Rename", "rename", () => setName(entry.name)],
              ["Duplicate", "copy", () => copy.mutate()],
              ["Delete", "remove", () => remove.mutate()],
            ] as const
          )
            // What cannot be read is neither renamed nor copied; it can be looked at, and put away.
            .filter(([word]) => mayEdit && (word === "Delete" || summary?.readable !== false))
            .map(([word, sign, act]) => (
              <IconButton
                key={word}
                aria-label={`${word} ${entry.name}`}
                title={word}
                size="xs"
                minW="8"
                minH="8"
                variant="ghost"
                position="relative"
                onClick={act}
              >
                <Icon name={sign} />
              </IconButton>
            ))}
        </Box>
      </Box>
    </Box>
  );
}

function Verdict({ entry: { summary } }: { entry: ShelfEntry }) {
  if (!summary) return <Box color="fg.muted">Being worked out …</Box>;
  if (!summary.readable) return <Box color="stop.fg">✕ Cannot be read; open it to see why</Box>;
  if (summary.lights === 0) return <Box color="fg.muted">Nothing lit yet</Box>;
  if (summary.trouble) return <Box color="stop.fg">✕ It may keep switching on and off</Box>;
  const [colour, sign] = summary.stops ? ["stop.fg", "✕"] : summary.fixes ? ["fix.fg", "!"] : ["good.fg", "✓"];
  return (
    <Box color={colour}>
      {sign} {summary.headline}
    </Box>
  );
}

function ImportButton({ onDone }: { onDone: () => void }) {
  const navigate = useNavigate();
  const create = useMutation({
    // The text goes as it is, so that nothing in it is lost before the server has read it.
    mutationFn: (text: string) => answer(api.POST("/api/v1/builds", { body: text as unknown as Build, bodySerializer: (body) => body as unknown as string })),
    onSuccess: (stored) => {
      onDone();
      void navigate({ to: "/builds/$id", params: { id: String(stored.id) } });
    },
    onError: (error) => toaster.create({ title: problemOf(error).detail, type: "error", duration: 20_000 }),
  });
  return (
    <>
      <FileButton
        label="Build file"
        accept=".json,application/json"
        onFile={(file) => void file.text().then((text) => create.mutate(text))}
        aria-label="Import a build file"
        loading={create.isPending}
      >
        <span>
          Import
          <Box as="span" hideBelow="sm">
            {" "}
            a build
          </Box>
        </span>
      </FileButton>
    </>
  );
}
