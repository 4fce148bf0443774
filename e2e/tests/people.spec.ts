import { drawer, expect, open, pickIn, pressKey, step, tabTo, test, typeInto, verdict } from "./workshop";

/** Journeys of people with the sample builds: what they want, and that they get there. */

test("a beginner lights a wheelchair without reading anything", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("button", { name: "New build" }).click();
  await page.getByRole("radiogroup", { name: "Vehicle" }).getByText("Power wheelchair").click();
  await page.getByRole("textbox", { name: "Name", exact: true }).fill("My chair");
  await page.getByRole("button", { name: "Start", exact: true }).click();
  // A click on the outline is a place; the place wants a light; the light finds its supply by itself.
  await page.getByRole("button", { name: "Place: rear" }).click();
  await page.getByRole("button", { name: "Put a light here" }).click();
  await drawer(page).getByRole("radio", { name: "Ready-made lamp (no soldering)" }).click();
  await drawer(page).getByLabel("Part", { exact: true }).selectOption({ label: "Sealed marker lamp 9 to 33 V, red" });
  await expect(drawer(page).getByLabel("Place")).toHaveValue("rear");
  await drawer(page).getByRole("button", { name: "Add it" }).click();
  await expect(page.getByRole("button", { name: /^rear at rear: \d+ % bright/ })).toBeVisible();
  await expect(verdict(page)).toContainText("No fuse at the battery");
  await step(page, "Wires");
  await page.getByRole("button", { name: "Preview changes" }).click();
  await page.getByRole("group", { name: "What it changes" }).getByRole("button", { name: "Do it" }).click();
  await expect(verdict(page)).toContainText("No problems found");
  await step(page, "Battery");
  await expect(verdict(page)).toContainText("A medical device");
});

test("the same chair by keyboard alone", async ({ page }) => {
  await page.goto("/");
  await pressKey(page, page.getByRole("button", { name: "New build" }));
  await tabTo(page, page.getByRole("radio", { name: "Bicycle or trike" }));
  for (let n = 0; n < 2; n++) await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("radio", { name: "Power wheelchair" })).toBeChecked();
  await pressKey(page, page.getByRole("button", { name: "Start", exact: true }));
  await pressKey(page, page.getByRole("button", { name: "Place: rear" }));
  await pressKey(page, page.getByRole("button", { name: "Put a light here" }));
  await tabTo(page, drawer(page).getByRole("radio", { name: "Single LEDs (solder)" }));
  for (let n = 0; n < 3; n++) await page.keyboard.press("ArrowRight");
  await expect(drawer(page).getByRole("radio", { name: "Ready-made lamp (no soldering)" })).toBeChecked();
  await pickIn(page, drawer(page).getByLabel("Part", { exact: true }), "Sealed marker lamp 9 to 33 V, red");
  await pressKey(page, drawer(page).getByRole("button", { name: "Add it" }));
  await expect(verdict(page)).toContainText("No fuse at the battery");
  await page.keyboard.press("Escape");
  await pressKey(page, page.getByRole("navigation", { name: "Steps" }).getByRole("button", { name: "Wires" }));
  await pressKey(page, page.getByRole("button", { name: "Preview changes" }));
  await pressKey(page, page.getByRole("group", { name: "What it changes" }).getByRole("button", { name: "Do it" }));
  await expect(verdict(page).getByRole("heading", { level: 2 })).toContainText("No problems found");
  // What changed is said to those who do not see it.
  await expect(verdict(page).locator("h2[aria-live=polite]")).toContainText("No problems found");
  await expect(verdict(page).locator("p[aria-live=polite]")).toContainText("0 dangers, 0 things to fix");
});

test("an expert enters 32 pixels on a 2 A rail by keyboard and is told what fits", async ({ page }) => {
  await page.goto("/");
  const started = Date.now();
  await page.getByRole("button", { name: "New build" }).focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("dialog")).toBeVisible();
  // The vehicle by arrow keys, from the bicycle four onwards.
  await tabTo(page, page.getByRole("radio", { name: "Bicycle or trike" }));
  for (let n = 0; n < 4; n++) await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("radio", { name: "Drone" })).toBeChecked();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { name: "Places" })).toBeVisible();
  await page.keyboard.press("1");
  await tabTo(page, page.getByRole("radio", { name: "A battery" }));
  await page.keyboard.press("ArrowRight");
  await tabTo(page, page.getByRole("textbox", { name: "Voltage, measured" }));
  await page.keyboard.type("5v");
  await page.keyboard.press("Tab");
  await tabTo(page, page.getByRole("textbox", { name: "Limit" }));
  await page.keyboard.type("2 A");
  await page.keyboard.press("Tab");
  await page.keyboard.press("Control+k");
  await expect(page.getByRole("combobox", { name: "Command or word" })).toBeFocused();
  await page.keyboard.type("add a light");
  await page.keyboard.press("Enter");
  await tabTo(page, page.getByRole("radio", { name: "Single LEDs (solder)" }));
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("ArrowRight");
  await tabTo(page, page.getByRole("combobox", { name: "Part" }));
  await page.keyboard.type("One-wire pixel strip 5 V, 60");
  await tabTo(page, page.getByRole("textbox", { name: "Measured length" }));
  await page.keyboard.type("53.4cm");
  await tabTo(page, page.getByRole("button", { name: "Add it" }));
  await page.keyboard.press("Enter");
  await tabTo(page, page.getByRole("button", { name: "How many the supply carries" }));
  await page.keyboard.press("Enter");
  await expect(page.getByText(/All 32 at 100 %/)).toBeVisible();
  await expect(verdict(page)).toContainText("No problems found");
  expect(Date.now() - started).toBeLessThan(60_000);
});

test("a van owner feeds a 5 m strip from both ends, by keyboard, because the fade finding says so", async ({ page }) => {
  await page.goto("/");
  await pressKey(page, page.getByRole("link", { name: "Travelling puppet stage" }));
  await expect(verdict(page)).toContainText("of light");
  await page.keyboard.press("3");
  const form = drawer(page);
  await tabTo(page, form.getByRole("radio", { name: "Single LEDs (solder)" }));
  await page.keyboard.press("ArrowRight");
  await expect(form.getByRole("radio", { name: "LED strip" })).toBeChecked();
  await pickIn(page, form.getByLabel("Part", { exact: true }), "Strip 12 V, 9.6 W/m, white, 120");
  await typeInto(page, form.getByLabel("Measured length"), "5 m");
  await typeInto(page, form.getByLabel("Place"), "outside right");
  await typeInto(page, form.getByLabel("Wire length, one way"), "2");
  await pickIn(page, form.getByLabel("Powered from"), "up-down-12v");
  await pressKey(page, form.getByRole("button", { name: "Add it" }));
  const fade = verdict(page).getByRole("listitem").filter({ hasText: "outside-right fades along its length" });
  await expect(fade).toBeVisible();
  await pressKey(page, fade.getByRole("button", { name: /Feed it from both ends/ }));
  await pressKey(page, fade.getByRole("group", { name: "What it changes" }).getByRole("button", { name: "Do it" }));
  await expect(fade).toHaveCount(0);
  await pressKey(page, page.getByRole("navigation", { name: "Steps" }).getByRole("button", { name: "Wires" }));
  // The new light is still chosen: the run to its far end is open beside the first.
  await expect(page.getByRole("heading", { name: /outside-right#1/ })).toBeVisible();
  await page.keyboard.press("Control+z");
  await expect(fade).toBeVisible();
});

test("a datasheet becomes a part of one's own that travels with the build", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Choir singer's chair" }).click();
  await step(page, "Lights");
  await drawer(page).getByRole("button", { name: "I have a datasheet" }).click();
  await drawer(page).getByRole("textbox", { name: "Name" }).fill("Found in the drawer");
  await drawer(page).getByRole("textbox", { name: "Forward voltage" }).fill("2,2 V");
  await drawer(page).getByRole("textbox", { name: "Rated current" }).fill("25mA");
  await drawer(page).getByRole("button", { name: "Keep it among my parts" }).click();
  await expect(drawer(page).getByLabel("Part", { exact: true })).toHaveValue("own-found-in-the-drawer");
  await drawer(page).getByRole("button", { name: "Add it" }).click();
  await expect(page.getByRole("textbox", { name: "Rated current" })).toHaveValue("25");
  const download = page.waitForEvent("download");
  await page.getByRole("button", { name: "Export the build as a file" }).click();
  const text = await (await (await download).createReadStream()).toArray();
  expect(Buffer.concat(text).toString()).toContain("own-found-in-the-drawer");
});

test("the palette explains a word and runs a command", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Trail deck" }).click();
  await expect(verdict(page)).toContainText("h");
  await page.keyboard.press("Control+k");
  await expect(page.getByRole("combobox", { name: "Command or word" })).toBeFocused();
  await page.keyboard.type("ampacity");
  await expect(page.getByRole("dialog")).toContainText("The current a wire may carry all day");
  await page.getByRole("combobox", { name: "Command or word" }).fill("scene parade");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("radio", { name: "Parade" })).toBeChecked();
  // Lengths in inches from here on: 0.5 m of wire read as 19.685 in, and a hand's width is typed as it is said.
  await page.keyboard.press("Control+k");
  await expect(page.getByRole("combobox", { name: "Command or word" })).toBeFocused();
  await page.keyboard.type("inches");
  await page.keyboard.press("Enter");
  await step(page, "Wires");
  await open(page, /left-rail/);
  await expect(page.getByLabel("Length, one way")).toHaveValue("19.685");
  await page.getByLabel("Wire", { exact: true }).fill("0.5mm2");
  await expect(page.getByRole("article").filter({ hasText: "left-rail" }).first()).toContainText("0.5 mm²");
  await page.getByRole("heading", { name: "Wires" }).click();
  await page.keyboard.press("?");
  await expect(page.getByRole("dialog")).toContainText("Shortcuts");
});
