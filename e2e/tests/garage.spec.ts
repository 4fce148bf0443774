import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import { expect, saved, step, test, verdict } from "./workshop";

/** A phone on the local network, here another address of this machine. */

const PHONE = { viewport: { width: 390, height: 844 } };

test("a phone is let in by the code on the screen, looks, may edit, and is shut out", async ({ page, browser }) => {
  await page.goto("/");
  await page.getByRole("button", { name: "Phone" }).click();
  const dialog = page.getByRole("dialog", { name: "A phone in the garage" });
  await expect(dialog.getByRole("img", { name: "A code to point the phone's camera at" })).toBeVisible();
  const garage = ((await dialog.locator("b").textContent()) ?? "").replace("/pair", "");
  expect(garage).toMatch(/^http:\/\/127\.0\.0\.2:\d+$/);
  const code = ((await dialog.getByText(/^[2-9A-Z]{3} [2-9A-Z]{3}$/).textContent()) ?? "").replace(" ", "");

  const context = await browser.newContext(PHONE);
  const phone = await context.newPage();
  const complaints: string[] = [];
  phone.on("pageerror", (error) => complaints.push(error.message));
  // Whatever is asked for, a stranger sees the door; a wrong code is said.
  await phone.goto(`${garage}/builds/1`);
  await phone.getByLabel("Code").fill("AAA AAA");
  await phone.getByRole("button", { name: "Come in" }).click();
  await expect(phone.getByRole("alert")).toContainText("wrong, used or older than five minutes");
  // The picture leads here.
  await phone.goto(`${garage}/pair#${code}`);
  await expect(phone.getByRole("link", { name: "Camp rover" })).toBeVisible();
  expect(phone.url()).toBe(`${garage}/`);
  await expect(dialog.getByText("A device has come in by this code")).toBeVisible();
  await expect(phone.getByRole("button", { name: "New build" })).toHaveCount(0);

  await phone.getByRole("link", { name: "Camp rover" }).click();
  await expect(verdict(phone)).toContainText("of light");
  await step(phone, "Battery");
  await phone.getByLabel("Capacity", { exact: true }).fill("9");
  await expect(phone.locator("[data-save]")).toHaveText("Only looking: stays on this device");

  await dialog.getByText("may edit").click();
  await expect(dialog.getByRole("checkbox", { name: "may edit" })).toBeChecked();
  await phone.reload();
  // What was tried before waits there, and is saved now that it may be.
  await saved(phone);
  await expect(phone.getByLabel("Capacity", { exact: true })).toHaveValue("9");
  await phone.getByLabel("Capacity", { exact: true }).fill("10");
  await expect(phone.locator("[data-save]")).toHaveAttribute("data-revision", "3");

  await dialog.getByRole("button", { name: /^Shut .* out$/ }).click();
  await expect(dialog.getByRole("region", { name: "Let in" })).toHaveCount(0);
  await phone.getByLabel("Capacity", { exact: true }).fill("11");
  await expect(phone.getByRole("button", { name: "Come in" })).toBeVisible();
  expect(complaints).toEqual([]);
  await context.close();
});

const axe = async (page: Page, where: string) => {
  const found = await new AxeBuilder({ page }).analyze();
  return found.violations.map((violation) => `${where}: ${violation.id}: ${violation.nodes.map((node) => node.html).join(" | ")}`);
};

for (const theme of ["dark", "light"])
  test(`the door can be used by everyone and fits a phone, ${theme}`, async ({ page, browser }) => {
    await page.addInitScript((name) => localStorage.setItem("orthavis.theme", name), theme);
    await page.goto("/");
    await page.getByRole("button", { name: "Phone" }).click();
    const dialog = page.getByRole("dialog", { name: "A phone in the garage" });
    await expect(dialog.getByRole("img", { name: "A code to point the phone's camera at" })).toBeVisible();
    const garage = (await dialog.locator("b").textContent())!;
    const said = await axe(page, "the code");
    const context = await browser.newContext(PHONE);
    const phone = await context.newPage();
    await phone.addInitScript((name) => localStorage.setItem("orthavis.theme", name), theme);
    await phone.goto(garage);
    const button = phone.getByRole("button", { name: "Come in" });
    await expect(button).toBeDisabled();
    said.push(...(await axe(phone, "the door")));
    expect(await phone.evaluate(() => document.documentElement.scrollWidth)).toBe(390);
    // Pressed with gloves on.
    await phone.getByLabel("Code").fill("ABCDEF");
    expect((await button.boundingBox())!.height).toBeGreaterThanOrEqual(48);
    await expect(phone.getByLabel("What to call this device")).not.toHaveValue("");
    expect(said).toEqual([]);
    await context.close();
  });

test("a code that was used lets nobody else in, and another can be had", async ({ page, browser }) => {
  await page.goto("/");
  await page.getByRole("button", { name: "Phone" }).click();
  const dialog = page.getByRole("dialog", { name: "A phone in the garage" });
  const shown = dialog.getByText(/^[2-9A-Z]{3} [2-9A-Z]{3}$/);
  const first = (await shown.textContent())!;
  const garage = (await dialog.locator("b").textContent())!;
  const context = await browser.newContext(PHONE);
  const phone = await context.newPage();
  await phone.goto(garage);
  await phone.getByLabel("Code").fill(first);
  await phone.getByLabel("What to call this device").fill("Bench phone");
  await phone.getByRole("button", { name: "Come in" }).click();
  await expect(phone.getByRole("link", { name: "Camp rover" })).toBeVisible();
  await expect(dialog.getByText("Bench phone")).toBeVisible();
  const other = await browser.newContext(PHONE);
  const second = await other.newPage();
  await second.goto(`${garage}#${first.replace(" ", "")}`);
  await expect(second.getByRole("alert")).toContainText("used");
  await dialog.getByRole("button", { name: "A code for another" }).click();
  await expect(shown).not.toHaveText(first);
  await second.getByLabel("Code").fill((await shown.textContent())!);
  await second.getByRole("button", { name: "Come in" }).click();
  await expect(second.getByRole("link", { name: "Camp rover" })).toBeVisible();
  for (const open of [context, other]) await open.close();
});
