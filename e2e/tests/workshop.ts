import { type Locator, type Page, expect, test as base } from "@playwright/test";

/** A page on which an error in the console, a refused policy or an exception fails the test. */
export const test = base.extend<{ complaints: string[]; core: void }>({
  // Every journey goes through both places where questions are answered.
  core: [
    async ({ page }, use) => {
      const wanted = process.env.ORTHAVIS_CORE ?? "server";
      if (wanted === "server") await page.addInitScript(() => localStorage.setItem("orthavis.core", "server"));
      await use();
      // Nothing is said there while the server answers.
      if (!page.isClosed()) await expect.poll(() => page.evaluate(() => document.documentElement.dataset.core)).toBe(wanted === "page" ? "page" : undefined);
    },
    { auto: true },
  ],
  complaints: [
    async ({ page }, use) => {
      const complaints: string[] = [];
      page.on("console", (message) => {
        // A refused request is a case of its own; tests that cause one look for what the page says about it.
        if (message.type() === "error" && !message.text().includes("Failed to load resource")) complaints.push(message.text());
      });
      page.on("pageerror", (error) => complaints.push(error.message));
      await use(complaints);
      expect(complaints).toEqual([]);
    },
    { auto: true },
  ],
});

export { expect };

export const verdict = (page: Page) => page.getByRole("region", { name: "Verdict" });
export const saved = (page: Page) => expect(page.locator("[data-save]")).toHaveAttribute("data-save", "saved");

/** The revision that the page says is saved. */
export async function revision(page: Page): Promise<number> {
  await saved(page);
  return Number(await page.locator("[data-save]").getAttribute("data-revision"));
}

/** A new build from the shelf, by its dialog; leaves the page at the step Places. */
export async function startBuild(page: Page, name: string, vehicle = "Bicycle or trike") {
  await page.goto("/");
  await page.getByRole("button", { name: /Start your first build|New build/ }).click();
  await page.getByRole("radiogroup", { name: "Vehicle" }).getByText(vehicle).click();
  await page.getByRole("textbox", { name: "Name", exact: true }).fill(name);
  await page.getByRole("button", { name: "Start", exact: true }).click();
  await expect(page.getByRole("textbox", { name: "Name of the build" })).toHaveValue(name);
}

/** Opens a step of the job. */
export const step = (page: Page, name: string) =>
  page
    .getByRole("navigation", { name: "Steps" })
    .getByRole("button")
    // Its number and its findings stand before the name; "Battery life" is another step.
    .filter({ hasText: new RegExp(`^[^A-Za-z]*${name}(?! [a-z])`) })
    .click();

/** The card of the parts drawer at the step Lights. */
export const drawer = (page: Page) => page.getByRole("article").filter({ has: page.getByRole("heading", { name: "Add a light" }) });

/** Adds single LEDs at the step Lights. */
export async function addLights(page: Page, colour: string, count: number, place: string, metres: string) {
  const form = drawer(page);
  await form.getByLabel("Part", { exact: true }).selectOption({ label: `5 mm LED, ${colour}` });
  await form.getByLabel("How many").fill(String(count));
  await form.getByLabel("Place").fill(place);
  await form.getByLabel("Wire length, one way").fill(metres);
  await form.getByRole("button", { name: "Add it" }).click();
  const lights = page.getByRole("region", { name: "Lights" });
  await expect(lights.getByRole("button", { name: new RegExp(`^${place.replaceAll(" ", "-")} `) })).toBeVisible();
}

/** The card of one part, opened by its heading. */
export async function open(page: Page, name: RegExp) {
  const heading = page.getByRole("article").getByRole("button", { name, expanded: false });
  await heading.click();
}

/** Walks there with Tab, as hands on the keyboard do. */
export async function tabTo(page: Page, wanted: Locator) {
  await expect(wanted.first()).toBeVisible();
  for (let n = 0; n < 150; n++) {
    if (await wanted.first().evaluate((element) => element === document.activeElement)) return;
    await page.keyboard.press("Tab");
  }
  throw new Error(`${String(wanted)} is not reached by Tab`);
}

/** Walks to a button and presses it. */
export async function pressKey(page: Page, wanted: Locator, key = "Enter") {
  await tabTo(page, wanted);
  await page.keyboard.press(key);
}

/** Walks to a field and types over what is in it. */
export async function typeInto(page: Page, wanted: Locator, text: string) {
  await tabTo(page, wanted);
  await page.keyboard.press("Control+a");
  await page.keyboard.type(text);
}

/** Walks to a list and picks the option that starts with these words. */
export async function pickIn(page: Page, wanted: Locator, words: string) {
  await tabTo(page, wanted);
  await page.keyboard.type(words);
}
