import AxeBuilder from "@axe-core/playwright";
import { readFileSync } from "node:fs";
import { expect, open, saved, step, test, verdict } from "./workshop";

test("a flasher is added, wished for, dragged, laid on a board and taken out again", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Book-delivery trike" }).click();
  await expect(verdict(page)).toContainText("Not safe to build yet");
  await step(page, "Power");
  await page.getByRole("combobox", { name: "Circuit" }).selectOption({ label: "Flasher with a timer" });
  await page.getByLabel("Before the light").selectOption("tail");
  await page.getByRole("button", { name: "Add circuit" }).click();
  const workshop = page.getByRole("region", { name: "Parts of tail-timer-flasher" });
  await expect(workshop.getByRole("img", { name: /^Schematic of tail-timer-flasher: .*Ra .*timer/ })).toBeVisible();
  await expect(workshop).toContainText("Flashes every1 s");
  await saved(page);

  // What is wanted comes first; what is taken gives it.
  await workshop.getByLabel("A flash every").fill("2 s");
  await workshop.getByLabel("Share of the time on").fill("20");
  await workshop.getByRole("button", { name: "Find parts" }).click();
  const first = workshop.getByRole("button", { name: /^Take Ra / }).first();
  await expect(first).toBeVisible();
  await first.click();
  await expect(workshop).toContainText(/Flashes every(2|1\.9\d*|2\.0\d*) s/);
  await expect(workshop).toContainText("Over the whole battery");
  await expect(workshop).toContainText("T = 0.693 · C · (Ra + Rb)");

  // A value that is dragged is followed at once and kept when it is let go of.
  const capacitor = workshop.getByRole("slider", { name: "Capacitor: slide" });
  const before = await workshop.getByLabel("Capacitor", { exact: true }).inputValue();
  await capacitor.focus();
  for (let turn = 0; turn < 20; turn++) await page.keyboard.press("ArrowRight");
  await expect(workshop.getByLabel("Capacitor", { exact: true })).not.toHaveValue(before);
  await expect(workshop).not.toContainText(/Flashes every2 s/);
  await saved(page);

  // The workshop is left and entered again, and the page stays.
  await step(page, "Battery");
  await expect(page.getByLabel("Capacity", { exact: true })).toBeVisible();
  await expect(page.getByText("cannot be shown")).toHaveCount(0);
  await step(page, "Power");
  await expect(workshop.getByLabel("Capacitor", { exact: true })).toBeVisible();

  // Nothing blinks before somebody wants it to.
  await expect(workshop.locator(".schematic .shines")).toHaveCount(0);
  await workshop.getByRole("button", { name: "Let it blink" }).click();
  await expect(workshop.locator(".schematic .shines")).toHaveCount(1);
  await workshop.getByRole("button", { name: "Hold still" }).click();
  await expect(workshop.locator(".schematic .shines")).toHaveCount(0);

  // The cursor tells volts and amps of its moment.
  const moment = workshop.getByRole("slider", { name: "Moment that is looked at" });
  await moment.focus();
  const said = await moment.getAttribute("aria-valuetext");
  await page.keyboard.press("ArrowRight");
  await expect(moment).not.toHaveAttribute("aria-valuetext", said!);

  await workshop.getByRole("button", { name: "How it goes on a board" }).click();
  await expect(workshop.getByRole("img", { name: /^The board from above/ })).toBeVisible();
  await expect(workshop).toContainText("no wire over the top");
  await workshop.getByRole("radio", { name: "From below" }).click();
  await expect(workshop.getByRole("img", { name: /^The board from below, mirrored/ })).toBeVisible();
  await workshop.getByText("Where each leg goes").click();
  await expect(workshop.getByRole("table").last()).toContainText("4 reset");
  expect((await new AxeBuilder({ page }).analyze()).violations.map((one) => `${one.id}: ${one.nodes[0]?.html}`)).toEqual([]);

  const [file] = await Promise.all([page.waitForEvent("download"), workshop.getByRole("button", { name: "SPICE" }).click()]);
  expect(file.suggestedFilename()).toBe("tail-timer-flasher.cir");
  expect(readFileSync((await file.path())!, "utf8")).toMatch(/^\* Book-delivery trike: tail-timer-flasher/);

  await page.getByRole("region", { name: "Power" }).getByRole("button", { name: "Remove tail-timer-flasher" }).click();
  await expect(workshop).toHaveCount(0);
  await expect(page.getByLabel("tail", { exact: true })).toHaveValue("step-down-12v");
});

test("a gauge without wishes says what it wants, and shows its bands", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Trail deck" }).click();
  await step(page, "Power");
  // Two LEDs tell nothing of ten cells in a row.
  await page.getByRole("combobox", { name: "Circuit" }).selectOption({ label: "Battery gauge" });
  await page.getByRole("button", { name: "Add circuit" }).click();
  await expect(page.getByText("cannot be set for 42.0 V")).toBeVisible();
  await page.goto("/");
  await page.getByRole("link", { name: "Firefly bicycle" }).click();
  await step(page, "Power");
  await page.getByRole("combobox", { name: "Circuit" }).selectOption({ label: "Battery gauge" });
  await page.getByRole("button", { name: "Add circuit" }).click();
  const workshop = page.getByRole("region", { name: "Parts of battery-gauge" });
  await expect(workshop).toContainText("charge now: only the low one");
  await workshop.getByRole("button", { name: "Find parts" }).click();
  await expect(workshop.getByRole("alert")).toContainText("nothing is given");
});

test("a strip is cut again where its rail is too low, drawn step by step", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Firefly bicycle" }).click();
  await step(page, "Lights");
  await open(page, /^rack-glow /);
  await page.getByRole("button", { name: "Rewire the strip for a lower voltage" }).click();
  const ways = page.getByRole("region", { name: "Lights" });
  await expect(ways.getByRole("img", { name: /^A segment of 3 LEDs: Cut the track between LED 1 and LED 2/ }).first()).toBeVisible();
  await expect(ways).toContainText("✓ as it is");
  await step(page, "Wires");
  await open(page, /→ wheel-keeper/);
  await expect(page.getByLabel("How the wire crosses the moving part")).toHaveValue("slip_ring");
  await page.getByLabel("How the wire crosses the moving part").selectOption("loop");
  await page.getByLabel("Turns by, degrees").fill("90");
  await page.getByLabel("Held this far from the axis").fill("0.1");
  await expect(page.getByRole("region", { name: "Wires" }).getByText("Wire that hangs free")).toBeVisible();
});
