import { expect, saved, step, test, verdict } from "./workshop";

/** The pictures in the documentation, from the sample builds. */
const FOLDER = "../../docs/screenshots";
const file = (name: string) => ({ path: new URL(`${FOLDER}/${name}.png`, `file://${import.meta.dirname}/`).pathname, animations: "disabled" as const });

/** What is said at a step's first visit is in the way of what it looks like afterwards. */
const visited = () => localStorage.setItem("orthavis.visited", "battery places lights look power wires drain show bench steps parts diagram journal trouble");

/** Every form of every vehicle from its first side, in place of the page. */
const sheetOfVehicles = async () => {
  const ask = async (path: string, body?: unknown) =>
    (await fetch(`/api/v1/${path}`, body ? { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify(body) } : {})).json();
  const { vehicles } = (await ask("reference")) as { vehicles: { kind: string; variants: { id: string; name: string }[] }[] };
  const cells: string[] = [];
  for (const { kind, variants } of vehicles)
    for (const { id, name } of variants) {
      const [view] = (await ask("drawings", { kind, variant: id })) as { tones: string[] }[];
      const paths = view!.tones.map((tone, index) => `<path d="${tone}" fill="var(--chakra-colors-tone-${index})" fill-rule="evenodd"/>`);
      cells.push(`<figure><svg viewBox="0 0 560 300" width="300">${paths.join("")}</svg><figcaption>${name}</figcaption></figure>`);
    }
  const all = document.createElement("main");
  Object.assign(all.style, { display: "grid", gridTemplateColumns: "repeat(4, 1fr)", gap: "12px", padding: "16px", textAlign: "center" });
  all.innerHTML = cells.join("");
  document.body.replaceChildren(all);
};

test("pictures", async ({ page, browser }) => {
  test.slow();
  await page.addInitScript(visited);
  const build = async (name: string, words: string) => {
    await page.goto("/");
    await page.getByRole("link", { name }).click();
    await expect(verdict(page)).toContainText(words);
  };
  await page.goto("/");
  await expect(page.getByRole("link", { name: "Book-delivery trike" })).toBeVisible();
  await expect.poll(() => page.locator("main li canvas[data-drawn]").count()).toBe(8);
  await page.screenshot(file("shelf"));

  await build("Book-delivery trike", "Not safe to build yet");
  await step(page, "Power");
  await page.screenshot(file("build-power"));

  await build("Choir singer's chair", "Not safe to build yet");
  await step(page, "Battery");
  await page.screenshot(file("build-battery"));
  await build("Trail deck", "Lights up, but fix these first");
  await step(page, "Look");
  const row = page.getByRole("region", { name: "Look", exact: true }).locator("article header button").filter({ hasText: "single points" }).first();
  await row.click();
  await page.getByRole("button", { name: "Add a diffuser" }).click();
  await expect(page.getByRole("slider", { name: "Distance to the LEDs: slide" })).toBeVisible();
  await row.scrollIntoViewIfNeeded();
  await expect(page.getByRole("region", { name: "At night" }).locator("canvas[data-drawn]")).toBeVisible();
  await page.screenshot(file("look"));
  await page.setViewportSize({ width: 1280, height: 1010 });
  await page.evaluate(sheetOfVehicles);
  await page.screenshot(file("vehicles"));
  await page.setViewportSize({ width: 1280, height: 800 });

  await build("Travelling puppet stage", "Not safe to build yet");
  await step(page, "Battery life");
  await page.getByRole("radio", { name: "Over time" }).click();
  await expect(page.getByText("at its reserve")).toBeVisible();
  await page.getByRole("radio", { name: "Replace old bulbs" }).click();
  await page.getByRole("button", { name: "Replace all with what matches best" }).click();
  await expect(page.getByRole("region", { name: "Two ways" })).toBeVisible();
  await saved(page);
  await page.screenshot(file("drain-audit"));

  await page.evaluate(() => localStorage.setItem("orthavis.theme", "light"));
  await build("Travelling puppet stage", "Not safe to build yet");
  await step(page, "Wires");
  await page.getByRole("button", { name: "Preview changes" }).click();
  await expect(page.getByRole("group", { name: "What it changes" })).toBeVisible();
  await page.screenshot(file("build-wires-paper"));
  await page.setViewportSize({ width: 390, height: 844 });
  await step(page, "Verdict");
  await expect(verdict(page)).toBeInViewport();
  await page.screenshot(file("phone-verdict"));

  await page.evaluate(() => localStorage.setItem("orthavis.theme", "dark"));
  await page.setViewportSize({ width: 1280, height: 800 });
  await build("Book-delivery trike", "Not safe to build yet");
  await step(page, "Make");
  await page.getByRole("radio", { name: "Pinch" }).click();
  await page.getByLabel("Which").selectOption("step-down-12v");
  await expect(page.getByText("Nothing stops it")).toBeVisible();
  await page.screenshot(file("bench-pinch"));
  await page.getByRole("radio", { name: "Check list" }).click();
  const way = page.getByRole("region", { name: "Check list" }).getByRole("listitem").first();
  await way.getByLabel(/^Reading:/).fill("0.2");
  await way.getByRole("button", { name: "Read" }).click();
  await expect(way.getByRole("status")).toContainText("Fine");
  await build("Trail deck", "Lights up, but fix these first");
  await step(page, "Make");
  await step(page, "Steps");
  await expect(page.getByRole("figure", { name: "The evenings" })).toBeVisible();
  await page.screenshot(file("make-steps"));
  await step(page, "Parts");
  await expect(page.getByRole("img", { name: /^riser-pocket from above/ })).toBeVisible();
  await page.getByRole("region", { name: "What goes where" }).evaluate((views) => views.scrollIntoView({ block: "end" }));
  await page.screenshot(file("make-cuts"));
  await build("Travelling puppet stage", "Not safe to build yet");
  await step(page, "Make");
  await step(page, "Diagram");
  await page.getByRole("button", { name: /^spot-left, 12 V/ }).press("Enter");
  await page.screenshot(file("make-diagram"));
  await build("Mountain-railway coach", "No problems found");
  await step(page, "Power");
  await page.getByRole("button", { name: "Parts of window-keeper" }).click();
  await expect(page.getByRole("region", { name: "Parts of window-keeper" })).toContainText("Over time");
  await page.screenshot(file("circuit"));
  await build("Owl-count hexacopter", "Lights up, but fix these first");
  await step(page, "Show");
  await page.getByRole("radio", { name: "Homing" }).check({ force: true });
  const stage = page.getByRole("region", { name: "The show" });
  await stage.getByRole("button", { name: "Play" }).click();
  await expect(stage).toContainText(/4\d frames a second, 0 lost/);
  await page.screenshot(file("show"));
  await build("Book-delivery trike", "Not safe to build yet");
  await step(page, "Make");
  await step(page, "Use");
  await step(page, "Trouble");
  await page.getByRole("radiogroup", { name: "How tail looks" }).getByRole("radio", { name: "Dark", exact: true }).click();
  await page.getByRole("radiogroup", { name: "How front looks" }).getByRole("radio", { name: "Fine", exact: true }).click();
  await expect(page.getByRole("region", { name: "What is wrong" }).locator("[aria-busy=false]")).toContainText("Measure the volts");
  await page.screenshot(file("trouble"));

  // A phone in the garage: the door at the workshop's screen and on the phone, a sheet taken along, a workshop that is away.
  await page.evaluate(() => localStorage.setItem("orthavis.theme", "dark"));
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.goto("/");
  await page.getByRole("button", { name: "Phone" }).click();
  const garage = await page.getByRole("dialog").locator("b").textContent();
  const phone = { viewport: { width: 390, height: 844 } };
  const door = await browser.newPage(phone);
  await door.goto(garage!);
  await expect(door.getByRole("button", { name: "Come in" })).toBeVisible();
  await door.close();

  await build("Trail deck", "Lights up, but fix these first");
  await step(page, "Use");
  await page.getByRole("radio", { name: "Over time" }).click();
  await expect(page.getByRole("img", { name: /^How full/ })).toBeVisible();
  await page.screenshot(file("journal"));
  await page.getByRole("radio", { name: "Battery", exact: true }).click();
  await expect(page.getByRole("img", { name: /^Capacity/ })).toBeVisible();
  await page.screenshot(file("journal-battery"));
  await page.setViewportSize({ width: 390, height: 844 });
  await page.getByRole("button", { name: /^Out An/ }).click();
  await page.screenshot(file("phone-journal"));
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.goto("/drawer");
  await page.getByRole("button", { name: "Add a part of your own" }).click();
  await page.getByRole("combobox", { name: "Most like" }).selectOption({ label: "Board pack 36 V 7.5 Ah" });
  await page.getByRole("textbox", { name: "What you call it" }).fill("Deck pack B");
  await page.getByRole("button", { name: "Add it" }).click();
  await expect(page.getByRole("region", { name: "Its life" })).toContainText("in no build yet");
  await page.screenshot(file("drawer"));
});
