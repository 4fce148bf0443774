import AxeBuilder from "@axe-core/playwright";
import { complaints } from "./words";
import { expect, open, step, test, verdict } from "./workshop";

const STEPS = ["Battery", "Places", "Lights", "Power", "Wires", "Battery life", "Show"];

for (const theme of ["dark", "light"]) {
  test(`axe finds nothing and every word is one of ours, ${theme}`, async ({ page }) => {
    // A dozen whole pages are looked at, several seconds each.
    test.setTimeout(300_000);
    await page.addInitScript((name) => localStorage.setItem("orthavis.theme", name), theme);
    const said: string[] = [];
    const check = async (where: string) => {
      // A colour on its way to another is neither.
      await page.evaluate(() =>
        Promise.all(
          document
            .getAnimations()
            .filter((one) => one instanceof CSSTransition)
            .map((one) => one.finished.catch(() => undefined)),
        ).then(() => undefined),
      );
      // Names and roles are the same in both themes; colours are not.
      const axe = new AxeBuilder({ page });
      const found = await (theme === "dark" ? axe : axe.withRules(["color-contrast"])).analyze();
      if (theme === "dark") said.push(...complaints(where, await page.locator("body").innerText()));
      said.push(...found.violations.map((violation) => `${where}: ${violation.id}: ${violation.nodes.map((node) => node.html).join(" | ")}`));
    };
    await page.goto("/");
    await expect(page.getByRole("link", { name: "Book-delivery trike" })).toBeVisible();
    await check("shelf");
    await page.getByRole("button", { name: "New build" }).click();
    await expect(page.getByRole("dialog")).toBeVisible();
    await check("new build");
    await page.keyboard.press("Escape");
    await page.getByRole("link", { name: "Book-delivery trike" }).click();
    await expect(verdict(page)).toContainText("Not safe to build yet");
    for (const name of STEPS) {
      await step(page, name);
      await check(name);
    }
    await step(page, "Wires");
    await page.getByRole("button", { name: /Add a 1 A 58 V blade fuse/ }).click();
    await page.getByRole("button", { name: /^step-down-12v: / }).press("Enter");
    await expect(page.getByRole("region", { name: "Figures of step-down-12v" })).toBeVisible();
    await check("preview and figures");
    await page.getByRole("button", { name: "Earlier revisions" }).click();
    await expect(page.getByRole("dialog")).toContainText("this one");
    await check("history");
    await page.keyboard.press("Escape");
    await expect(page.getByRole("dialog")).toHaveCount(0);
    await step(page, "Lights");
    await open(page, /^tail /);
    await page.getByRole("button", { name: "Ways to arrange them" }).click();
    await expect(page.getByRole("button", { name: /^Use \d/ }).first()).toBeVisible();
    await check("a helper");
    await page.getByRole("button", { name: "Commands and shortcuts" }).click();
    await expect(page.getByRole("dialog")).toBeVisible();
    await check("palette");
    await page.keyboard.press("Escape");
    await step(page, "Make");
    await page.getByLabel("Put a fault in").selectOption({ index: 2 });
    await expect(page.getByRole("button", { name: "Take it out" })).toBeVisible();
    await check("bench, meter");
    await page.getByRole("radio", { name: "Pinch" }).click();
    await expect(page.getByText("would flow")).toBeVisible();
    await check("bench, pinch");
    await page.getByRole("radio", { name: "Check list" }).click();
    await expect(page.getByText(/checks done/)).toBeVisible();
    await check("bench, check list");
    await page.getByRole("radio", { name: "Practice" }).click();
    await expect(page.getByRole("button", { name: "Start Only under load" })).toBeVisible();
    await check("bench, practice");
    await page.getByRole("button", { name: "Start The wrong way round" }).click();
    await expect(page.getByRole("heading", { name: "What you find" })).toBeVisible();
    await check("bench, a drill");
    await page.getByRole("button", { name: "Leave", exact: true }).click();
    await page.getByRole("button", { name: "Open Plus and minus" }).click();
    await page.getByRole("button", { name: "It shines as before" }).click();
    await check("bench, a lesson");
    await step(page, "Steps");
    await expect(page.getByRole("region", { name: "Next step" })).toBeVisible();
    await page.getByRole("button", { name: /^tail/ }).click();
    await expect(page.getByLabel("Fixed with")).toBeVisible();
    await check("steps");
    await step(page, "Parts");
    await expect(page.getByRole("region", { name: "Cut list" })).toBeVisible();
    await check("parts");
    await page.getByRole("button", { name: "Add a cavity" }).click();
    // What the other theme put in stays in.
    await page.getByLabel("Add a part").last().selectOption({ index: 1 });
    await expect(page.getByRole("region", { name: "What goes where" })).toBeVisible();
    await expect(page.getByRole("region", { name: "Balance" })).toBeVisible();
    await check("parts, what goes where");
    await step(page, "Diagram");
    await expect(page.getByRole("region", { name: "Wiring diagram" })).toBeVisible();
    await check("diagram");
    await step(page, "Use");
    await expect(page.getByRole("region", { name: "Next charge" })).toBeVisible();
    await page.getByRole("button", { name: /^Out An/ }).click();
    await check("journal");
    for (const [view, region] of [
      ["Over time", "Over time"],
      ["Battery", "How the battery is"],
      ["Upkeep", "What wears"],
      ["Entries", "Import and export"],
    ] as const) {
      await page.getByRole("radio", { name: view, exact: true }).click();
      await expect(page.getByRole("region", { name: region })).toBeVisible();
      await check(`journal, ${view}`);
    }
    await step(page, "Trouble");
    await page.getByRole("radiogroup", { name: "How tail looks" }).getByRole("radio", { name: "Dark", exact: true }).click();
    await expect(page.getByRole("region", { name: "Suspects" })).toBeVisible();
    await check("trouble");
    await page.goto("/drawer");
    await page.getByRole("button", { name: "Add a part of your own" }).click();
    await expect(page.getByRole("combobox", { name: "Most like" })).toBeVisible();
    await check("drawer");
    await page.goto("/");
    await page.getByRole("button", { name: "Backup" }).click();
    await expect(page.getByRole("dialog")).toContainText("One file");
    await check("backup");
    await page.keyboard.press("Escape");
    await page.goto("/");
    await page.getByRole("link", { name: "Travelling puppet stage" }).click();
    await step(page, "Battery life");
    for (const view of ["Over time", "What if", "Replace old bulbs", "Charging"]) {
      await page.getByRole("radio", { name: view, exact: true }).click();
      await expect(
        page
          .getByRole("region", { name: "What it costs" })
          .getByRole("button", { name: /^CSV of/ })
          .or(page.getByText("Back to the plan"))
          .first(),
      ).toBeVisible();
      if (view === "Over time") await page.getByRole("button", { name: "As a table" }).click();
      if (view === "Replace old bulbs") {
        await page
          .getByLabel(/^Replaced by/)
          .first()
          .selectOption({ index: 1 });
        await expect(page.getByRole("region", { name: "Two ways" })).toBeVisible();
      }
      await check(`drain, ${view}`);
    }
    expect(said).toEqual([]);
  });
}

test("a phone reads the verdict first, and nothing is cut off", async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await page.goto("/");
  await page.getByRole("link", { name: "Book-delivery trike" }).click();
  await expect(verdict(page)).toBeInViewport();
  const wide = () => page.evaluate(() => document.documentElement.scrollWidth > window.innerWidth);
  expect(await wide()).toBe(false);
  for (const name of STEPS) {
    await step(page, name);
    await expect(page.getByRole("region", { name, exact: true })).toBeVisible();
    await expect(verdict(page)).toBeHidden();
    expect(await wide()).toBe(false);
  }
  await step(page, "Battery life");
  for (const view of ["Over time", "What if", "Replace old bulbs", "Charging", "Vehicle"]) {
    await page.getByRole("radio", { name: view, exact: true }).click();
    await expect(page.getByRole("radio", { name: view, exact: true })).toBeChecked();
    expect(await wide(), view).toBe(false);
  }
  await step(page, "Use");
  for (const view of ["Over time", "Battery", "Upkeep", "Entries", "Now"]) {
    await page.getByRole("radio", { name: view, exact: true }).click();
    await expect(page.getByRole("radio", { name: view, exact: true })).toBeChecked();
    expect(await wide(), view).toBe(false);
  }
  await step(page, "Verdict");
  await expect(verdict(page)).toBeVisible();
  await page.goto("/drawer");
  await expect(page.getByRole("heading", { name: "Drawer" })).toBeVisible();
  expect(await wide(), "drawer").toBe(false);
});

/** Every view of a build, by its address. */
const VIEWS = [
  ...["battery", "places", "lights", "look", "power", "wires", "drain", "show", "bench", "steps", "parts", "diagram", "journal", "trouble"].map(
    (name) => `step=${name}`,
  ),
  ...["time", "what-if", "audit", "charging", "vehicle"].map((view) => `step=drain&view=${view}`),
  ...["pinch", "list", "practice"].map((view) => `step=bench&bench=${view}`),
  ...["charts", "battery", "upkeep", "entries"].map((view) => `step=journal&journal=${view}`),
];

/** What a page shows of itself where it is too wide, and words in drawings that are too small to read, in pixels. */
const unfit = (least: number) => {
  const said: string[] = [];
  if (document.documentElement.scrollWidth > window.innerWidth) said.push(`${document.documentElement.scrollWidth} px wide`);
  for (const text of Array.from(document.querySelectorAll<SVGTextElement>("svg text"))) {
    const { width, height } = text.getBoundingClientRect();
    const scale = text.getScreenCTM()?.a ?? 1;
    const size = parseFloat(getComputedStyle(text).fontSize) * scale;
    if (width > 0 && height > 0 && size < least - 0.05) said.push(`${size.toFixed(1)} px: ${text.textContent}`);
  }
  return said;
};

// All of them take minutes, and go with what takes long; the fullest stands for the others elsewhere.
const FEW = ["Travelling puppet stage"];

test("every view fits 320 px, and its drawings can be read at 1280", async ({ page, request }) => {
  test.setTimeout(600_000);
  const { builds } = (await (await request.get("/api/v1/builds")).json()) as { builds: { id: number; name: string }[] };
  const chosen = builds.filter(({ name }) => process.env.ORTHAVIS_ALL === "1" || FEW.includes(name));
  expect(chosen.length).toBeGreaterThanOrEqual(FEW.length);
  for (const { id, name } of chosen)
    for (const view of VIEWS) {
      await page.setViewportSize({ width: 1280, height: 800 });
      await page.goto(`/builds/${id}?${view}`);
      await expect(page.locator("section.pane").first()).toBeVisible();
      await expect(page.locator("[data-save]")).toBeVisible();
      // A drawing takes a moment to take its room.
      await expect.poll(() => page.evaluate(unfit, 11), { timeout: 4000, message: `${name}, ${view}, 1280 px` }).toEqual([]);
      await page.setViewportSize({ width: 320, height: 640 });
      await expect.poll(() => page.evaluate(unfit, 0), { timeout: 4000, message: `${name}, ${view}, 320 px` }).toEqual([]);
    }
});

for (const theme of ["dark", "light"])
  test(`every view of every sample passes axe, wide and narrow, ${theme}`, async ({ page, request }) => {
    test.skip(process.env.ORTHAVIS_ALL !== "1", "takes long; run by `cargo xtask deep`");
    test.setTimeout(1_800_000);
    await page.addInitScript((name) => localStorage.setItem("orthavis.theme", name), theme);
    const { builds } = (await (await request.get("/api/v1/builds")).json()) as { builds: { id: number; name: string }[] };
    const said: string[] = [];
    for (const { id, name } of builds)
      for (const view of VIEWS)
        for (const [width, height] of [
          [1280, 800],
          [320, 640],
        ] as const) {
          await page.setViewportSize({ width, height });
          await page.goto(`/builds/${id}?${view}`);
          await expect(page.locator("[data-save]")).toBeVisible();
          const found = await new AxeBuilder({ page }).analyze();
          said.push(...found.violations.map((one) => `${name}, ${view}, ${width}: ${one.id}: ${one.nodes[0]?.html}`));
        }
    expect(said).toEqual([]);
  });

test("what is chosen is seen where the system paints", async ({ page }) => {
  await page.emulateMedia({ forcedColors: "active" });
  await page.goto("/");
  await page.getByRole("link", { name: "Camp rover" }).click();
  await expect(verdict(page)).toContainText("of light");
  const ground = (name: string) => page.getByRole("radio", { name, exact: true }).evaluate((element) => getComputedStyle(element).backgroundColor);
  expect(await ground("full")).not.toBe(await ground("half"));
});
