import type { Locator, Page } from "@playwright/test";
import { drawer, expect, saved, step, test, verdict } from "./workshop";

/** Seven errands from the shelf to what somebody came for. Every press and every thing typed is counted. */

class Hand {
  actions = 0;

  async press(what: Locator) {
    this.actions++;
    await what.click();
  }

  async type(where: Locator, text: string) {
    this.actions++;
    await where.fill(text);
    await where.blur();
  }

  async pick(where: Locator, label: string | RegExp) {
    this.actions++;
    const options = await where.locator("option").allTextContents();
    const wanted = options.find((option) => (typeof label === "string" ? option === label : label.test(option)));
    await where.selectOption({ label: wanted ?? String(label) });
  }

  async step(page: Page, name: string) {
    this.actions++;
    await step(page, name);
  }

  /** So many at most: one more is something that got harder. */
  async atMost(most: number) {
    test.info().annotations.push({ type: "actions", description: String(this.actions) });
    expect(this.actions).toBeLessThanOrEqual(most);
  }
}

/** From the shelf into a new build of this vehicle, at the step Places. */
async function begin(page: Page, hand: Hand, vehicle: string, form?: string) {
  await page.goto("/");
  await hand.press(page.getByRole("button", { name: /Start your first build|New build/ }));
  await hand.press(page.getByRole("radiogroup", { name: "Vehicle" }).getByText(vehicle));
  if (form) await hand.press(page.getByRole("dialog").getByRole("radio", { name: form }));
  await hand.press(page.getByRole("button", { name: "Start", exact: true }));
  await expect(page.getByRole("textbox", { name: "Name of the build" })).toBeVisible();
}

/** A light of this kind at a place of the drawing. */
async function light(page: Page, hand: Hand, place: string, kind: string, part?: string | RegExp) {
  await hand.press(page.getByRole("button", { name: `Place: ${place}`, exact: true }).first());
  const here = page.getByRole("button", { name: "Put a light here" });
  if (await here.isVisible()) await hand.press(here);
  const form = drawer(page);
  await hand.press(form.getByRole("radio", { name: kind }));
  if (part) await hand.pick(form.getByLabel("Part", { exact: true }), part);
  await hand.press(form.getByRole("button", { name: "Add it" }));
}

/** Wires and fuses as they are chosen for who does not want to. */
async function sized(page: Page, hand: Hand) {
  await hand.step(page, "Wires");
  await hand.press(page.getByRole("button", { name: "Preview changes" }));
  await hand.press(page.getByRole("group", { name: "What it changes" }).getByRole("button", { name: "Do it" }));
}

test("a power chair gets a rear light that needs no soldering", async ({ page }) => {
  const hand = new Hand();
  await begin(page, hand, "Power wheelchair");
  await light(page, hand, "rear", "Ready-made lamp (no soldering)", "Sealed marker lamp 9 to 33 V, red");
  await sized(page, hand);
  await expect(verdict(page)).toContainText("No problems found");
  await hand.step(page, "Make");
  await hand.step(page, "Parts");
  const list = page.getByRole("region", { name: "Shopping list" });
  await expect(list).toContainText("Sealed marker lamp");
  await hand.atMost(13);
});

test("a board glows for an evening", async ({ page }) => {
  const hand = new Hand();
  await begin(page, hand, "Skateboard");
  await light(page, hand, "left rail", "Colour-changing strip");
  await hand.step(page, "Show");
  const editor = page.getByRole("region", { name: "Show", exact: true });
  await expect(editor).toContainText("no controller yet");
  await hand.press(editor.getByRole("button", { name: "Add a controller" }));
  const stage = page.getByRole("region", { name: "The show" });
  await expect(stage.getByRole("button", { name: /^left-rail, numbers/ })).toBeVisible();
  await hand.press(editor.getByRole("button", { name: "rainbow", exact: true }));
  await sized(page, hand);
  await expect(verdict(page)).toContainText(/of light/);
  await hand.atMost(13);
});

test("a plane's lights are weighed by the gram", async ({ page }) => {
  const hand = new Hand();
  await begin(page, hand, "RC model", "Plane");
  await light(page, hand, "left wing tip", "Single LEDs (solder)");
  await hand.step(page, "Make");
  await hand.step(page, "Parts");
  await expect(page.getByRole("article").filter({ hasText: "It weighs" })).toContainText(/\d g/);
  await hand.atMost(10);
});

test("a caravan's bulbs are replaced, and it says how many nights that buys", async ({ page }) => {
  const hand = new Hand();
  await page.goto("/");
  await hand.press(page.getByRole("link", { name: "Travelling puppet stage", exact: true }));
  await hand.step(page, "Battery life");
  await hand.press(page.getByRole("radio", { name: "Replace old bulbs" }));
  await hand.press(page.getByRole("button", { name: "Replace all with what matches best" }));
  await expect(page.getByRole("button", { name: /^Nights won: / }).first()).toBeVisible();
  await hand.press(page.getByRole("button", { name: "Undo" }));
  await hand.atMost(5);
});

test("a coach's lights ride over the gaps of its track", async ({ page }) => {
  const hand = new Hand();
  await page.goto("/");
  await hand.press(page.getByRole("link", { name: "Mountain-railway coach", exact: true }));
  await hand.step(page, "Power");
  await hand.press(page.getByRole("button", { name: /^Parts of / }).first());
  await expect(page.getByRole("region", { name: /^Parts of / }).first()).toContainText(/rides? over|carries|gap/i);
  await hand.atMost(3);
});

test("a dark tail light is found from the shelf, and what failed once is remembered", async ({ page }) => {
  const hand = new Hand();
  await page.goto("/");
  await hand.press(page.getByRole("listitem").filter({ hasText: "Book-delivery trike" }).getByRole("link", { name: "Something is dark?" }));
  await hand.press(page.getByRole("radiogroup", { name: "How tail looks" }).getByRole("radio", { name: "Dark", exact: true }));
  await hand.press(page.getByRole("radiogroup", { name: "How front looks" }).getByRole("radio", { name: "Fine", exact: true }));
  const wrong = page.getByRole("region", { name: "What is wrong" });
  const settled = () => expect(wrong.locator("[aria-busy=false]")).toBeVisible();
  await settled();
  // A year of outings says that it was wired the right way round.
  const worked = page.getByRole("checkbox", { name: /It has worked before/ });
  await expect(worked).toBeChecked();
  const suspects = wrong.getByRole("region", { name: "Suspects" });
  const first = suspects.getByRole("listitem").first();
  await expect(suspects).not.toContainText("plus and minus of tail are swapped");
  await hand.press(worked);
  await expect(suspects).toContainText("plus and minus of tail are swapped");
  await hand.press(worked);
  await settled();
  const next = page.getByRole("region", { name: "Next check" });
  const found = page.getByRole("region", { name: "Found" });
  const built = (await (await page.request.get(`/api/v1/builds/${/builds\/(\d+)/.exec(page.url())![1]}`)).json()) as { document: unknown };
  const truth = (await (
    await page.request.post("/api/v1/probe", { data: { document: built.document, scene: "ride", state: "full", faults: ["open@tail:to+"], aftermath: true } })
  ).json()) as { volts: Record<string, number>; amps: Record<string, number>; source_a: number };
  for (let checks = 0; checks < 12 && !(await found.isVisible()); checks++) {
    const [red, black] = (await next.getAttribute("data-probes"))!.split(" ");
    const value = black ? truth.volts[red!]! - truth.volts[black]! : red === "source" ? truth.source_a : truth.amps[red!]!;
    await hand.type(next.getByLabel("What the meter shows"), value.toFixed(4));
    await hand.press(next.getByRole("button", { name: "That is it" }));
    await expect(page.getByRole("region", { name: "Read so far" }).getByRole("listitem")).toHaveCount(checks + 1);
    await settled();
  }
  await hand.press(found.getByRole("button", { name: "It was this: write it down" }));
  await hand.atMost(20);
  // The next time it is asked first.
  await page.reload();
  await page.getByRole("radiogroup", { name: "How tail looks" }).getByRole("radio", { name: "Dark", exact: true }).click();
  await expect(suspects).toContainText("it was this before");
  await expect(first).toBeVisible();
});

test("somebody solders for the first time, with the phone beside the iron", async ({ page, browser }) => {
  const hand = new Hand();
  // This machine's own network stands in for the one at home.
  await page.route("**/api/v1/garage/door", (route) =>
    route.request().method() === "POST" ? route.continue({ postData: JSON.stringify({ address: "127.0.0.2" }) }) : route.continue(),
  );
  await page.goto("/");
  await hand.press(page.getByRole("button", { name: "Phone" }));
  const dialog = page.getByRole("dialog", { name: "A phone in the garage" });
  await hand.press(dialog.getByRole("button", { name: "Let my phone in" }));
  await expect(dialog.getByRole("img", { name: "A code to point the phone's camera at" })).toBeVisible();
  const garage = ((await dialog.locator("b").textContent()) ?? "").replace("/pair", "");
  const code = ((await dialog.getByText(/^[2-9A-Z]{3} [2-9A-Z]{3}$/).textContent()) ?? "").replace(" ", "");
  const context = await browser.newContext({ viewport: { width: 390, height: 844 }, hasTouch: true });
  const phone = await context.newPage();
  await phone.goto(`${garage}/pair#${code}`);
  await hand.press(phone.getByRole("link", { name: "Camp rover", exact: true }));
  await hand.press(phone.getByRole("button", { name: "Make" }));
  await hand.press(
    phone
      .getByRole("navigation", { name: "Steps" })
      .getByRole("button", { name: /Steps$/ })
      .first(),
  );
  const next = phone.getByRole("region", { name: "Next step" });
  await expect(next.getByRole("heading", { name: "Try every light in its place" })).toBeVisible();
  await hand.press(next.getByRole("button", { name: "Done" }));
  await expect(next.getByRole("heading", { name: "Measure every way with a string" })).toBeVisible();
  // The step that wants readings has room for them.
  await hand.press(phone.getByRole("button", { name: /\d+\. Check every run without power/ }));
  const readings = phone.getByRole("region", { name: "Readings of this step" });
  await expect(readings).toContainText(/^0 of \d+ readings taken/);
  const field = readings.getByRole("textbox").first();
  expect((await field.boundingBox())!.height).toBeGreaterThanOrEqual(44);
  await hand.type(field, "0.2");
  await hand.press(readings.getByRole("button", { name: "Read" }).first());
  await expect(readings).toContainText(/^1 of \d+ readings taken/);
  await expect(readings.getByRole("status").first()).toContainText("Fine: 200 mΩ");
  await hand.atMost(10);
  // Whoever closes the door is alone again.
  await dialog.getByRole("button", { name: "Close the door to phones" }).click();
  await expect(dialog.getByRole("button", { name: "Let my phone in" })).toBeVisible();
  await context.close();
});

test("the plan goes on paper from wherever one is", async ({ page }) => {
  await page.addInitScript(() => {
    window.print = () => {
      const sheet = document.querySelector("body > .on-paper");
      document.documentElement.dataset.printed = sheet?.textContent?.slice(0, 200) ?? "";
    };
  });
  await page.goto("/");
  await page.getByRole("link", { name: "Camp rover", exact: true }).click();
  await expect(verdict(page)).toContainText("of light");
  await step(page, "Lights");
  await page.keyboard.press("Control+p");
  await expect.poll(() => page.evaluate(() => document.documentElement.dataset.printed)).toContain("Camp rover: build sheet");
  await expect(page.locator("body > .on-paper")).toHaveCount(0);
});

test("a dialog has an address, and back closes it", async ({ page }) => {
  await page.goto("/#settings");
  const settings = page.getByRole("dialog", { name: "Settings" });
  await expect(settings).toBeVisible();
  await expect(page).toHaveTitle(/^Settings · /);
  await settings.getByRole("button", { name: "Close" }).click();
  await expect(settings).toBeHidden();
  expect(new URL(page.url()).hash).toBe("");
  await page.getByRole("button", { name: "New build" }).click();
  const fresh = page.getByRole("dialog", { name: "What do you want to light?" });
  await expect(fresh).toBeVisible();
  // A word of the trade is explained within the dialog.
  await fresh
    .getByRole("button", { name: /^What is: / })
    .first()
    .click();
  await expect(page.getByRole("dialog").last()).toContainText(/cell|charge/i);
  await page.keyboard.press("Escape");
  await page.goBack();
  await expect(fresh).toBeHidden();
  await page.getByRole("link", { name: "Camp rover", exact: true }).click();
  await expect(verdict(page)).toContainText("of light");
  // What is said at a first visit is said once.
  const note = page.getByRole("note");
  await expect(note).toContainText("Find the label on your battery");
  await step(page, "Power");
  await expect(note).toContainText("voltage it wants");
  await note.getByRole("button", { name: "Got it" }).click();
  await expect(note).toHaveCount(0);
  await step(page, "Battery");
  await expect(note).toHaveCount(0);
  await page.getByRole("button", { name: "Settings" }).click();
  await settings.getByRole("radio", { name: "feet and inches" }).click();
  await settings.getByRole("radio", { name: "°F" }).click();
  await page.keyboard.press("Escape");
  await step(page, "Wires");
  await page.getByRole("article").getByRole("button", { expanded: false }).first().click();
  await expect(page.getByLabel("Length, one way").first()).toHaveValue(/^(\d+'( [\d.]+")?|[\d.]+")$/);
  await saved(page);
});

test("a label is typed as it is printed; what it leaves open is asked, what cannot be read is said", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Trail deck" }).click();
  await step(page, "Battery");
  const line = page.getByRole("textbox", { name: "or type its label, as printed" });
  await line.fill("hello");
  await line.press("Enter");
  await expect(page.getByRole("alert")).toContainText("Type what is printed, for example 36 V 14 Ah");
  await expect(line).toHaveValue("hello");
  await line.fill("48V 15Ah");
  await page.getByRole("button", { name: "Read this label" }).click();
  const open = page.getByRole("group", { name: /What is inside/ });
  await expect(open.getByRole("button")).toHaveCount(3);
  await open.getByRole("button", { name: "13 cells of lithium-ion" }).click();
  await expect(page.getByLabel("Cells in series", { exact: true })).toHaveValue("13");
  await expect(page.getByLabel("Capacity", { exact: true })).toHaveValue("15");
  await line.fill("3S1P 11.1 V 2200 mAh 30C");
  await line.press("Enter");
  await expect(page.getByLabel("Cells in series", { exact: true })).toHaveValue("3");
  await expect(page.getByRole("status").filter({ hasText: "Assumed" })).toContainText("lithium polymer");
});
