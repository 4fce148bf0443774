import { Box } from "@chakra-ui/react";
import { problemOf } from "../../api/client";
import type { EditorProps } from "../../document/editor";
import { Card, StepHeading } from "../../ui/StepHeading";
import { money, say } from "../../units";
import { Cavities, Positions } from "./Cavities";
import { type Stock, useShopping } from "./PartsView";

/** What it all comes to, where it goes, and the tools. */
export function PartsStep({ build, edit, stock }: Pick<EditorProps, "build" | "edit"> & { stock: Stock }) {
  const asked = useShopping(build, stock);
  const list = asked.data;
  return (
    <>
      <StepHeading title="Parts">What to buy, what to cut, and whether it goes in.</StepHeading>
      {asked.error && (
        <Box role="alert" color="stop.fg">
          {problemOf(asked.error).detail}
        </Box>
      )}
      {list && (
        <>
          <Card title="To be bought">
            {Object.keys(list.cost).length === 0 && <Box fontSize="2xl">nothing</Box>}
            {Object.entries(list.cost).map(([currency, cost]) => (
              <Box key={currency} fontSize="4xl" fontWeight="bold" lineHeight="1.1" fontVariantNumeric="tabular-nums">
                {money(cost, currency)}
              </Box>
            ))}
            {list.unpriced > 0 && (
              <Box color="fix.fg" mt="1">
                ! and {list.unpriced} {list.unpriced === 1 ? "item" : "items"} without a price
              </Box>
            )}
            <Box color="fg.muted" mt="2">
              Spares are counted: one LED and resistor in ten, two fuses of each rating. Wire and strip come in whole rolls. Prices are typical ones, in euro;
              where you know better, type yours into the list.
            </Box>
          </Card>
          <Card title="It weighs">
            <Box fontSize="2xl" fontWeight="bold">
              {say({ value: list.mass_g, unit: "g" })}
            </Box>
            <Box color="fg.muted">as far as its parts’ mass is known</Box>
          </Card>
          <Cavities build={build} edit={edit} />
          <Positions build={build} edit={edit} />
          <Card title="Tools">
            <Box as="ul" listStyleType="none">
              {list.tools.map((tool) => (
                <Box as="li" key={tool}>
                  {tool}
                </Box>
              ))}
            </Box>
          </Card>
        </>
      )}
    </>
  );
}
