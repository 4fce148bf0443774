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
  await phone.getByLabel("Capacity").fill("9");
  await expect(phone.locator("[data-save]")).toHaveText("Only looking: stays on this device");

  await dialog.getByText("may edit").click();
  await expect(dialog.getByRole("checkbox", { name: "may edit" })).toBeChecked();
  await phone.reload();
  // What was tried before waits there, and is saved now that it may be.
  await saved(phone);
  await expect(phone.getByLabel("Capacity")).toHaveValue("9");
  await phone.getByLabel("Capacity").fill("10");
  await expect(phone.locator("[data-save]")).toContainText("revision 3");

  await dialog.getByRole("button", { name: /^Shut .* out$/ }).click();
  await expect(dialog.getByRole("region", { name: "Let in" })).toHaveCount(0);
  await phone.getByLabel("Capacity").fill("11");
  await expect(phone.getByRole("button", { name: "Come in" })).toBeVisible();
  expect(complaints).toEqual([]);
  await context.close();
});
