import { drawer, expect, startBuild, step, test } from "./workshop";

/** What is said before something is added, and what is pointed at. */

test("the string measured at a place is the wire of the light put there, and what comes with it is said first", async ({ page }) => {
  await startBuild(page, "Night rider");
  await page.getByRole("radiogroup", { name: "Place" }).getByRole("radio", { name: "basket rear" }).click();
  await page.getByLabel("String to here, along the way").fill("1.35");
  await page.getByLabel("String to here, along the way").press("Enter");
  await page.getByRole("button", { name: "Put a light here" }).click();
  await expect(drawer(page).getByLabel("Wire length, one way")).toHaveValue(/1\.35/);
  await drawer(page).getByLabel("How many").fill("5");
  await drawer(page).getByLabel("How many").press("Enter");
  const coming = drawer(page).getByRole("group", { name: "What comes with it" });
  await expect(coming).toContainText(/basket-rear: (one row|\d rows) of \d/);
  await expect(coming).toContainText(/€[\d.]+ and \d+ min of work/);
  await drawer(page).getByRole("button", { name: "Add it" }).click();
  await expect(page.getByRole("button", { name: /^basket-rear at basket rear: \d+ % bright/ })).toBeVisible();
});

test("a light that fails is clicked as it looks, and the answer follows", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Book-delivery trike" }).click();
  await step(page, "Use");
  await step(page, "Trouble");
  const tail = page.getByRole("region", { name: "What is wrong" }).getByRole("button", { name: /^tail at / });
  const dial = page.getByRole("radiogroup", { name: "How tail looks" });
  await tail.click();
  await expect(dial.getByRole("radio", { name: "Dark", exact: true })).toBeChecked();
  await expect(page.getByRole("region", { name: "Suspects" })).toBeVisible();
  await tail.click();
  await expect(dial.getByRole("radio", { name: "Dim", exact: true })).toBeChecked();
  await tail.press("Enter");
  await expect(dial.getByRole("radio", { name: "part" })).toBeChecked();
});

test("the probes go where one points", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Book-delivery trike" }).click();
  await step(page, "Make");
  await expect(page.getByRole("status", { name: "The meter shows" })).toHaveText("42.0 V");
  await page
    .getByRole("region", { name: "The build" })
    .getByRole("button", { name: /^tail at / })
    .click();
  await expect(page.getByLabel("Red probe on")).toHaveValue("tail:to+");
  await expect(page.getByLabel("Black probe on")).toHaveValue("tail:to-");
  await expect(page.getByRole("status", { name: "The meter shows" })).toHaveText("12.0 V");
  // In words, its name behind them.
  await expect(page.getByLabel("Red probe on").locator("option:checked")).toHaveText("Tail, at its own plus (tail:to+)");
});

test("a remote asks for what it needs, and draws", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Trail deck" }).click();
  await step(page, "Power");
  const remote = page.getByRole("radiogroup", { name: "Remote control" });
  await remote.getByRole("radio", { name: "infrared" }).click();
  await expect(page.getByText("Can the receiver see the remote")).toBeVisible();
  await expect(page.getByLabel("Its receiver takes")).toHaveValue(/2/);
  await remote.getByRole("radio", { name: "radio" }).click();
  await expect(page.getByText("Is its band licence-free where you live?")).toBeVisible();
  await remote.getByRole("radio", { name: "no remote" }).click();
  await expect(page.getByLabel("Its receiver takes")).toHaveCount(0);
});
