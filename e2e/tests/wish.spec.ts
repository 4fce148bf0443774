import AxeBuilder from "@axe-core/playwright";
import type { Locator, Page } from "@playwright/test";
import { complaints } from "./words";
import { expect, saved, test, verdict } from "./workshop";

/** From the empty shelf to a plan without a stop and its shopping list, by someone who says what is wanted. */

/** Most actions that it may take. */
const MOST = 12;

interface Errand {
  name: string;
  vehicle?: string;
  form?: string;
  places: readonly string[];
  /** What a light is for, or its colour, where the likely one is not meant. */
  change?: readonly (readonly [string, string])[];
  power?: string;
  label?: string;
  hands?: string;
}

const ERRANDS: readonly Errand[] = [
  { name: "a rear glow on a power chair without tools", vehicle: "Power wheelchair", places: ["rear"], hands: "Plugs and lever clamps" },
  {
    name: "a board with a show for an evening",
    vehicle: "Skateboard",
    places: ["left rail"],
    change: [["What for", "Show"]],
    power: "A pack of their own",
    hands: "Solder",
  },
  {
    name: "wing lights of a plane",
    vehicle: "RC model",
    form: "Plane",
    places: ["left wing tip", "right wing tip"],
    label: "3S 2200 mAh 30C",
    hands: "Solder",
  },
  { name: "a bicycle's front and rear light", form: "Bicycle", places: ["handlebar", "rear rack"], label: "36 V 10 Ah li-ion" },
];

// Each begins at an empty shelf.
test.beforeEach(async ({ page }) => {
  await page.goto("/");
  await page.evaluate(async () => {
    const { builds } = (await (await fetch("/api/v1/builds")).json()) as { builds: { id: number; revision: number }[] };
    for (const { id, revision } of builds) await fetch(`/api/v1/builds/${id}`, { method: "DELETE", headers: { "If-Match": `"${revision}"` } });
  });
});

for (const errand of ERRANDS)
  test(`${errand.name}: from the empty shelf to what to buy`, async ({ page }) => {
    let actions = 0;
    const press = async (what: Locator) => {
      actions++;
      await what.click();
    };
    await page.goto("/");
    await press(page.getByRole("link", { name: "Plan it from what I want" }));
    await expect(page.getByRole("heading", { level: 1, name: "Where should there be light?" })).toBeFocused();
    if (errand.vehicle) await press(page.getByText(errand.vehicle, { exact: true }));
    if (errand.form) await press(page.getByRole("radio", { name: errand.form, exact: true }));
    for (const place of errand.places) await press(page.getByRole("button", { name: `+ ${place}`, exact: true }));
    for (const [field, word] of errand.change ?? []) {
      actions++;
      await page.getByRole("combobox", { name: field }).selectOption({ label: word });
    }
    await press(page.getByRole("button", { name: "Next" }));
    if (errand.power) await press(page.getByRole("radio", { name: errand.power }));
    if (errand.label) {
      await press(page.getByRole("radio", { name: "What is printed on my battery" }));
      actions++;
      await page.getByRole("textbox", { name: "On the label" }).fill(errand.label);
      await press(page.getByRole("button", { name: "Read this label" }));
      await expect(page.getByRole("status")).toContainText("Assumed");
    }
    if (errand.hands) await press(page.getByRole("radio", { name: errand.hands }));
    await press(page.getByRole("button", { name: "Next" }));
    await press(page.getByRole("button", { name: "Build this" }).first());
    await saved(page);
    await expect(verdict(page)).toContainText("No problems found");
    await expect(page.getByRole("region", { name: "Parts", exact: true })).toContainText("To be bought");
    test.info().annotations.push({ type: "actions", description: String(actions) });
    expect(actions).toBeLessThanOrEqual(MOST);
  });

const screen = async (page: Page, name: string, go?: string) => {
  if (go) await page.getByRole("button", { name: go }).click();
  await expect(page.getByRole("heading", { level: 1, name })).toBeFocused();
};

test("what was told stays on the way back and over a reload, and what is missing is said", async ({ page }) => {
  await page.goto("/wish");
  await page.getByRole("button", { name: "Next" }).click();
  await expect(page.getByRole("alert")).toContainText("Choose a place");
  await page.getByRole("button", { name: "+ handlebar" }).click();
  await page.getByRole("button", { name: "+ basket rear" }).click();
  await screen(page, "What is there?", "Next");
  await page.getByRole("radio", { name: "What is printed on my battery" }).click();
  await page.getByRole("button", { name: "Next" }).click();
  await expect(page.getByRole("alert")).toContainText("Read the label first");
  await page.getByRole("textbox", { name: "On the label" }).fill("36V 14Ah");
  await page.getByRole("button", { name: "Read this label" }).click();
  await page
    .getByRole("group", { name: /What is inside/ })
    .getByRole("button", { name: "10 cells of lithium-ion" })
    .click();
  await screen(page, "Choose a plan", "Next");
  await expect(page.getByRole("button", { name: "Build this" }).first()).toBeVisible();
  // What matters most comes first.
  for (const name of ["lighter", "longer", "fewer joints", "more margin"]) await page.getByRole("slider", { name }).fill("0");
  await expect(page.getByRole("listitem").first()).toContainText("Cheap");
  await page.goBack();
  await screen(page, "What is there?");
  await page.reload();
  await expect(page.getByRole("textbox", { name: "On the label" })).toHaveValue("36V 14Ah");
  await screen(page, "Where should there be light?", "Back");
  await expect(page.getByRole("listitem").first()).toContainText("handlebar");
});

test("axe finds nothing on the three screens, and every word is one of ours", async ({ page }) => {
  const said: string[] = [];
  const check = async (where: string) => {
    said.push(...complaints(where, await page.locator("body").innerText()));
    const found = await new AxeBuilder({ page }).analyze();
    said.push(...found.violations.map((violation) => `${where}: ${violation.id}: ${violation.nodes.map((node) => node.html).join(" | ")}`));
  };
  await page.goto("/wish");
  await page.getByRole("button", { name: "+ handlebar" }).click();
  await check("what");
  await screen(page, "What is there?", "Next");
  await check("have");
  await screen(page, "Choose a plan", "Next");
  await expect(page.getByRole("button", { name: "Build this" }).first()).toBeVisible();
  await check("choose");
  await page.setViewportSize({ width: 390, height: 844 });
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  expect(said).toEqual([]);
});
