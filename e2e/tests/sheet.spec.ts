import { readFileSync } from "node:fs";
import { pathToFileURL } from "node:url";
import { expect, test, verdict } from "./workshop";

/** A build taken along as one page: it opens from a file, without any server, and works its figures out itself. */

test("a sheet opens from a file and answers on its own", async ({ page, browser }, info) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Travelling puppet stage" }).click();
  const light = await verdict(page)
    .getByRole("button", { name: /^Time of light/ })
    .textContent();
  const leaving = page.waitForEvent("download");
  await page.getByRole("button", { name: /^Take it with you/ }).click();
  const path = info.outputPath("sheet.html");
  await (await leaving).saveAs(path);
  expect(readFileSync(path).length).toBeLessThan(2.5e6);

  const context = await browser.newContext({ offline: true, viewport: { width: 390, height: 844 } });
  const sheet = await context.newPage();
  const complaints: string[] = [];
  sheet.on("pageerror", (error) => complaints.push(error.message));
  sheet.on("console", (message) => message.type() === "error" && complaints.push(message.text()));
  sheet.on("request", (request) => !/^(file|data|blob):/.test(request.url()) && complaints.push(request.url()));
  await sheet.goto(pathToFileURL(path).href);
  await expect(sheet.getByRole("heading", { level: 1 })).toHaveText("Travelling puppet stage");
  const figure = verdict(sheet).getByRole("button", { name: /^Time of light/ });
  await expect(figure).toHaveText(light!);
  await figure.click();
  await expect(sheet.getByRole("dialog", { name: "Working" })).toContainText("Rule:");
  await sheet.keyboard.press("Escape");
  await sheet.getByLabel("Scene").selectOption({ index: 1 });
  await expect(figure).not.toHaveText(light!);
  // Told, not done: a sheet changes nothing.
  await expect(verdict(sheet).getByRole("button", { name: /…$/ })).toHaveCount(0);
  expect(await sheet.evaluate(() => document.documentElement.scrollWidth)).toBe(390);
  expect(complaints).toEqual([]);
  await context.close();
});
