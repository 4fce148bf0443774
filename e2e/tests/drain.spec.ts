import { expect, step, test, verdict } from "./workshop";

/** Journeys of people who ask what the lights cost: with the sample builds, through the page. */

const cost = (page: import("@playwright/test").Page) => page.getByRole("region", { name: "What it costs" });

/** The figure that a labelled button shows. */
async function figure(page: import("@playwright/test").Page, label: string): Promise<number> {
  const text =
    (await cost(page)
      .getByRole("button", { name: new RegExp(`^${label}: `) })
      .first()
      .textContent()) ?? "";
  return Number.parseFloat(text.replace("€", ""));
}

test("a van owner replaces eleven bulbs and learns how many nights that buys", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Travelling puppet stage" }).click();
  await step(page, "Battery life");
  await page.getByRole("radio", { name: "Replace old bulbs" }).click();
  const editor = page.getByRole("region", { name: "Battery life", exact: true });
  const counts = await editor
    .getByRole("textbox", { name: "How many", exact: true })
    .evaluateAll((fields) => fields.map((field) => Number((field as HTMLInputElement).value)));
  expect(counts.reduce((sum, count) => sum + count, 0)).toBe(11);
  await expect(cost(page)).toContainText("less than computed");
  const before = await figure(page, "Nights away on one charge");
  await page.getByRole("button", { name: "Replace all with what matches best" }).click();
  const ways = cost(page).getByRole("region", { name: "Two ways" });
  await expect(ways).toContainText("Use less: replace the bulbs");
  await expect(ways).toContainText("Carry more: a larger battery");
  const won = await figure(page, "Nights won");
  expect(won).toBeGreaterThan(before);
  // One bulb is polarised: the page says so where it is chosen.
  await expect(editor.getByText(/one way round only/).first()).toBeVisible();
  await cost(page)
    .getByRole("button", { name: /^Nights won: / })
    .first()
    .click();
  await expect(page.getByRole("dialog")).toContainText("n_after − n_before");
  await page.keyboard.press("Escape");
  await expect(cost(page)).toContainText("Take the probes out of the current socket");
  const download = page.waitForEvent("download");
  await cost(page).getByRole("button", { name: "CSV of audit-bulbs" }).click();
  const text = Buffer.concat(await (await (await download).createReadStream()).toArray()).toString();
  expect(text.split("\r\n")[0]).toBe("bulb,name,before_a,before_ah,replacement,after_a,after_ah,cost_eur");
  expect(text.trim().split("\r\n")).toHaveLength(5);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("button", { name: "Replace all with what matches best" })).toBeVisible();
  // A bulb that no drawer holds is listed by what is printed on it, and what fits its holder is found for it too.
  await editor.getByRole("button", { name: "A bulb that is not in the list" }).click();
  await editor.getByRole("combobox", { name: "Holder" }).fill("wedge");
  await editor.getByRole("textbox", { name: "Watts" }).fill("16");
  await editor.getByRole("textbox", { name: "Light", exact: true }).fill("240 lm");
  await editor.getByRole("button", { name: "Put it in the list" }).click();
  await expect(cost(page).getByRole("row", { name: /^Bulb 12 V 16 W, wedge, mine/ })).toBeVisible();
  await expect.poll(() => figure(page, "Nights away on one charge")).toBeLessThan(before);
  await editor.getByLabel("Replaced by, wedge").last().selectOption({ index: 1 });
  await expect(editor.getByText(/clearly dimmer/).last()).toBeVisible();
});

test("a hexacopter's pilot sees the seconds of flight that position lights cost", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Owl-count hexacopter" }).click();
  await step(page, "Battery life");
  const lost = await figure(page, "Seconds of flight lost");
  expect(lost).toBeGreaterThan(1);
  const power = await figure(page, "of these to their power");
  const mass = await figure(page, "and to their mass");
  expect(Math.abs(power + mass - lost)).toBeLessThan(1);
  // Twice the flight carries the lights twice as long.
  await page.getByRole("region", { name: "Battery life", exact: true }).getByRole("textbox", { name: "Time" }).fill("42");
  await expect.poll(() => figure(page, "Seconds of flight lost")).toBeGreaterThan(1.9 * lost);
  await page.getByRole("radio", { name: "Over time" }).click();
  await expect(cost(page)).toContainText("no charge of its own to follow");
});

test("the singer's chair is parked for the winter", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Choir singer's chair" }).click();
  await step(page, "Battery life");
  const parked = cost(page).getByRole("region", { name: "Parked, from full" });
  const reserve = async (way: string) =>
    (await parked
      .getByRole("row", { name: new RegExp(`^${way}`) })
      .getByRole("button")
      .nth(1)
      .textContent()) ?? "";
  expect(await reserve("Parked, lights off")).toMatch(/^\d+ days$/);
  expect(await reserve("Main disconnect open")).toMatch(/months|years/);
  expect(await reserve("“Way home” forgotten on")).toMatch(/^[\d.]+ days$/);
  await expect(cost(page)).toContainText("a lead battery lives longer");
  // In the cold of the shed less of it is there.
  await page.getByRole("radio", { name: "What if" }).click();
  const warm = cost(page).getByRole("row", { name: /^Time of light/ });
  await expect(warm).toContainText("the same");
  const cold = page.getByRole("slider", { name: "Temperature of the battery" });
  await cold.focus();
  await page.keyboard.press("Home");
  await expect(warm).toContainText("−");
  const [file] = await Promise.all([page.waitForEvent("download"), page.getByRole("button", { name: "CSV of what-if" }).click()]);
  expect(file.suggestedFilename()).toBe("what-if.csv");
  await page.getByRole("button", { name: "Take it over into the plan" }).click();
  await expect(page.getByRole("textbox", { name: "Its temperature" })).toHaveValue("0");
  await expect(warm).toContainText("the same");
  await page.getByRole("radio", { name: "Charging", exact: true }).click();
  await expect(cost(page)).toContainText("Keep the lights off while it charges");
  await expect(cost(page)).toContainText("AGM or gel");
});

test("a discharge is a chart, a table and three kinds of file", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Book-delivery trike" }).click();
  await expect(verdict(page)).toContainText("of light");
  await step(page, "Battery life");
  await page.getByRole("radio", { name: "Over time" }).click();
  await expect(cost(page)).toContainText("at its reserve");
  // The chart is walked with the arrow keys, which read out a moment.
  const chart = cost(page).getByRole("application").first();
  await chart.focus();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("ArrowRight");
  await expect(
    cost(page)
      .getByText(/^after /)
      .first(),
  ).toBeVisible();
  await page.getByRole("button", { name: "As a table" }).click();
  const table = cost(page).getByRole("table");
  await expect(table.getByRole("columnheader", { name: "tail" })).toBeVisible();
  expect(await table.getByRole("row").count()).toBeGreaterThan(15);
  for (const [button, start] of [
    ["CSV of discharge", "scene,time_h,soc"],
    ["SVG", "<svg xmlns"],
    ["PNG", "\u0089PNG"],
  ] as const) {
    const download = page.waitForEvent("download");
    await cost(page).getByRole("button", { name: button }).click();
    const bytes = Buffer.concat(await (await (await download).createReadStream()).toArray());
    expect(bytes.toString("latin1").slice(0, start.length)).toBe(start);
    expect(bytes.length).toBeGreaterThan(2000);
  }
});
