import { addLights, expect, open, revision, saved, startBuild, step, test, verdict } from "./workshop";

test("from an empty shelf to a safe plan that is still there", async ({ page }) => {
  await page.goto("/");
  await expect(page.getByRole("heading", { name: /Light on your vehicle/ })).toBeVisible();
  await startBuild(page, "Book-delivery trike");
  await expect(verdict(page)).toContainText("Add a light to see if it is safe");

  // The step-down module, then what it feeds, by keyboard.
  await step(page, "Power");
  await page.getByLabel("Output voltage").fill("12 V");
  await page.keyboard.press("Tab");
  await expect(page.getByRole("button", { name: "Add converter" })).toBeFocused();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { name: "Step-down: step-down-12v" })).toBeVisible();
  await step(page, "Lights");
  await addLights(page, "red", 12, "basket rear", "1.6");
  await addLights(page, "white", 18, "handlebar", "90 cm");

  // Nothing is fused yet, and the verdict says so.
  await expect(verdict(page)).toContainText("Not safe to build yet");
  await expect(verdict(page)).toContainText("No fuse at the battery");
  await page.getByRole("button", { name: /Add a 1 A 58 V blade fuse/ }).click();
  const effect = page.getByRole("group", { name: "What it changes" });
  await expect(effect).toContainText("Fixed: No fuse at the battery");
  await expect(verdict(page)).toContainText("Not safe to build yet");
  await effect.getByRole("button", { name: "Do it" }).click();
  await expect(verdict(page)).toContainText("No problems found");
  await expect(verdict(page)).not.toContainText("No fuse at the battery");

  // Undo and redo reach it.
  await page.keyboard.press("Control+z");
  await expect(verdict(page)).toContainText("No fuse at the battery");
  await page.keyboard.press("Control+Shift+z");
  await expect(verdict(page)).toContainText("No problems found");

  await saved(page);
  const hours = await verdict(page)
    .getByRole("button", { name: /Time of light/ })
    .textContent();
  await page.reload();
  await expect(page.getByRole("textbox", { name: "Name of the build" })).toHaveValue("Book-delivery trike");
  await expect(verdict(page)).toContainText("No problems found");
  await expect(verdict(page).getByRole("button", { name: /Time of light/ })).toHaveText(hours ?? "");
  await step(page, "Wires");
  await open(page, /the battery → step-down-12v/);
  await expect(page.getByLabel("Fuse rating")).toHaveValue("1");

  // The shelf knows it too.
  await page.getByRole("link", { name: /back to the shelf/ }).click();
  await expect(page.getByRole("listitem").filter({ hasText: "Book-delivery trike" })).toContainText("2 lights");
});

test("the battery dial moves every figure", async ({ page }) => {
  await startBuild(page, "Dial");
  await step(page, "Lights");
  await addLights(page, "red", 12, "basket rear", "1");
  const light = page.getByRole("button", { name: /^basket-rear at basket rear/ });
  const river = page.getByRole("button", { name: /^battery: / });
  const [glowFull, riverFull] = [await light.getAttribute("aria-label"), await river.getAttribute("aria-label")];
  await page.getByRole("radio", { name: "reserve" }).click();
  await expect(river).not.toHaveAttribute("aria-label", riverFull ?? "");
  await expect(light).not.toHaveAttribute("aria-label", glowFull ?? "");
  // The choice is part of the address, so a reload keeps it.
  await page.reload();
  await expect(page.getByRole("radio", { name: "reserve" })).toBeChecked();
});

test("a figure that cannot be read stays in its field and harms nothing", async ({ page }) => {
  await startBuild(page, "Typing");
  await step(page, "Battery");
  const cells = page.getByLabel("Cells in series");
  await cells.fill("ten");
  await expect(page.getByText("Type a number, for example 10", { exact: true })).toBeVisible();
  await expect(cells).toHaveValue("ten");
  await cells.fill("6");
  await page.getByLabel("Capacity", { exact: true }).fill("7000 mAh");
  await page.keyboard.press("Tab");
  await expect(page.getByLabel("Capacity", { exact: true })).toHaveValue("7");
  await expect(page.getByRole("definition").filter({ hasText: "25.2 V" }).first()).toBeVisible();
});

test("every number opens to its working, and the river is walked by keyboard", async ({ page }) => {
  await startBuild(page, "Working");
  await step(page, "Power");
  await page.getByRole("button", { name: "Add converter" }).click();
  await step(page, "Lights");
  await addLights(page, "amber", 8, "frame", "0.5");
  await page.getByRole("button", { name: /^battery: / }).focus();
  await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("button", { name: /^step-down-12v: 12/ })).toBeFocused();
  await page.keyboard.press("Enter");
  const figures = page.getByRole("region", { name: "Figures of step-down-12v" });
  const figure = figures.getByRole("button", { name: /^Input current/ });
  await figure.click();
  await expect(page.getByRole("dialog")).toContainText("I_in = V_out·I_out / (η·V_in) + I_idle");
  await page.keyboard.press("Escape");
  await expect(figure).toBeFocused();
  await page.getByRole("button", { name: /^step-down-12v: 12/ }).focus();
  await page.keyboard.press("ArrowRight");
  await expect(page.locator("[data-reach=frame]")).toBeFocused();
});

test("two windows never overwrite each other silently", async ({ page, context }) => {
  await startBuild(page, "Two windows");
  const first = await revision(page);
  const other = await context.newPage();
  await other.goto(page.url());
  await other.getByRole("textbox", { name: "Name of the build" }).fill("Theirs");
  expect(await revision(other)).toBeGreaterThan(first);

  await page.getByRole("textbox", { name: "Name of the build" }).fill("Mine");
  await expect(page.getByRole("alert")).toContainText("saved elsewhere meanwhile");
  await page.getByRole("button", { name: /Take theirs/ }).click();
  await expect(page.getByRole("textbox", { name: "Name of the build" })).toHaveValue("Theirs");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("textbox", { name: "Name of the build" })).toHaveValue("Mine");
  await saved(page);
  await page.reload();
  await expect(page.getByRole("textbox", { name: "Name of the build" })).toHaveValue("Mine");
});

test("an earlier revision comes back", async ({ page }) => {
  await startBuild(page, "As it was");
  await saved(page);
  await page.getByRole("textbox", { name: "Name of the build" }).fill("As it became");
  await saved(page);
  await page.getByRole("button", { name: "Earlier revisions" }).click();
  const first = page.getByRole("listitem").filter({ hasText: "As it was" });
  await first.getByRole("button", { name: "Name revision 1" }).click();
  await page.getByRole("textbox", { name: "Name of revision 1" }).fill("Drawn on paper");
  await page.keyboard.press("Enter");
  await expect(first).toContainText("Drawn on paper");
  await first.getByRole("button", { name: "Restore" }).click();
  await expect(page.getByRole("textbox", { name: "Name of the build" })).toHaveValue("As it was");
});

test("the shelf renames, copies, deletes and takes it back", async ({ page }) => {
  await startBuild(page, "Shelf work");
  await page.goto("/");
  await page.getByRole("button", { name: "Rename Shelf work" }).click();
  await page.getByRole("textbox", { name: "New name" }).fill("Renamed");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "Duplicate Renamed", exact: true }).click();
  const copy = page.getByRole("link", { name: "Renamed (copy)" });
  await expect(copy).toBeVisible();
  await page.getByRole("button", { name: "Delete Renamed (copy)" }).click();
  await expect(copy).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(copy).toBeVisible();
});

test("a build file goes out and comes in", async ({ page }) => {
  await startBuild(page, "Travelling");
  const download = page.waitForEvent("download");
  await page.getByRole("button", { name: "Export the build as a file" }).click();
  const file = await download;
  expect(file.suggestedFilename()).toBe("travelling.json");
  await page.goto("/");
  await page.getByLabel("Build file", { exact: true }).setInputFiles(await file.path());
  await expect(page.getByRole("textbox", { name: "Name of the build" })).toHaveValue("Travelling");
  await page.goto("/");
  await page
    .getByLabel("Build file", { exact: true })
    .setInputFiles({ name: "bad.json", mimeType: "application/json", buffer: Buffer.from('{"format":"orthavis.build/1","nmae":"x"}') });
  await expect(page.getByText(/Did you mean “name”/)).toBeVisible();
});

test("choosing a form of a vehicle starts nothing", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("button", { name: /Start your first build|New build/ }).click();
  const dialog = page.getByRole("dialog", { name: "What do you want to light?" });
  await dialog.getByRole("radiogroup", { name: "Vehicle" }).getByText("RC model").click();
  const forms = dialog.getByRole("radiogroup", { name: "Form" }).getByRole("radio");
  for (const at of [1, 2, 0]) {
    await forms.nth(at).click();
    await expect(forms.nth(at)).toBeChecked();
  }
  await expect(dialog.getByRole("button", { name: "Start", exact: true })).toBeVisible();
  expect(new URL(page.url()).pathname).toBe("/");
});

test("an empty shelf has samples to begin from", async ({ page }) => {
  // Another test's builds are not on a shelf that answers with nothing.
  await page.route("**/api/v1/builds", (route) => (route.request().method() === "GET" ? route.fulfill({ json: { builds: [] } }) : route.continue()));
  await page.goto("/");
  await expect(page.getByRole("heading", { name: /Light on your vehicle/ })).toBeVisible();
  const samples = page.getByRole("region", { name: "Or begin with a sample" });
  await expect(samples.getByRole("button")).toHaveCount(8);
  await samples.getByRole("button", { name: "Camp rover" }).click();
  await expect(page.getByRole("textbox", { name: "Name of the build" })).toHaveValue("Camp rover");
  await expect(verdict(page)).toContainText("of light");
  await saved(page);
});
