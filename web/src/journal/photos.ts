import { del, get, keys, set } from "idb-keyval";
import { ApiProblem, type Problem, problemOf } from "../api/client";

/** Longest edge of a picture that is kept: enough to see a joint by, px. */
const EDGE = 1600;
/** Bytes that the server takes. */
const MOST = 2 * 1024 * 1024;

/** Pictures wait in the browser's own database: its small store holds two or three of them at most. */
const place = (build: number, event: string) => `photo/${build}/${event}`;

/** A picture made small enough to be kept, as a data address; an error in words where it is none. */
export async function shrunk(file: File): Promise<string> {
  if (file.size > 40 * 1024 * 1024) throw new Error(`${file.name} is too large for a picture. Choose one below 40 MB.`);
  const bitmap = await createImageBitmap(file).catch(() => null);
  if (!bitmap) throw new Error(`${file.name} is not a picture that can be read here. Choose a JPEG, PNG or WebP.`);
  const share = Math.min(1, EDGE / Math.max(bitmap.width, bitmap.height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.max(1, Math.round(bitmap.width * share));
  canvas.height = Math.max(1, Math.round(bitmap.height * share));
  canvas.getContext("2d")?.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
  bitmap.close();
  const address = canvas.toDataURL("image/jpeg", 0.82);
  if (address.length * 0.75 > MOST) throw new Error(`${file.name} stays too large. Choose a smaller picture.`);
  return address;
}

/**
 * Keeps the picture of an event until it is sent.
 *
 * @throws Error where the browser has no room for it, in words.
 */
export async function holdPhoto(build: number, event: string, address: string): Promise<void> {
  try {
    await set(place(build, event), address);
  } catch {
    throw new Error("This browser has no room for the picture. Free some, or write the note without it.");
  }
}

/** Where the picture of an event is shown from: here while it waits, else from the server. */
export async function photoOf(build: number, event: string): Promise<string> {
  const held = await get<string>(place(build, event)).catch(() => undefined);
  return held ?? `/api/v1/builds/${build}/photos/${event}`;
}

/** Sends what waits; what the server will never take is let go. */
export async function sendPhotos(build: number): Promise<void> {
  const held = await keys<string>().catch(() => []);
  for (const key of held.filter((known) => known.startsWith(place(build, "")))) {
    const address = (await get<string>(key)) ?? "";
    const bytes = Uint8Array.from(atob(address.slice(address.indexOf(",") + 1)), (letter) => letter.charCodeAt(0));
    const response = await fetch(`/api/v1/builds/${build}/photos/${key.slice(place(build, "").length)}`, {
      method: "PUT",
      body: bytes,
      headers: { "content-type": "application/octet-stream" },
    });
    if (!response.ok && ![404, 413, 422].includes(response.status)) {
      const said = (await response.json().catch(() => null)) as Problem | null;
      throw new Error(said ? problemOf(new ApiProblem(said)).detail : `The server answered ${response.status}.`);
    }
    await del(key);
  }
}
