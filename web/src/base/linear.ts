/** Colours of pixels are shares of light; a screen wants them bent as sRGB has it. */

/** A share of light as a code of the screen. */
export const screen = (share: number): number => Math.round(255 * (share <= 0.0031308 ? 12.92 * share : 1.055 * Math.min(share, 1) ** (1 / 2.4) - 0.055));

/** A code of the screen as a share of light. */
const light = (code: number): number => {
  const share = code / 255;
  return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
};

/** A colour for `<input type="color">`. */
export const hexOf = (rgb: readonly number[]): string => `#${rgb.map((share) => screen(share).toString(16).padStart(2, "0")).join("")}`;

/** And back, to a thousandth. */
export const sharesOf = (hex: string): [number, number, number] =>
  [1, 3, 5].map((at) => Math.round(1000 * light(parseInt(hex.slice(at, at + 2), 16))) / 1000) as [number, number, number];

/** Codes of light, 0 to 255, as codes of the screen. */
export const SCREEN: Uint8Array = Uint8Array.from({ length: 256 }, (_, code) => screen(code / 255));

const DIGIT = new Uint8Array(128);
for (let value = 0; value < 16; value++) DIGIT[value.toString(16).charCodeAt(0)] = value;

/** Codes out of hexadecimal digits, from a digit on. */
export function codes(text: string, from: number, count: number, into: Uint8Array): void {
  for (let at = 0; at < count; at++) {
    const place = from + 2 * at;
    into[at] = (DIGIT[text.charCodeAt(place)]! << 4) | DIGIT[text.charCodeAt(place + 1)]!;
  }
}
