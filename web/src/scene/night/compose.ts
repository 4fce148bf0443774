/** A picture of the night put together on the processor: what the core says of light, as an eye has it on a screen. */
import { screen } from "../../base/linear";
import type { Falling, Scenery } from "../../api/client";

/** Colours in linear light, three numbers each. */
export type Light = Float32Array;

/** Octets out of base 64. */
export function octets(text: string): Uint8Array {
  const plain = atob(text);
  const all = new Uint8Array(plain.length);
  for (let at = 0; at < plain.length; at++) all[at] = plain.charCodeAt(at);
  return all;
}

/** Halves of floats (IEEE 754 binary16) by their bits; what is negative or no number does not come up. */
const HALVES = Float32Array.from({ length: 0x7c00 }, (_, half) => {
  const [exponent, fraction] = [half >> 10, half & 0x3ff];
  return exponent === 0 ? fraction * 2 ** -24 : (1 + fraction / 1024) * 2 ** (exponent - 15);
});

/** Halves as a graphics card takes them. */
export const halves = (text: string) => new Uint16Array(octets(text).buffer);

/** Colours of three halves each, as numbers. */
function lights(text: string): Light {
  const coded = halves(text);
  const all = new Float32Array(coded.length);
  for (let at = 0; at < coded.length; at++) all[at] = HALVES[coded[at]!]!;
  return all;
}

/** What stands in a picture, as octets whose square is a share. */
export interface Planes {
  wide: number;
  high: number;
  lightWide: number;
  lightHigh: number;
  glareWide: number;
  glareHigh: number;
  body: Uint8Array;
  around: Uint8Array;
  sky: Uint8Array;
}

export const planesOf = (told: Scenery): Planes => ({
  wide: told.wide,
  high: told.high,
  lightWide: told.light_wide,
  lightHigh: told.light_high,
  glareWide: told.glare_wide,
  glareHigh: told.glare_high,
  body: octets(told.body),
  around: octets(told.around),
  sky: octets(told.sky),
});

/** Something that shines towards the eye: a disc in pixels with its luminance, cd/m². */
export interface Point {
  x: number;
  y: number;
  radius: number;
  rgb: readonly [number, number, number];
}

/** Twelve octets each, as the core writes them. */
export function pointsOf(text: string): Point[] {
  const coded = halves(text);
  return Array.from({ length: Math.floor(coded.length / 6) }, (_, index) => {
    const [x, y, radius, red, green, blue] = coded.subarray(6 * index, 6 * index + 6) as unknown as [number, number, number, number, number, number];
    return { x: x / 32, y: y / 32, radius: radius / 64, rgb: [HALVES[red]!, HALVES[green]!, HALVES[blue]!] };
  });
}

/** So many times white is as bright as a screen gets. */
const WHITEST = 5;
/** What is far brighter than white looks white whatever its colour: so much of what is above it goes to every channel. */
const BLEACH = 0.012;

/** Shares of white by what a screen shows of them, over `x / (1 + x)`, which has an end. */
export const TONES = Uint8ClampedArray.from({ length: 4096 }, (_, at) => {
  const x = at / 4095 / Math.max(1e-6, 1 - at / 4095);
  return screen(Math.min(1, (x * (1 + x / (WHITEST * WHITEST))) / (1 + x)));
});

interface Between {
  from: Int32Array;
  share: Float32Array;
}

/** Where a cell's two neighbours lie and how far between them, for every pixel of a row or column. */
function between(pixels: number, cells: number): Between {
  const from = new Int32Array(pixels);
  const share = new Float32Array(pixels);
  for (let pixel = 0; pixel < pixels; pixel++) {
    const at = Math.min(cells - 1, Math.max(0, ((pixel + 0.5) * cells) / pixels - 0.5));
    from[pixel] = Math.min(Math.floor(at), Math.max(0, cells - 2));
    share[pixel] = cells > 1 ? at - from[pixel]! : 0;
  }
  return { from, share };
}

/** A row between two rows of cells, stretched to the width of the picture. */
function rowBetween(map: Light, cells: number, high: number, from: number, share: number, across: Between, row: Float32Array) {
  const upper = 3 * cells * from;
  const lower = 3 * cells * Math.min(from + 1, high - 1);
  const next = cells > 1 ? 3 : 0;
  const { from: cell, share: part } = across;
  for (let x = 0, at = 0; x < cell.length; x++) {
    const left = 3 * cell[x]!;
    const rest = part[x]!;
    for (let channel = 0; channel < 3; channel++, at++) {
      const here = upper + left + channel;
      const below = lower + left + channel;
      const over = map[here]! + rest * (map[here + next]! - map[here]!);
      const under = map[below]! + rest * (map[below + next]! - map[below]!);
      row[at] = over + share * (under - over);
    }
  }
}

const SQUARES = Float32Array.from({ length: 256 }, (_, value) => (value / 255) ** 2);

/** Every pixel, red, green, blue and opaque. */
export function compose(planes: Planes, falling: Falling): Uint8ClampedArray<ArrayBuffer> {
  const { wide, high, lightWide, lightHigh, glareWide, glareHigh, body: bodies, around: surroundings, sky: skies } = planes;
  const linear = new Float32Array(3 * wide * high);
  const [body, around, glare] = [lights(falling.body), lights(falling.around), lights(falling.glare)];
  const light = { across: between(wide, lightWide), down: between(high, lightHigh) };
  const veil = { across: between(wide, glareWide), down: between(high, glareHigh) };
  const [onBody, onGround, inEye] = [new Float32Array(3 * wide), new Float32Array(3 * wide), new Float32Array(3 * wide)];
  const [skyR, skyG, skyB] = falling.sky_lx as [number, number, number];
  // What is on the way to every pixel of every picture: figures one by one, no lists.
  for (let y = 0, pixel = 0, to = 0; y < high; y++) {
    const [from, share] = [light.down.from[y]!, light.down.share[y]!];
    rowBetween(body, lightWide, lightHigh, from, share, light.across, onBody);
    rowBetween(around, lightWide, lightHigh, from, share, light.across, onGround);
    rowBetween(glare, glareWide, glareHigh, veil.down.from[y]!, veil.down.share[y]!, veil.across, inEye);
    for (let x = 0, at = 0; x < wide; x++, pixel++) {
      const ofBody = SQUARES[bodies[pixel]!]!;
      const ofGround = SQUARES[surroundings[pixel]!]!;
      const ofSky = SQUARES[skies[pixel]!]!;
      linear[to++] = ofBody * onBody[at]! + ofGround * onGround[at]! + ofSky * skyR + Math.PI * inEye[at++]!;
      linear[to++] = ofBody * onBody[at]! + ofGround * onGround[at]! + ofSky * skyG + Math.PI * inEye[at++]!;
      linear[to++] = ofBody * onBody[at]! + ofGround * onGround[at]! + ofSky * skyB + Math.PI * inEye[at++]!;
    }
  }
  for (const point of pointsOf(falling.points)) put(linear, wide, high, point);
  return toned(linear, falling.white_lx);
}

/** A disc with a soft edge of a pixel, over what is there; a luminance is worth π of the light that white throws back. */
function put(linear: Float32Array, wide: number, high: number, { x, y, radius, rgb }: Point) {
  const reach = radius + 0.5;
  for (let row = Math.max(0, Math.floor(y - reach)); row <= Math.min(high - 1, Math.floor(y + reach)); row++)
    for (let column = Math.max(0, Math.floor(x - reach)); column <= Math.min(wide - 1, Math.floor(x + reach)); column++) {
      const share = reach - Math.hypot(column + 0.5 - x, row + 0.5 - y);
      if (share <= 0) continue;
      const at = 3 * (row * wide + column);
      for (let channel = 0; channel < 3; channel++) linear[at + channel]! += Math.PI * Math.min(1, share) * rgb[channel]!;
    }
}

function toned(linear: Float32Array, white: number): Uint8ClampedArray<ArrayBuffer> {
  const shown = new Uint8ClampedArray((4 * linear.length) / 3);
  const share = 1 / white;
  for (let at = 0, to = 0; at < linear.length; at += 3, to += 4) {
    let r = linear[at]! * share;
    let g = linear[at + 1]! * share;
    let b = linear[at + 2]! * share;
    const bright = 0.2126 * r + 0.7152 * g + 0.0722 * b;
    if (bright > 1) {
      const bleach = BLEACH * (bright - 1);
      r += bleach;
      g += bleach;
      b += bleach;
    }
    shown[to] = TONES[((4095.5 * r) / (1 + r)) | 0]!;
    shown[to + 1] = TONES[((4095.5 * g) / (1 + g)) | 0]!;
    shown[to + 2] = TONES[((4095.5 * b) / (1 + b)) | 0]!;
    shown[to + 3] = 255;
  }
  return shown;
}
