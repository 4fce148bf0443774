import { expect, test } from "vitest";
import bicycles from "../../../core/model/data/drawings/bicycle.json";
import drones from "../../../core/model/data/drawings/drone.json";
import skateboards from "../../../core/model/data/drawings/skateboard.json";
import wheelchairs from "../../../core/model/data/drawings/wheelchair.json";
import { type View, apart } from "./outlines";

test("every place of a drawing can be pressed by itself, also what lies behind another", () => {
  const forms = [bicycles, drones, skateboards, wheelchairs].flatMap((kind) => Object.values(kind as unknown as Record<string, View[]>));
  expect(forms.length).toBeGreaterThan(5);
  for (const view of forms.flat()) {
    const places = apart(view.places);
    expect(places.map((place) => place.name)).toEqual(view.places.map((place) => place.name));
    for (const [index, one] of places.entries())
      for (const other of places.slice(index + 1))
        expect(Math.hypot(one.x - other.x, one.y - other.y), `${view.title}: ${one.name}, ${other.name}`).toBeGreaterThan(20);
  }
});
