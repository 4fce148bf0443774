import AxeBuilder from "@axe-core/playwright";
import { readFileSync } from "node:fs";
import { expect, saved, step, test } from "./workshop";

const axe = async (page: import("@playwright/test").Page) =>
  expect((await new AxeBuilder({ page }).analyze()).violations.map((one) => `${one.id}: ${one.nodes[0]?.html}`)).toEqual([]);

test("pixels get an effect, play over the protocol, stand still, and leave as C", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Owl-count hexacopter" }).click();
  await step(page, "Show");
  const stage = page.getByRole("region", { name: "The show" });
  const editor = page.getByRole("region", { name: "Show", exact: true });
  await expect(stage.getByRole("button", { name: "left, numbers 6 to 11, data from its far end" })).toBeVisible();
  await expect(stage).toContainText("owl-brain, powered from the supply");
  // Nothing moves before somebody wants it to.
  await expect(stage.getByRole("status", { name: "Moment" })).toHaveText("0.00 s");
  await axe(page);

  // A piece is chosen on the vehicle, and gets an effect; its copy gets the same.
  await stage.getByRole("button", { name: /^rear-left, numbers 12 to 17/ }).click();
  await expect(editor).toContainText("Shares its numbers with rear-right");
  await editor.getByRole("button", { name: "breathing", exact: true }).click();
  await expect(editor.getByLabel("Once around")).toHaveValue("3");
  await editor.getByLabel("Once around").fill("4");
  await editor.getByLabel("Once around").blur();
  await expect(stage).toContainText("4 s");
  await saved(page);

  // A frame by hand, then over the protocol and back to rest.
  await stage.getByRole("button", { name: "A frame on" }).click();
  await expect(stage.getByRole("status", { name: "Moment" })).toHaveText("0.05 s");
  await stage.getByRole("button", { name: /^Play/ }).click();
  await expect(stage).toContainText(/Over E1\.31 through the simulated controller at 127\.0\.0\.1:\d+: 1 universe, \d+ frames a second, 0 lost, 0 late/);
  await stage.getByRole("button", { name: "Hold still" }).click();
  const heard = async () => ((await (await page.request.get("/api/v1/controller")).json()) as { scene?: string }).scene;
  await expect.poll(heard).toBeUndefined();

  // The worst frame is one click away.
  await stage.getByRole("button", { name: "Go to the worst frame" }).click();
  await expect(stage.getByRole("status", { name: "Moment" })).not.toHaveText("0.05 s");

  const download = page.waitForEvent("download", (file) => file.suggestedFilename() === "show.c");
  await stage.getByRole("button", { name: "C for your board" }).click();
  expect(readFileSync(await (await download).path(), "utf8")).toContain("void show_frame(");
});

test("a ready show becomes a scene whose inputs are sliders, and what flashes is slowed down", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Owl-count hexacopter" }).click();
  await step(page, "Show");
  const stage = page.getByRole("region", { name: "The show" });
  const editor = page.getByRole("region", { name: "Show", exact: true });
  await editor.getByRole("button", { name: /^Brake and turn/ }).click();
  await expect(page.getByRole("radio", { name: "Brake and turn" })).toBeChecked();
  await stage.getByRole("radio", { name: "left" }).check({ force: true });
  await expect(stage).toContainText("What it follows");

  // Six a second: told as a stop, and not played like that.
  await stage.getByRole("button", { name: /^left, numbers/ }).click();
  await editor.getByRole("button", { name: "blink", exact: true }).click();
  await editor.getByLabel("Once around").fill("0.16");
  await editor.getByLabel("Once around").blur();
  await expect(stage.getByRole("alert")).toContainText("more than three times a second");
  await expect(page.getByRole("region", { name: "Verdict" })).toContainText("flashes too fast");
  await saved(page);
});

test("the first run turns the plan into what was soldered", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Trail deck" }).click();
  await step(page, "Show");
  const editor = page.getByRole("region", { name: "Show", exact: true });
  const stage = page.getByRole("region", { name: "The show" });
  await editor.getByRole("button", { name: "First run: which one is red?" }).click();
  const run = editor.getByRole("group", { name: "First run of drum-brain/D2" });
  await expect(run).toContainText("number 0 in red");
  await run.getByRole("button", { name: "right-rail" }).click();
  await run.getByRole("button", { name: "That is it" }).click();
  await expect(run).toContainText("number 45 in red");
  await run.getByRole("button", { name: "left-rail" }).click();
  await run.getByRole("button", { name: "That is it" }).click();
  await expect(run).toContainText("Piece 1 is right-rail, not left-rail");
  await run.getByRole("button", { name: "Make the plan what was soldered" }).click();
  await expect(stage.getByRole("button", { name: /^right-rail, numbers 0 to 44$/ })).toBeVisible();
  await saved(page);

  // Put in order by hand again, without a mouse.
  await editor.getByRole("button", { name: "Put in order by clicking" }).click();
  for (const name of ["left-rail", "right-rail"]) {
    await stage.getByRole("button", { name: new RegExp(`^${name}`) }).focus();
    await page.keyboard.press("Enter");
  }
  await editor.getByRole("button", { name: "Take this order" }).click();
  await expect(stage.getByRole("button", { name: /^left-rail, numbers 0 to 44/ })).toBeVisible();
  await saved(page);
});

test("far pixels that starve are shown beside what is asked, and fed twice", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Trail deck" }).click();
  // Thin rails: white turns pinkish towards the far end.
  const id = Number(new URL(page.url()).pathname.split("/").at(-1));
  await expect(page.getByText(/^Saved /)).toBeVisible();
  const stored = (await (await page.request.get(`/api/v1/builds/${id}`)).json()) as {
    document: { lights: { load: Record<string, unknown>; feeds: unknown[] }[] };
    revision: number;
  };
  for (const light of stored.document.lights.slice(0, 2)) {
    light.load.rail_ohm_per_m = 1.5;
    light.feeds = light.feeds.slice(0, 1);
  }
  const made = await page.request.post("/api/v1/builds", { data: { ...stored.document, name: "Thin rails" } });
  expect(made.ok()).toBe(true);
  const { id: thin } = (await made.json()) as { id: number };
  await page.goto(`/builds/${thin}?step=show&scene=parade`);
  const stage = page.getByRole("region", { name: "The show" });
  await expect(stage).toContainText(/from pixel \d+ on the colour is seen to differ/);
  const before = await stage
    .getByText(/ΔE, seen above 3/)
    .first()
    .textContent();
  await stage.getByRole("button", { name: /^Feed left-rail at its other end too/ }).click();
  await expect(stage.getByText(/ΔE, seen above 3/).first()).not.toHaveText(before!);
  await saved(page);
});
