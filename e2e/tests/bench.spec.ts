import { connect } from "node:net";
import { expect, saved, step, test } from "./workshop";

/** Trying it, measuring it, and finding what is wrong. */

test("the meter reads any point, and a fault shows in lights and readings", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Book-delivery trike" }).click();
  await step(page, "Make");
  await expect(page.getByRole("heading", { level: 2, name: "Bench" })).toBeVisible();
  const meter = page.getByRole("status", { name: "The meter shows" });
  await expect(meter).toHaveText("42.0 V");
  await page.getByLabel("Red probe on").selectOption("tail:to+");
  await page.getByLabel("Black probe on").selectOption("tail:to-");
  await expect(meter).toHaveText("12.0 V");
  await page.getByLabel("Put a fault in").selectOption({ label: "a break in the plus wire of tail, at its far end" });
  await expect(meter).toHaveText(/^1[12]\.\d mV$/);
  await expect(page.getByRole("listitem").filter({ hasText: /^taildark$/ })).toBeVisible();
  await expect(page.getByRole("button", { name: /^tail at .*: off$/ })).toBeVisible();
  await page.getByRole("button", { name: "Take it out" }).click();
  await expect(meter).toHaveText("12.0 V");
  await page.getByRole("radio", { name: "A", exact: true }).click();
  await expect(meter).toHaveText(/mA$/);
  // Ohms along a sound run, and through one that is open.
  await page.getByRole("radio", { name: "Ω", exact: true }).click();
  await page.getByLabel("Red probe on").selectOption("tail:from+");
  await page.getByLabel("Black probe on").selectOption("tail:to+");
  await expect(meter).toHaveText(/^\d+ mΩ$/);
  await page.getByLabel("Put a fault in").selectOption({ label: "a break in the plus wire of tail, at its far end" });
  await expect(meter).toHaveText("open");
});

test("a pinch without a fuse is the loudest thing there, and a fuse makes it survive", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Book-delivery trike" }).click();
  await step(page, "Make");
  await page.getByRole("radio", { name: "Pinch" }).click();
  await page.getByLabel("Which").selectOption("step-down-12v");
  await expect(page.getByText("Nothing stops it. The wire burns.")).toBeVisible();
  const amps = page.getByRole("article").filter({ hasText: "would flow" });
  const middle = await amps.textContent();
  await page.getByRole("slider", { name: "Where along it" }).press("End");
  await expect(amps).not.toHaveText(middle!);
  // The mark on the river is the same pinch: it is dragged back along its reach.
  const slider = page.getByRole("slider", { name: "Where along it" });
  const mark = (await page.locator("[data-pinch]").boundingBox())!;
  const [x, y] = [mark.x + mark.width / 2, mark.y + mark.height - 22];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x - 30, y, { steps: 3 });
  await page.mouse.up();
  await expect.poll(async () => Number(await slider.inputValue())).toBeLessThan(1);
  await expect(page.getByText(/^\d+ %$/)).toBeVisible();
  await page.getByRole("article").filter({ hasText: "A fuse that would open" }).getByRole("button", { name: /^Use/ }).first().click();
  await expect(amps).toContainText("The fuse of step-down-12v opens after");
  await expect(page.getByRole("row", { name: /^reserve/ })).toContainText("survives");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByText("Nothing stops it. The wire burns.")).toBeVisible();
  await saved(page);
});

test("a reading is judged at once and is there after a reload", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Book-delivery trike" }).click();
  await step(page, "Make");
  await page.getByRole("radio", { name: "Check list" }).click();
  const list = page.getByRole("region", { name: "Check list" });
  const way = list.getByRole("listitem").filter({ hasText: "tail: plus gets through" });
  await way.getByLabel(/^Reading:/).fill("banana");
  await way.getByRole("button", { name: "Read" }).click();
  await expect(way.getByRole("alert")).toContainText("Type what the meter shows");
  await way.getByLabel(/^Reading:/).fill("0,3");
  await way.getByRole("button", { name: "Read" }).click();
  await expect(way.getByRole("status")).toContainText("Fine");
  const short = list.getByRole("listitem").filter({ hasText: "Nothing between plus and minus" });
  await short.getByLabel(/^Reading:/).fill("1.5");
  await short.getByRole("button", { name: "Read" }).click();
  await expect(short.getByRole("status")).toContainText("Stop");
  await expect(short.getByRole("status")).toContainText("Do not connect the battery");
  await expect(list.getByRole("heading", { level: 2 })).toHaveText(/^2 of \d+ checks done$/);
  await page.reload();
  await expect(list.getByRole("heading", { level: 2 })).toHaveText(/^2 of \d+ checks done$/);
  await expect(short.getByRole("status")).toContainText("Stop");
  // Measured anew: the newest counts.
  await short.getByRole("button", { name: "Open" }).click();
  await expect(short.getByRole("status")).toContainText("Fine");
});

test("readings tell what a module is set to, shown before it is taken over, one undo", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Book-delivery trike" }).click();
  await step(page, "Power");
  const field = page.getByRole("textbox", { name: /^Set to/ });
  await expect(field).toBeVisible();
  const before = await field.inputValue();
  await step(page, "Make");
  await page.getByRole("radio", { name: "Check list" }).click();
  const learned = page.getByRole("region", { name: "What the readings say" });
  await expect(learned).toContainText("So far: 0");
  const list = page.getByRole("region", { name: "Check list" });
  // A module that is set five percent high, read where it is alone and at every light behind it.
  const rows = list.getByRole("listitem").filter({ hasText: /set before anything hangs on it|what arrives|at rest/ });
  await expect(rows.first()).toBeVisible();
  for (const row of await rows.all()) {
    const expected = Number(/should read ([\d.]+) V/.exec((await row.textContent())!)![1]);
    const high = (await row.textContent())!.includes("at rest") ? expected : 1.05 * expected;
    await row.getByLabel(/^Reading:/).fill(high.toFixed(2));
    await row.getByRole("button", { name: "Read" }).click();
    await expect(row.getByRole("status")).toBeVisible();
  }
  await learned.getByRole("button", { name: /^Hold the build against/ }).click();
  await expect(learned.getByRole("listitem").first()).toContainText("is set to: 12 V → 12.");
  await learned.getByRole("button", { name: "Do it" }).click();
  await step(page, "Plan");
  await step(page, "Power");
  await expect(field).not.toHaveValue(before);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(field).toHaveValue(before);
});

test("what is wrong is found by one check after the other, and written down", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Book-delivery trike" }).click();
  await step(page, "Use");
  await step(page, "Trouble");
  await page.getByRole("radiogroup", { name: "How tail looks" }).getByRole("radio", { name: "Dark", exact: true }).click();
  await page.getByRole("radiogroup", { name: "How front looks" }).getByRole("radio", { name: "Fine", exact: true }).click();
  // The fault is a plus wire that came off at the light: what each check would read then is what is answered.
  const next = page.getByRole("region", { name: "Next check" });
  const found = page.getByRole("region", { name: "Found" });
  const answers = async () => {
    const { document } = (await (await page.request.get(`/api/v1/builds/${/builds\/(\d+)/.exec(page.url())![1]}`)).json()) as { document: unknown };
    const probed = await page.request.post("/api/v1/probe", { data: { document, scene: "ride", state: "full", faults: ["open@tail:to+"], aftermath: true } });
    return (await probed.json()) as { volts: Record<string, number>; amps: Record<string, number>; source_a: number };
  };
  const truth = await answers();
  const settled = () => expect(page.getByRole("region", { name: "What is wrong" }).locator("[aria-busy=false]")).toBeVisible();
  await settled();
  for (let checks = 0; checks < 12 && !(await found.isVisible()); checks++) {
    const probes = (await next.getAttribute("data-probes"))!.split(" ");
    const [red, black] = probes;
    const value = black ? truth.volts[red!]! - truth.volts[black]! : red === "source" ? truth.source_a : truth.amps[red!]!;
    await next.getByLabel("What the meter shows").fill(value.toFixed(4));
    await next.getByRole("button", { name: "That is it" }).click();
    await expect(page.getByRole("region", { name: "Read so far" }).getByRole("listitem")).toHaveCount(checks + 1);
    await settled();
  }
  await expect(found.getByRole("heading")).toHaveText(/plus of tail|tail/i);
  await found.getByRole("button", { name: "It was this: write it down" }).click();
  await expect(found.getByRole("button", { name: "In the journal" })).toBeDisabled();
  await page.getByRole("button", { name: "Start over" }).click();
  await expect(page.getByText("Say what you see, light by light.")).toBeVisible();
});

test("the check list goes on paper alone, with room to write", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Camp rover" }).click();
  await step(page, "Make");
  await page.getByRole("radio", { name: "Check list" }).click();
  await expect(page.getByRole("button", { name: "Print the list" })).toBeVisible();
  const rows = page.locator(".on-paper tbody tr");
  const checks = await page.getByRole("listitem").filter({ hasText: "should read" }).count();
  await expect(rows).toHaveCount(checks);
  await expect(rows.first()).toBeHidden();
  await page.emulateMedia({ media: "print" });
  await expect(rows.first()).toBeVisible();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(["Camp rover: what to expect"]);
  await expect(page.getByRole("banner")).toBeHidden();
  const pages = (await page.pdf({ format: "A4" })).toString("latin1").match(/\/Type\s*\/Page\b/g);
  expect(pages?.length).toBeLessThan(8);
});

test("another program measures what is on the bench", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Book-delivery trike" }).click();
  await step(page, "Make");
  const meter = page.getByRole("status", { name: "The meter shows" });
  await page.getByLabel("Red probe on").selectOption("tail:to+");
  await page.getByLabel("Black probe on").selectOption("tail:to-");
  await expect(meter).toHaveText(/^1\d\.\d V$/);
  const shown = parseFloat((await meter.textContent())!);
  const instruments = page.getByRole("article").filter({ hasText: "Instruments for other programs" });
  await instruments.getByText("listen on this computer").click();
  const address = instruments.getByRole("row", { name: /^Meter/ }).locator("code");
  await expect(address).toHaveText(/^127\.0\.0\.1:\d+$/);
  const port = Number((await address.textContent())!.split(":")[1]);
  const asked = (...lines: string[]) =>
    new Promise<string>((answered, failed) => {
      const socket = connect(port, "127.0.0.1", () => socket.write(lines.map((line) => `${line}\n`).join("")));
      socket.once("data", (data) => {
        answered(data.toString().trim());
        socket.destroy();
      });
      socket.once("error", failed);
    });
  expect(await asked("*IDN?")).toMatch(/^ORTHAVIS,METER,/);
  const volts = async () => Number(await asked('ROUT:PROB "tail:to+","tail:to-"', "MEAS:VOLT?"));
  // A meter of half a percent.
  expect(Math.abs((await volts()) - shown)).toBeLessThan(0.15);
  await page.getByLabel("Put a fault in").selectOption({ label: "a break in the plus wire of tail, at its far end" });
  await expect.poll(volts).toBeLessThan(0.1);
  await instruments.getByText("listen on this computer").click();
  await expect(instruments.getByRole("row")).toHaveCount(0);
  await expect(asked("*IDN?")).rejects.toThrow();
});

test("practice: a hidden fault is found with the meter, what hurts is stopped, and what went wrong comes back", async ({ page }) => {
  // The same drill every time, in which a light is dark.
  await page.addInitScript(() => (Math.random = () => 0.25));
  await page.goto("/");
  await page.getByRole("link", { name: "Travelling puppet stage" }).click();
  await step(page, "Make");
  await page.getByRole("radio", { name: "Practice" }).click();
  await page.getByRole("button", { name: "Start The wrong way round" }).click();
  await expect(page.getByRole("heading", { name: "What you find" })).toBeVisible();
  const meter = page.getByRole("status", { name: "The meter shows" });
  await page.getByRole("button", { name: "Read", exact: true }).click();
  await expect(meter).toHaveText(/^1[34]\.\d V$/);
  await expect(page.getByText("work so far 10 s")).toBeVisible();
  // The red lead in the amps socket, across the battery.
  await page.getByRole("radio", { name: "A", exact: true }).click();
  await page.getByRole("radio", { name: "across" }).click();
  await page.getByRole("button", { name: "Read", exact: true }).click();
  const stop = page.getByRole("alert").filter({ hasText: "Stop." });
  await expect(stop).toContainText("The fuse in the meter blew");
  await page.getByRole("button", { name: "Put a new fuse into the meter" }).click();
  await page.getByRole("button", { name: "Bridge a fuse" }).click();
  await expect(stop).toContainText("never blows");
  // A wrong guess costs work; the right one shows how the program would have gone about it.
  const answers = page.getByLabel("The fault is");
  await answers.selectOption({ label: "the battery is tired: three times its resistance" });
  await page.getByRole("button", { name: "Mend that" }).click();
  await expect(page.getByText("That was not it")).toBeVisible();
  const dark = await page.getByRole("listitem").filter({ hasText: /dark$/ }).first().textContent();
  await answers.selectOption({ label: `plus and minus of ${dark!.replace(/dark$/, "")} are swapped` });
  await page.getByRole("button", { name: "Mend that" }).click();
  await expect(page.getByRole("heading", { name: "Found", exact: true })).toBeVisible();
  await expect(page.getByText("2 mistakes that would have hurt. It comes back tomorrow.")).toBeVisible();
  await expect(page.getByRole("row", { name: /^you 4\.\d min 2 readings$/ })).toBeVisible();
  await page.getByRole("button", { name: "Back to the list" }).click();
  await expect(page.getByText("comes back tomorrow · done once")).toBeVisible();
  // A lesson: said first, then seen.
  await page.getByRole("button", { name: "Open What the resistor does" }).click();
  await page.getByRole("button", { name: "It nearly doubles" }).click();
  await expect(page.getByText("Right.", { exact: true })).toBeVisible();
  await page.getByRole("slider", { name: "Its resistor" }).press("End");
  await expect(page.getByRole("alert")).toContainText("The LED stands 30 mA for long");
  await page.getByRole("button", { name: "Next: In a row, or side by side" }).click();
  await expect(page.getByText("What does the row take from the battery?")).toBeVisible();
  await page.reload();
  await expect(page.getByText("comes back tomorrow · done once")).toHaveCount(2);
});

test("two faults at once are looked for when they are held possible, and ohms may be open", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("link", { name: "Choir singer's chair" }).click();
  await step(page, "Use");
  await step(page, "Trouble");
  for (const light of ["rear-left", "rear-right"])
    await page
      .getByRole("radiogroup", { name: `How ${light} looks` })
      .getByRole("radio", { name: "Dark", exact: true })
      .click();
  const suspects = page.getByRole("region", { name: "Suspects" });
  await expect(suspects.getByRole("listitem").first()).toBeVisible();
  // A wire that is hot: nothing is asked for that needs the power on.
  await page.getByRole("checkbox", { name: "A wire gets hot" }).click();
  await expect(page.getByRole("region", { name: "Next check" })).toContainText(/Battery off and disconnected|Look at/);
  await page.getByRole("checkbox", { name: "A wire gets hot" }).click();
  const next = page.getByRole("region", { name: "Next check" });
  await expect(next).toContainText("Measure the volts");
  await next.getByLabel("What the meter shows").fill("24.4");
  await next.getByRole("button", { name: "That is it" }).click();
  const pairs = page.getByRole("checkbox", { name: "There may be two faults at once" });
  await pairs.click();
  await expect(suspects).toContainText(", and ");
  await pairs.click();
  await expect(suspects).not.toContainText(", and ");
});
