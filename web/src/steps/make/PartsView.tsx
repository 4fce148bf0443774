import { Box, Button } from "@chakra-ui/react";
import { useMutation, useQuery } from "@tanstack/react-query";
import { type Build, type CutList, type PartsList, answer, api, problemOf } from "../../api/client";
import { numberOf } from "../../document/useSolved";
import { saveFile } from "../../base/save";
import { usePrefs } from "../../base/prefs";
import type { Edit } from "../../document/useBuild";
import { money, parseQuantity, say, unitOf, inOwn } from "../../units";
import { makeOf } from "./decided";

const GROUPS: Record<PartsList["lines"][number]["group"], string> = {
  light: "Lights",
  power: "Power",
  safety: "Fuses, switches, plugs",
  wire: "Wire",
  fixing: "Holding and sealing",
};

export type Stock = Record<string, number>;

/** What the build takes and what is bought. */
export function useShopping(build: Build, stock: Stock) {
  return useQuery({
    queryKey: ["shopping", numberOf(build), stock],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/shopping", { body: { document: build, stock }, signal })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 20_000,
  });
}

const amount = (value: number, unit: string) => (unit === "m" ? say({ value, unit: "m" }) : String(Math.round(value)));

interface Props {
  build: Build;
  stock: Stock;
  onStock: (of: string, count: number) => void;
  edit: Edit;
}

type OwnPrice = NonNullable<Build["make"]>["prices"][number];

/** Puts an own price of a part into the build; with none the usual one counts again. */
function setPrice(draft: Build, of: string, price: number | null, currency: string) {
  const { prices } = makeOf(draft);
  const at = prices.findIndex((known) => known.of === of);
  if (price === null) {
    if (at >= 0) prices.splice(at, 1);
  } else if (at >= 0) prices[at]!.price = price;
  else prices.push({ of, price, currency });
}

/** What one costs where the person buys it; empty: the usual price. */
function Price({ line, own, onPrice }: { line: PartsList["lines"][number]; own: OwnPrice | undefined; onPrice: (price: number | null) => void }) {
  const held = own?.price.toString() ?? "";
  return (
    <input
      className="control"
      style={{ width: "5.5rem", textAlign: "right" }}
      inputMode="decimal"
      aria-label={`Your price: ${line.of}`}
      title={own ? `In ${own.currency}` : "A usual price; type yours over it"}
      key={held}
      defaultValue={held}
      placeholder={line.price === null || line.price === undefined ? "?" : line.price.toFixed(2)}
      onBlur={(event) => {
        const { value } = event.target;
        const read = value.trim() === "" ? null : parseQuantity(value, unitOf(""));
        if (read === undefined || (read !== null && read < 0)) event.target.setCustomValidity("Type a price, for example 3.50");
        else {
          event.target.setCustomValidity("");
          if (read !== (own?.price ?? null)) onPrice(read);
        }
        event.target.reportValidity();
      }}
    />
  );
}

/** The shopping list, and how the rolls are cut. */
export function PartsView({ build, stock, onStock, edit }: Props) {
  const { currency } = usePrefs();
  const asked = useShopping(build, stock);
  const cuts = useQuery({
    queryKey: ["cuts", numberOf(build)],
    queryFn: ({ signal }) => answer(api.POST("/api/v1/cuts", { body: { document: build }, signal })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 20_000,
  });
  const error = asked.error ?? cuts.error;
  if (error)
    return (
      <Box role="alert" color="stop.fg">
        {problemOf(error).detail}
      </Box>
    );
  if (!asked.data || !cuts.data) return <p className="quiet">Counting …</p>;
  const list = asked.data;
  return (
    <>
      <Box as="section" aria-label="Shopping list">
        <Box display="flex" gap="3" alignItems="baseline" mb="1">
          <Box as="h2" fontSize="lg" fontWeight="semibold">
            Parts
          </Box>
          <Box ml="auto">
            <CsvButton build={build} stock={stock} table="parts" />
          </Box>
        </Box>
        <div className="table-room" tabIndex={0} role="region" aria-label="The parts list">
          <table className="data">
            <thead>
              <tr>
                <th scope="col">Part</th>
                <th scope="col" className="roomy-only">
                  needed
                </th>
                <th scope="col" className="roomy-only">
                  spare
                </th>
                <th scope="col">in the drawer</th>
                <th scope="col">buy</th>
                <th scope="col" className="roomy-only">
                  price of one
                </th>
                <th scope="col">cost</th>
              </tr>
            </thead>
            {(Object.keys(GROUPS) as (keyof typeof GROUPS)[]).map((group) => {
              const own = list.lines.filter((line) => line.group === group);
              if (own.length === 0) return null;
              return (
                <tbody key={group}>
                  <tr>
                    <th scope="rowgroup" colSpan={7}>
                      <Box as="span" color="lantern.fg">
                        {GROUPS[group]}
                      </Box>
                    </th>
                  </tr>
                  {own.map((line) => (
                    <tr key={line.of}>
                      <th scope="row">{line.of}</th>
                      <td className="roomy-only">{amount(line.needed, line.unit)}</td>
                      <td className="roomy-only">{line.spare > 0 ? amount(line.spare, line.unit) : ""}</td>
                      <td>
                        <input
                          className="control"
                          style={{ width: "4.5rem", textAlign: "right" }}
                          type="number"
                          min="0"
                          step="any"
                          aria-label={`In the drawer: ${line.of}`}
                          defaultValue={stock[line.of] ?? ""}
                          key={stock[line.of] ?? ""}
                          placeholder="0"
                          onBlur={(event) => {
                            const count = Number(event.target.value);
                            if (Number.isFinite(count) && count >= 0 && count !== (stock[line.of] ?? 0)) onStock(line.of, count);
                          }}
                        />
                      </td>
                      <td>
                        <b>{line.buy > 0 ? amount(line.buy, line.unit) : "–"}</b>
                      </td>
                      <td className="roomy-only">
                        <Price
                          line={line}
                          own={build.make?.prices.find((price) => price.of === line.of)}
                          onPrice={(price) => edit((draft) => setPrice(draft, line.of, price, currency), "/make/prices")}
                        />
                      </td>
                      <td>{line.buy === 0 ? "" : line.cost === null || line.cost === undefined ? "?" : money(line.cost, line.currency)}</td>
                    </tr>
                  ))}
                </tbody>
              );
            })}
          </table>
        </div>
      </Box>
      <Box as="section" aria-label="Cut list">
        <Box display="flex" gap="3" alignItems="baseline" mb="1">
          <Box as="h2" fontSize="lg" fontWeight="semibold">
            Cut list
          </Box>
          <Box ml="auto">
            <CsvButton build={build} stock={stock} table="cuts" />
          </Box>
        </Box>
        {cuts.data.cuts.map((cut) => (
          <Rolls key={cut.of} cut={cut} />
        ))}
        {cuts.data.shrink.length > 0 && (
          <Box color="fg.muted" mt="2">
            Heat-shrink in pieces of {Math.round(100 * cuts.data.shrink_piece_m)} cm:{" "}
            {cuts.data.shrink.map((one) => `${one.pieces} of ${one.bore_mm} mm`).join(", ")}.
            {cuts.data.sleeve_m > 0 && ` Sleeve where it moves: ${say({ value: cuts.data.sleeve_m, unit: "m" })}.`}
          </Box>
        )}
      </Box>
    </>
  );
}

const HATCH = "repeating-linear-gradient(45deg, transparent 0 4px, currentColor 4px 5px)";

/** Rolls to scale, with what is cut from each and what is left over. */
function Rolls({ cut }: { cut: CutList["cuts"][number] }) {
  const longest = Math.max(...cut.rolls.map((roll) => roll.length_m));
  return (
    <Box className="card" mb="2">
      <Box display="flex" gap="3" alignItems="baseline">
        <b>{cut.of}</b>
        <Box as="span" color="fg.muted" fontSize="sm">
          {say({ value: cut.length_m, unit: "m" })} from {cut.rolls.length === 1 ? "one roll" : `${cut.rolls.length} rolls`}
          {cut.fewest ? "" : ", perhaps one more than needed"}
        </Box>
      </Box>
      {cut.rolls.map((roll, number) => (
        <Box key={number} mt="2">
          <Box display="flex" h="7" borderRadius="sm" overflow="hidden" borderWidth="1px" style={{ width: `${(100 * roll.length_m) / longest}%` }}>
            {roll.pieces.map((on) => {
              const piece = cut.pieces[on.piece]!;
              return (
                <Box
                  key={`${on.piece} ${on.from_m}`}
                  title={`${piece.name}: ${on.from_m.toFixed(2)} to ${on.to_m.toFixed(2)} m`}
                  overflow="hidden"
                  whiteSpace="nowrap"
                  textOverflow="ellipsis"
                  px="1.5"
                  fontSize="xs"
                  lineHeight="1.6rem"
                  bg="bg.emphasized"
                  borderRightWidth="1px"
                  borderColor="fg"
                  style={{ width: `${(100 * (on.to_m - on.from_m)) / roll.length_m}%` }}
                >
                  {piece.name}
                </Box>
              );
            })}
            {roll.left_m > 0.005 && <Box flex="1" color="border.emphasized" style={{ background: HATCH }} title={`left over: ${roll.left_m.toFixed(2)} m`} />}
          </Box>
          <Box fontSize="xs" color="fg.muted">
            {roll.pieces.map((on) => `${cut.pieces[on.piece]!.name} ${(on.to_m - on.from_m).toFixed(2)} m`).join(" · ")}
            {roll.left_m > 0.005 && ` · ${roll.left_m.toFixed(2)} m left over`}
          </Box>
        </Box>
      ))}
      {cut.pieces
        .filter((piece) => piece.note)
        .map((piece) => (
          <Box key={piece.name} fontSize="sm" color={piece.joints > 0 ? "fix.fg" : "fg.muted"} mt="1">
            {piece.joints > 0 ? "! " : ""}
            {piece.name}: {inOwn(piece.note)}
            {piece.marks ? `; marks ${piece.marks[0]} to ${piece.marks[1]}` : ""}
          </Box>
        ))}
    </Box>
  );
}

function CsvButton({ build, stock, table }: { build: Build; stock: Stock; table: string }) {
  const get = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/make/csv", { body: { of: { document: build, stock }, table }, parseAs: "text" })),
    onSuccess: (text) => saveFile(`${build.name} - ${table}.csv`, "text/csv", text as string),
  });
  return (
    <Button size="xs" minH="8" variant="outline" aria-label={`CSV of ${table}`} loading={get.isPending} onClick={() => get.mutate()}>
      CSV
    </Button>
  );
}
