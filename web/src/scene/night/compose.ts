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

/** Where a cell's two neighbours lie and how far between them, for every pixel of a row or column. */
function between(pixels: number, cells: number): { from: Int32Array; share: Float32Array } {
  const from = new Int32Array(pixels);
  const share = new Float32Array(pixels);
  for (let pixel = 0; pixel < pixels; pixel++) {
    const at = Math.min(cells - 1, Math.max(0, ((pixel + 0.5) * cells) / pixels - 0.5));
    from[pixel] = Math.min(Math.floor(at), Math.max(0, cells - 2));
    share[pixel] = cells > 1 ? at - from[pixel]! : 0;
  }
  return { from, share };
}

/** A row between two rows of cells. */
function rowBetween(map: Light, wide: number, { from, share }: { from: number; share: number }, high: number, row: Float32Array) {
  const upper = 3 * wide * from;
  const lower = 3 * wide * Math.min(from + 1, high - 1);
  for (let at = 0; at < 3 * wide; at++) row[at] = map[upper + at]! + share * (map[lower + at]! - map[upper + at]!);
}

const SQUARES = Float32Array.from({ length: 256 }, (_, value) => (value / 255) ** 2);

/** Every pixel, red, green, blue and opaque. */
export function compose(planes: Planes, falling: Falling): Uint8ClampedArray<ArrayBuffer> {
  const { wide, high } = planes;
  const linear = new Float32Array(3 * wide * high);
  const [body, around, glare] = [lights(falling.body), lights(falling.around), lights(falling.glare)];
  const light = { across: between(wide, planes.lightWide), down: between(high, planes.lightHigh) };
  const veil = { across: between(wide, planes.glareWide), down: between(high, planes.glareHigh) };
  const rows = [new Float32Array(3 * planes.lightWide), new Float32Array(3 * planes.lightWide), new Float32Array(3 * planes.glareWide)] as const;
  const [skyR, skyG, skyB] = falling.sky_lx;
  for (let y = 0; y < high; y++) {
    rowBetween(body, planes.lightWide, { from: light.down.from[y]!, share: light.down.share[y]! }, planes.lightHigh, rows[0]);
    rowBetween(around, planes.lightWide, { from: light.down.from[y]!, share: light.down.share[y]! }, planes.lightHigh, rows[1]);
    rowBetween(glare, planes.glareWide, { from: veil.down.from[y]!, share: veil.down.share[y]! }, planes.glareHigh, rows[2]);
    const [onBody, onGround, inEye] = rows;
    for (let x = 0; x < wide; x++) {
      const pixel = y * wide + x;
      const [ofBody, ofGround, ofSky] = [SQUARES[planes.body[pixel]!]!, SQUARES[planes.around[pixel]!]!, SQUARES[planes.sky[pixel]!]!];
      const [cell, part] = [3 * light.across.from[x]!, light.across.share[x]!];
      const next = planes.lightWide > 1 ? cell + 3 : cell;
      const [own, rest] = [3 * veil.across.from[x]!, veil.across.share[x]!];
      const after = planes.glareWide > 1 ? own + 3 : own;
      for (let channel = 0; channel < 3; channel++) {
        const falls =
          ofBody * (onBody[cell + channel]! + part * (onBody[next + channel]! - onBody[cell + channel]!)) +
          ofGround * (onGround[cell + channel]! + part * (onGround[next + channel]! - onGround[cell + channel]!)) +
          ofSky * (channel === 0 ? skyR! : channel === 1 ? skyG! : skyB!);
        const veils = inEye[own + channel]! + rest * (inEye[after + channel]! - inEye[own + channel]!);
        linear[3 * pixel + channel] = falls + Math.PI * veils;
      }
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
  const pixels = linear.length / 3;
  const shown = new Uint8ClampedArray(4 * pixels);
  for (let pixel = 0; pixel < pixels; pixel++) {
    const [r, g, b] = [linear[3 * pixel]! / white, linear[3 * pixel + 1]! / white, linear[3 * pixel + 2]! / white];
    const bleach = BLEACH * Math.max(0, 0.2126 * r + 0.7152 * g + 0.0722 * b - 1);
    shown[4 * pixel] = TONES[Math.round((4095 * (r + bleach)) / (1 + r + bleach))]!;
    shown[4 * pixel + 1] = TONES[Math.round((4095 * (g + bleach)) / (1 + g + bleach))]!;
    shown[4 * pixel + 2] = TONES[Math.round((4095 * (b + bleach)) / (1 + b + bleach))]!;
    shown[4 * pixel + 3] = 255;
  }
  return shown;
}
