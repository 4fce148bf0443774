import { expect, open, step, test, verdict } from "./workshop";

/** What volts and amperes do not show: told in its field, said in the verdict, mended by what the verdict offers. */

interface Hazard {
  says: string;
  build: string;
  step: string;
  card: RegExp;
  folded: string;
  field: string;
  /** What is chosen there, or typed. */
  choose?: string;
  type?: string;
  remedy: RegExp;
}

const HAZARDS: readonly Hazard[] = [
  {
    says: "its plug goes together both ways round",
    build: "Book-delivery trike",
    step: "Wires",
    card: /the battery → step-down-12v/,
    folded: "Where its fuse sits, its contacts",
    field: "Its plugs go together one way round only",
    choose: "No",
    remedy: /Use a plug that goes together one way round only/,
  },
  {
    says: "this plug is not made for 42 V",
    build: "Book-delivery trike",
    step: "Wires",
    card: /the battery → step-down-12v/,
    folded: "Where its fuse sits, its contacts",
    field: "A plug is made for",
    type: "24",
    remedy: /Use one for 48 V of direct current/,
  },
  {
    says: "not sealed where it gets wet",
    build: "Trail deck",
    step: "Lights",
    card: /^left-rail/,
    folded: "More figures",
    field: "Sealed",
    choose: "No",
    remedy: /Seal it/,
  },
  {
    says: "its emitters get too hot",
    build: "Camp rover",
    step: "Lights",
    card: /^search-beam/,
    folded: "More figures",
    field: "Its heat sink",
    type: "60",
    remedy: /Screw it to metal/,
  },
];

for (const hazard of HAZARDS)
  test(`${hazard.says}: told, said and mended`, async ({ page }) => {
    await page.goto("/");
    await page.getByRole("link", { name: hazard.build }).click();
    await step(page, hazard.step);
    await expect(verdict(page)).not.toContainText(hazard.says);
    await open(page, hazard.card);
    const folded = page.getByText(hazard.folded, { exact: true });
    await folded.press("Enter");
    if (hazard.choose) await page.getByRole("combobox", { name: hazard.field }).selectOption({ label: hazard.choose });
    if (hazard.type) {
      await page.getByRole("textbox", { name: hazard.field }).fill(hazard.type);
      await page.getByRole("textbox", { name: hazard.field }).press("Enter");
    }
    await expect(verdict(page)).toContainText(hazard.says);
    await verdict(page).getByRole("button", { name: hazard.remedy }).click();
    await page.getByRole("group", { name: "What it changes" }).getByRole("button", { name: "Do it" }).click();
    await expect(verdict(page)).not.toContainText(hazard.says);
  });
