import type { VehicleKind } from "../../api/client";

/** A place where light can go, on a canvas of 560 by 300. */
export interface Place {
  name: string;
  x: number;
  y: number;
  /** The path that a strip takes there. */
  along?: string;
}

/** One drawing of a vehicle. */
export interface View {
  /** What the drawing shows. */
  title: string;
  /** Main lines, as SVG paths. */
  body: string;
  /** Finer lines. */
  detail: string;
  /** Where the battery sits. */
  pack: { x: number; y: number };
  places: Place[];
}

/** A vehicle from where its places are seen best, and from above where left and right would hide each other. */
export interface Outline extends View {
  above?: View;
}

const wheel = (x: number, y: number, r: number) => `M${x - r} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`;
const at = (name: string, x: number, y: number, along?: string): Place => ({ name, x, y, along });

const trike: Outline = {
  title: "Trike, right side",
  body: `${wheel(146, 214, 58)}${wheel(436, 214, 58)}M70 78H246L232 160H84ZM146 214H276L384 128M276 214L252 122M256 138L386 118M380 100L436 214M380 100L372 82L336 88`,
  detail: `${wheel(276, 214, 15)}M232 120Q254 108 282 116M146 160V214M76 112H240M104 78V54H118V78M122 78V46H134V78M140 78L146 50L158 53L154 78M166 78V58H178V78M70 78L62 160M84 160L76 192`,
  pack: { x: 318, y: 178 },
  places: [
    at("handlebar", 384, 96),
    at("basket rear", 70, 118),
    at("basket rim", 160, 78, "M70 78H246"),
    at("frame", 318, 134, "M256 138L386 118"),
    at("front wheel", 436, 214),
    at("rear wheel", 146, 214),
  ],
};

const deck: Outline = {
  title: "Deck, left side",
  body: `M52 128Q78 158 112 160H448Q482 158 508 128${wheel(142, 206, 26)}${wheel(418, 206, 26)}M120 160L142 206M164 160L142 206M396 160L418 206M440 160L418 206`,
  detail: `${wheel(142, 206, 9)}${wheel(418, 206, 9)}M112 168H448M60 124L86 120M500 124L474 120`,
  pack: { x: 280, y: 182 },
  places: [
    at("nose", 500, 134),
    at("tail", 60, 134),
    at("left rail", 230, 162, "M118 162H276"),
    at("right rail", 340, 162, "M284 162H442"),
    at("front truck", 418, 184),
    at("rear truck", 142, 184),
  ],
};

deck.above = {
  title: "Deck, from above; the nose points right",
  body: "M112 96H448Q508 96 524 150Q508 204 448 204H112Q52 204 36 150Q52 96 112 96Z",
  detail: "M128 78H160V96M128 222H160V204M400 78H432V96M400 222H432V204M144 112V188M416 112V188M112 104H448M112 196H448",
  pack: { x: 280, y: 150 },
  places: [
    at("nose", 508, 150),
    at("tail", 52, 150),
    at("left rail", 280, 100, "M112 100H448"),
    at("right rail", 280, 200, "M112 200H448"),
    at("front truck", 416, 150),
    at("rear truck", 144, 150),
  ],
};

const chair: Outline = {
  title: "Power chair, right side",
  body: `${wheel(222, 218, 56)}${wheel(374, 244, 30)}M150 70L176 176H320L334 232M176 176L186 206M150 70Q144 56 156 52M190 128H300M320 176L372 244`,
  detail: `${wheel(222, 218, 16)}${wheel(374, 244, 8)}M292 128V112Q292 104 302 104M334 232L420 238M160 82Q176 130 188 170M134 176V236L150 254M196 176V196H310V176`,
  pack: { x: 262, y: 196 },
  places: [
    at("frame left", 250, 176, "M176 176H320"),
    at("frame right", 310, 190, "M196 192H326"),
    at("back rest", 158, 96, "M150 70L172 160"),
    at("armrest", 290, 126, "M190 128H300"),
    at("foot rest", 410, 234),
    at("rear", 140, 206),
  ],
};

chair.above = {
  title: "Power chair, from above; it faces right",
  body: "M186 96H330Q340 96 340 106V194Q340 204 330 204H186ZM186 84V216M196 62H306V80H196ZM196 220H306V238H196ZM340 118H424V142H340M340 158H424V182H340",
  detail: "M156 90Q142 150 156 210M160 90H186M160 210H186M372 60H412V76H372ZM372 224H412V240H372ZM236 96V204M286 96V204M300 84H338M300 216H338",
  pack: { x: 262, y: 150 },
  places: [
    at("frame left", 240, 92, "M186 92H330"),
    at("frame right", 240, 208, "M186 208H330"),
    at("back rest", 190, 150, "M186 88V212"),
    at("armrest", 320, 84, "M300 84H338"),
    at("foot rest", 412, 150),
    at("rear", 140, 150),
  ],
};

const rover: Outline = {
  title: "Rover, right side",
  body: `${wheel(150, 214, 46)}${wheel(410, 214, 46)}M84 178H196L228 108H340L380 172L476 184V206H458M362 214H198M102 206H84V178`,
  detail: `${wheel(150, 214, 16)}${wheel(410, 214, 16)}M240 118H282V168H216ZM294 118H332L362 168H294ZM288 108V56M278 56H298M228 100H340`,
  pack: { x: 280, y: 194 },
  places: [
    at("mast", 288, 52),
    at("front", 470, 182),
    at("rear", 88, 180),
    at("roof", 250, 104, "M228 106H340"),
    at("underbody", 330, 216, "M204 212H356"),
    at("cabin", 262, 150),
  ],
};

rover.above = {
  title: "Rover, from above; it drives right",
  body: "M84 108H476Q488 108 488 120V180Q488 192 476 192H84Q72 192 72 180V120Q72 108 84 108ZM104 72H196V104H104ZM104 196H196V228H104ZM364 72H456V104H364ZM364 196H456V228H364Z",
  detail: "M206 118H350V182H206ZM228 126H330V174H228ZM350 118L386 128V172L350 182M386 128H470M386 172H470M92 128H196M92 172H196",
  pack: { x: 146, y: 150 },
  places: [
    at("mast", 300, 150),
    at("front", 480, 150),
    at("rear", 80, 150),
    at("roof", 256, 150, "M206 118H350V182H206Z"),
    at("underbody", 420, 150),
    at("cabin", 362, 150),
  ],
};

const hexa = (index: number): [number, number] => {
  const angle = (Math.PI / 3) * index + Math.PI / 6;
  return [280 + 150 * Math.cos(angle), 150 + 104 * Math.sin(angle)];
};
const arms = [0, 1, 2, 3, 4, 5].map(hexa);
const drone: Outline = {
  title: "Hexacopter, from above; the nose points right",
  body: `${wheel(280, 150, 40)}${arms.map(([x, y]) => `M280 150L${x.toFixed(0)} ${y.toFixed(0)}`).join("")}`,
  detail: `${arms.map(([x, y]) => wheel(x, y, 44)).join("")}M306 132L330 150L306 168`,
  pack: { x: 280, y: 150 },
  places: [
    at("arms", 345, 124, arms.map(([x, y]) => `M280 150L${x.toFixed(0)} ${y.toFixed(0)}`).join("")),
    at("front", 322, 150),
    at("rear", 238, 150),
    at("left arm", 280, 50),
    at("right arm", 280, 250),
    at("belly", 280, 176),
  ],
};

const van: Outline = {
  title: "Van, left side",
  body: `M60 222V86Q60 62 86 62H398Q420 62 432 82L470 140L512 154Q524 158 524 172V222H476M388 222H192M104 222H60${wheel(148, 222, 44)}${wheel(432, 222, 44)}`,
  detail: `${wheel(148, 222, 16)}${wheel(432, 222, 16)}M410 92H396V140H452ZM236 96H336V160H236ZM236 106H336M286 96V160M92 96H196V150H92ZM60 186H372V74M520 180H504`,
  pack: { x: 236, y: 196 },
  places: [
    at("inside", 262, 138, "M96 152H392"),
    at("outside left", 210, 70, "M86 64H296"),
    at("outside right", 330, 66, "M306 64H400"),
    at("front", 516, 178),
    at("rear", 64, 150),
    at("step", 350, 228),
  ],
};

van.above = {
  title: "Van, from above; it drives right",
  body: "M60 92Q60 80 72 80H452Q512 84 524 110V190Q512 216 452 220H72Q60 220 60 208Z",
  detail: "M396 86V214M396 96L452 88M396 204L452 212M372 84V216M60 150H48M232 108H330V192H232ZM92 104H200V196H92ZM448 96V204Q462 150 448 96",
  pack: { x: 146, y: 186 },
  places: [
    at("inside", 280, 150, "M92 150H372"),
    at("outside left", 210, 80, "M72 80H396"),
    at("outside right", 330, 220, "M72 220H396"),
    at("front", 518, 150),
    at("rear", 64, 150),
    at("step", 384, 220),
  ],
};

const other: Outline = {
  title: "The vehicle, from the side",
  body: "M80 210V120Q80 96 104 96H456Q480 96 480 120V210Z",
  detail: "M80 150H480M180 96V210M380 96V210",
  pack: { x: 280, y: 186 },
  places: [at("front", 474, 120), at("rear", 86, 120), at("left", 180, 104), at("right", 380, 104), at("inside", 280, 128), at("top", 280, 96, "M104 96H456")],
};

export const OUTLINES: Record<VehicleKind, Outline> = {
  bicycle: trike,
  skateboard: deck,
  wheelchair: chair,
  rc_model: rover,
  drone,
  rv: van,
  other,
};

export const VEHICLES: readonly (readonly [VehicleKind, string])[] = [
  ["bicycle", "Bicycle or trike"],
  ["skateboard", "Skateboard"],
  ["wheelchair", "Power wheelchair"],
  ["rc_model", "RC model"],
  ["drone", "Drone"],
  ["rv", "RV or van"],
  ["other", "Something else"],
];

/** Where a light is drawn: at the named place, else by the words in it, else along the top in its order. */
export function spot(outline: View, place: string, index: number): Pick<Place, "x" | "y" | "along"> {
  const words = place.toLowerCase();
  const named =
    outline.places.find((known) => known.name === words) ??
    outline.places.find((known) => words !== "" && (known.name.includes(words) || words.includes(known.name)));
  return named ?? { x: 120 + ((index * 90) % 360), y: 30 };
}
