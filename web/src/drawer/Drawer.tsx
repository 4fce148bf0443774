import { Box, Button, Heading } from "@chakra-ui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { type Part, answer, api, problemOf } from "../api/client";
import { useOwnParts, useReference } from "../api/reference";
import { useMayEdit } from "../garage/role";
import { useStock } from "../steps/make/useStock";
import { WorkingProvider } from "../job/Figure";
import { FileButton } from "../ui/FileButton";
import { saveBlob } from "../base/save";
import { ThemeSwitch } from "../ui/theme-switch";
import { toaster } from "../base/toaster";
import { usePrefs } from "../base/prefs";
import { parseQuantity, unitOf } from "../units";
import { PackLife } from "./PackLife";
import { PartEditor } from "./PartEditor";

type Kind = Part["what"]["kind"];
const KINDS: readonly (readonly [Kind, string])[] = [
  ["battery", "Batteries"],
  ["light", "Lights"],
  ["led", "LEDs"],
  ["bulb", "Bulbs"],
  ["converter", "Modules and drivers"],
  ["wire", "Wire"],
  ["fuse", "Fuses"],
  ["switch", "Switches"],
  ["connector", "Plugs"],
];

/** What a person owns: parts with their own figures, packs with their history, and how many of each thing there are. */
export function Drawer() {
  usePrefs();
  const own = useOwnParts();
  const mayEdit = useMayEdit();
  const [chosen, setChosen] = useState<string | null>(null);
  const [adding, setAdding] = useState(false);
  const selected = own.find((part) => part.id === chosen) ?? null;
  useEffect(() => {
    document.title = "Drawer · Orthavis";
    return () => {
      document.title = "Orthavis";
    };
  }, []);
  return (
    <WorkingProvider>
      <Box as="main" maxW="72rem" mx="auto" px={{ base: "4", md: "8" }} py="6">
        <Box as="header" display="flex" alignItems="center" flexWrap="wrap" gap="3" mb="6">
          <Box asChild minH="8" display="inline-flex" alignItems="center" color="fg.muted">
            <Link to="/">‹ Shelf</Link>
          </Box>
          <Heading as="h1" size="xl" color="lantern.fg" mr="auto">
            Drawer
          </Heading>
          <Files mayEdit={mayEdit} />
          <ThemeSwitch />
        </Box>
        <Box display="grid" gridTemplateColumns={{ base: "1fr", md: "20rem 1fr" }} gap="6" alignItems="start">
          <Box>
            {mayEdit && (
              <Button size="sm" minH="10" w="full" mb="3" colorPalette="lantern" aria-expanded={adding} onClick={() => setAdding(!adding)}>
                Add a part of your own
              </Button>
            )}
            {adding && (
              <AddPart
                own={own}
                onDone={(id) => {
                  setAdding(false);
                  setChosen(id);
                }}
              />
            )}
            {own.length === 0 && !adding && (
              <Box color="fg.muted" mb="4">
                Nothing of your own yet. Add the pack you have, a strip you measured, the converters in your box: they are offered first wherever a part is
                chosen.
              </Box>
            )}
            {KINDS.map(([kind, title]) => {
              const parts = own.filter((part) => part.what.kind === kind);
              if (parts.length === 0) return null;
              return (
                <Box as="section" key={kind} aria-label={title} mb="4">
                  <Box as="h2" fontSize="sm" color="fg.muted">
                    {title}
                  </Box>
                  {parts.map((part) => (
                    <button
                      type="button"
                      key={part.id}
                      className={part.id === chosen ? "card on row" : "card row"}
                      aria-pressed={part.id === chosen}
                      onClick={() => setChosen(part.id === chosen ? null : part.id)}
                    >
                      <b>{part.name}</b>
                      {part.retired && <span className="quiet"> · retired</span>}
                      <span className="quiet"> {part.figures_from}</span>
                    </button>
                  ))}
                </Box>
              );
            })}
          </Box>
          <Box minW="0">
            {selected && <Edit key={selected.id} part={selected} mayEdit={mayEdit} onGone={() => setChosen(null)} />}
            <Counted own={own} mayEdit={mayEdit} />
          </Box>
        </Box>
      </Box>
    </WorkingProvider>
  );
}

const slug = (name: string) =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "")
    .slice(0, 60) || "part";

function useKeep() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (part: Part) => answer(api.PUT("/api/v1/parts/{id}", { params: { path: { id: part.id } }, body: part })),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["parts"] }),
  });
}

/** A part begins as one of the library that is nearest to it. */
function AddPart({ own, onDone }: { own: readonly Part[]; onDone: (id: string) => void }) {
  const shipped = useReference()?.parts ?? [];
  const [kind, setKind] = useState<Kind>("battery");
  const [like, setLike] = useState("");
  const [name, setName] = useState("");
  const keep = useKeep();
  const near = shipped.filter((part) => part.what.kind === kind);
  const from = near.find((part) => part.id === like) ?? near[0];
  const add = () => {
    if (!from) return;
    const called = name.trim() || `My ${from.name.toLowerCase()}`;
    const wish = `own-${slug(called)}`;
    const taken = (id: string) => own.some((part) => part.id === id) || shipped.some((part) => part.id === id);
    let id = wish;
    for (let n = 2; taken(id); n++) id = `${wish}-${n}`;
    keep.mutate({ ...from, id, name: called, figures_from: "as on its label" }, { onSuccess: () => onDone(id) });
  };
  return (
    <form
      className="card"
      aria-label="A part of your own"
      onSubmit={(event) => {
        event.preventDefault();
        add();
      }}
    >
      <Box display="grid" gap="2">
        <label>
          <span className="quiet">What it is</span>
          <select
            className="control"
            value={kind}
            onChange={(event) => {
              setKind(event.target.value as Kind);
              setLike("");
            }}
          >
            {KINDS.map(([known, title]) => (
              <option key={known} value={known}>
                {title}
              </option>
            ))}
          </select>
        </label>
        <label>
          <span className="quiet">Most like</span>
          <select className="control" value={from?.id ?? ""} onChange={(event) => setLike(event.target.value)}>
            {near.map((part) => (
              <option key={part.id} value={part.id}>
                {part.name}
              </option>
            ))}
          </select>
        </label>
        <label>
          <span className="quiet">What you call it</span>
          <input
            className="control"
            value={name}
            maxLength={200}
            placeholder={from ? `My ${from.name.toLowerCase()}` : ""}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <Button type="submit" size="sm" minH="9" variant="outline" loading={keep.isPending} disabled={!from}>
          Add it
        </Button>
        {keep.error && (
          <Box role="alert" color="stop.fg">
            {problemOf(keep.error).detail}
          </Box>
        )}
      </Box>
    </form>
  );
}

const TODAY = () => new Date().toISOString().slice(0, 10);

function Edit({ part, mayEdit, onGone }: { part: Part; mayEdit: boolean; onGone: () => void }) {
  const client = useQueryClient();
  const [draft, setDraft] = useState(part);
  const keep = useKeep();
  const changed = JSON.stringify(draft) !== JSON.stringify(part);
  const forget = useMutation({
    mutationFn: () => answer(api.DELETE("/api/v1/parts/{id}", { params: { path: { id: part.id } } })),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["parts"] });
      toaster.create({ title: `${part.name} is out of the drawer`, action: { label: "Undo", onClick: () => keep.mutate(part) }, duration: 15_000 });
      onGone();
    },
    onError: (error) => toaster.create({ title: problemOf(error).detail, type: "error" }),
  });
  return (
    <>
      <section aria-label={part.name} className="card">
        <header>
          <h2>{part.name}</h2>
        </header>
        <fieldset disabled={!mayEdit}>
          <PartEditor part={draft} onChange={setDraft} />
          <Box display="flex" gap="2" mt="3" flexWrap="wrap">
            <Button size="sm" minH="9" colorPalette="lantern" disabled={!changed} loading={keep.isPending} onClick={() => keep.mutate(draft)}>
              Keep
            </Button>
            <Button size="sm" minH="9" variant="outline" onClick={() => setDraft({ ...draft, figures_from: `measured by hand, ${TODAY()}` })}>
              I measured it
            </Button>
            <Button
              size="sm"
              minH="9"
              variant="outline"
              onClick={() => keep.mutate({ ...draft, retired: !part.retired }, { onSuccess: (kept) => setDraft(kept) })}
            >
              {part.retired ? "Use it again" : "Retire it"}
            </Button>
            <Button size="sm" minH="9" variant="ghost" ml="auto" onClick={() => forget.mutate()}>
              Forget it
            </Button>
          </Box>
        </fieldset>
        {keep.error && (
          <Box role="alert" color="stop.fg" mt="2">
            {problemOf(keep.error).errors?.[0]
              ? `${problemOf(keep.error).errors![0]!.pointer.slice(1)}: ${problemOf(keep.error).errors![0]!.problem}. ${problemOf(keep.error).errors![0]!.remedy}.`
              : problemOf(keep.error).detail}
          </Box>
        )}
        <p className="quiet">
          Builds that use it keep the figures they were planned with; choose it again there to take these over. Retired parts are offered nowhere, and nothing
          of their history is lost.
        </p>
      </section>
      <PackLife part={part} />
    </>
  );
}

/** How many of each thing there are, by the names of the shopping list. */
function Counted({ own, mayEdit }: { own: readonly Part[]; mayEdit: boolean }) {
  const { stock: counted, put } = useStock();
  const stock: Record<string, number> = counted;
  const [name, setName] = useState("");
  const [count, setCount] = useState("");
  const shipped = useReference()?.parts ?? [];
  const names = [...new Set([...own, ...shipped].map((part) => part.name))];
  const read = parseQuantity(count, unitOf(""));
  const lines = Object.entries(stock)
    .filter(([, many]) => many > 0)
    .sort(([a], [b]) => a.localeCompare(b));
  return (
    <section aria-label="How many there are" className="card">
      <header>
        <h2>How many there are</h2>
      </header>
      {lines.length === 0 && (
        <Box color="fg.muted">Nothing is counted yet. What is here is not bought again: the shopping list of every build takes it off.</Box>
      )}
      <Box as="ul" listStyleType="none" display="grid" gridTemplateColumns={{ base: "1fr", lg: "1fr 1fr" }} columnGap="6">
        {lines.map(([part, many]) => (
          <Box as="li" key={part} display="grid" gridTemplateColumns="1fr 6rem" gap="2" alignItems="center" py="1" borderTopWidth="1px">
            <span>{part}</span>
            <CountField name={part} count={many} disabled={!mayEdit} onPut={(next) => put(part, next)} />
          </Box>
        ))}
      </Box>
      {mayEdit && (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            if (name.trim() === "" || read === undefined || read < 0) return;
            put(name.trim(), (stock[name.trim()] ?? 0) + read);
            setName("");
            setCount("");
          }}
        >
          <Box display="grid" gridTemplateColumns="1fr 6rem auto" gap="2" mt="3" alignItems="end">
            <label>
              <span className="quiet">Put in</span>
              <input
                className="control"
                list="drawer-names"
                value={name}
                maxLength={200}
                placeholder="as a shopping list names it"
                onChange={(event) => setName(event.target.value)}
              />
            </label>
            <datalist id="drawer-names">
              {names.map((known) => (
                <option key={known} value={known} />
              ))}
            </datalist>
            <label>
              <span className="quiet">Pieces, m</span>
              <input
                className="control"
                inputMode="decimal"
                value={count}
                aria-invalid={(count !== "" && read === undefined) || undefined}
                onChange={(event) => setCount(event.target.value)}
              />
            </label>
            <Button type="submit" size="sm" minH="9" variant="outline" disabled={name.trim() === "" || read === undefined || read < 0}>
              Put in
            </Button>
          </Box>
        </form>
      )}
    </section>
  );
}

function CountField({ name, count, disabled, onPut }: { name: string; count: number; disabled: boolean; onPut: (count: number) => void }) {
  const [text, setText] = useState(String(count));
  useEffect(() => {
    setText(String(count));
  }, [count]);
  const read = parseQuantity(text, unitOf(""));
  const settle = () => {
    if (read !== undefined && read >= 0 && read <= 1e6) onPut(read);
    else setText(String(count));
  };
  return (
    <input
      className="control"
      inputMode="decimal"
      aria-label={`How many: ${name}`}
      aria-invalid={read === undefined || read < 0 || undefined}
      disabled={disabled}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={settle}
      onKeyDown={(event) => event.key === "Enter" && settle()}
    />
  );
}

function Files({ mayEdit }: { mayEdit: boolean }) {
  const client = useQueryClient();
  const [bad, setBad] = useState<readonly string[]>([]);
  const save = useMutation({
    mutationFn: async () => {
      const text = (await answer(api.GET("/api/v1/drawer/csv", { parseAs: "text" }))) as unknown as string;
      saveBlob("drawer.csv", new Blob([text], { type: "text/csv" }));
    },
    onError: (error) => toaster.create({ title: problemOf(error).detail, type: "error" }),
  });
  const take = useMutation({
    mutationFn: async (file: File) => answer(api.POST("/api/v1/drawer/csv", { body: { text: await file.text() } })),
    onSuccess: (taken) => {
      setBad(taken.bad.map((line) => `Line ${line.line}: ${line.problem}. ${line.remedy}.`));
      toaster.create({ title: `${taken.parts} parts and ${taken.counted} counts taken in`, type: taken.bad.length > 0 ? "warning" : "success" });
      void client.invalidateQueries({ queryKey: ["parts"] });
      void client.invalidateQueries({ queryKey: ["stock"] });
    },
    onError: (error) => toaster.create({ title: problemOf(error).detail, type: "error" }),
  });
  return (
    <>
      <Button size="sm" minH="9" variant="outline" onClick={() => save.mutate()}>
        CSV
      </Button>
      {mayEdit && (
        <>
          <FileButton label="Drawer file" accept=".csv,text/csv" onFile={(file) => take.mutate(file)} loading={take.isPending}>
            Import a CSV file
          </FileButton>
        </>
      )}
      {bad.length > 0 && (
        <Box role="alert" flexBasis="full" color="fix.fg" fontSize="sm">
          {bad.slice(0, 10).map((line) => (
            <div key={line}>! {line}</div>
          ))}
          {bad.length > 10 && `and ${bad.length - 10} more`}
        </Box>
      )}
    </>
  );
}
