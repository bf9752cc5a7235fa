import { create } from "zustand";
import type { Spot } from "../api/matrix";
import type { MapKind, MergePatch } from "../api/preview";
import type { Unit } from "./units";

/** How the sheet of a lithophane is shown on the Plan. */
export type SheetLook = "lit" | "wanted" | "straight" | "difference" | "thickness";

/** Where the Plan looks while an op is worked on: at what comes into it, what it leaves, or the finished picture. */
export type Look = "in" | "out" | "end";

export type { Spot };

/** Millimetres from the lower left corner of the back. */
export type Place = readonly [number, number, number];

export interface Eye {
  by: string;
  at: readonly [number, number, number];
  target: readonly [number, number, number];
}

export interface Line {
  start: Spot;
  end: Spot;
}

export interface Brush {
  sizeMm: number;
  hardness: number;
  /** For marks: whether they say what is inside. */
  inside: boolean;
  /** Whether strokes are straight, from where the brush was set down to where it is lifted. */
  straight: boolean;
}

export interface Light {
  /** Direction that the light comes from, 0 right, 90 top. */
  fromDeg: number;
  /** Height over the surface, 90 straight above. */
  aboveDeg: number;
}

/** A place of a layer, mm over the plate, and pixels to a mm. */
export interface CloseUp {
  x: number;
  y: number;
  scale: number;
}

interface BenchState {
  unit: Unit;
  /** The name of the station that is open. */
  station: string;
  cursor: Spot | null;
  line: Line | null;
  light: Light;
  wire: boolean;
  /** Whether the model turns by itself. */
  turning: boolean;
  /** The measure that colours the model at Proof. */
  mapKind: MapKind | null;
  /** How far the section plane leans from the upright, and how high its line is. */
  tiltDeg: number;
  liftMm: number;
  /** Whether the section shows the layers that it is printed in, which one, 1 the first, and where one looks closely. */
  byLayers: boolean;
  layer: number;
  closeUp: CloseUp | null;
  /** What is shown beside today's model: a version, the mesh before it was made light, or the piece without a step. */
  beside: { version?: number | "before"; without?: string; name: string } | null;
  /** Where the eye is, and which of the views beside each other moved it last. */
  eye: Eye | null;
  /** Whether a press on the model picks a place to measure from, and what was picked, in mm. */
  measuring: boolean;
  picked: readonly Place[];
  /** The picture op that is worked on, and where the Plan looks meanwhile. */
  opId: string | null;
  look: Look;
  brush: Brush;
  /** Where the divider between before and after stands, as a share of the plan's width; null for none. */
  divider: number | null;
  /** Whether the Plan marks what is too thin to be made. */
  thinShown: boolean;
  /** Height of the section in pixels, once it was chosen; and whether it is folded to its name. */
  sectionPx: number | null;
  sectionFolded: boolean;
  /** Whether the lamp behind it burns on the Model, what the Plan shows of it, and what stands beside that. */
  lampOn: boolean;
  sheetLook: SheetLook;
  sheetBeside: SheetLook | null;
  /** Millimetres between the lines of the plan's grid; 0 for none. */
  gridMm: number;
  /** An edit that is being dragged and not kept yet. */
  draft: MergePatch | null;
  /** The revision that the bench shows. */
  revision: number | null;
  /** The edit that is being kept by the server; the page takes it for kept until the new revision is here. */
  pending: { change: MergePatch; kept: boolean } | null;
  /** How long the last drawing of the model took. */
  frameMs: number;
  /** Why a job was not cancelled or begun. */
  refusal: string | null;
  /** Why the last edit was not kept; it stays to be read until the next one. */
  editRefusal: string | null;
  set: (part: Partial<Omit<BenchState, "set">>) => void;
}

const UNIT_KEY = "nebrel-unit";

/** What the bench shows and points at; what the piece is lives on the server. */
export const useBenchStore = create<BenchState>()((set) => ({
  unit: rememberedUnit(),
  station: "height",
  cursor: null,
  line: null,
  light: { fromDeg: 140, aboveDeg: 24 },
  wire: false,
  turning: false,
  mapKind: null,
  tiltDeg: 0,
  liftMm: 0,
  byLayers: false,
  layer: 1,
  closeUp: null,
  beside: null,
  eye: null,
  measuring: false,
  picked: [],
  opId: null,
  look: "end",
  brush: { sizeMm: 4, hardness: 0.8, inside: true, straight: false },
  divider: null,
  thinShown: false,
  sectionPx: null,
  sectionFolded: false,
  lampOn: true,
  sheetLook: "lit",
  sheetBeside: null,
  gridMm: 0,
  draft: null,
  revision: null,
  pending: null,
  frameMs: 0,
  refusal: null,
  editRefusal: null,
  set: (part) => {
    if (part.unit) globalThis.localStorage?.setItem(UNIT_KEY, part.unit);
    set(part);
  },
}));

/** What the hand did on one piece; the next one starts without it. */
const OF_ONE_PIECE = {
  refusal: null,
  editRefusal: null,
  line: null,
  tiltDeg: 0,
  liftMm: 0,
  mapKind: null,
  byLayers: false,
  layer: 1,
  closeUp: null,
  beside: null,
  eye: null,
  measuring: false,
  picked: [],
  cursor: null,
  draft: null,
  revision: null,
  pending: null,
  opId: null,
  look: "end" as const,
  divider: null,
  thinShown: false,
  sheetBeside: null,
};

export function forgetPiece(): void {
  useBenchStore.setState(OF_ONE_PIECE);
}

function rememberedUnit(): Unit {
  return globalThis.localStorage?.getItem(UNIT_KEY) === "in" ? "in" : "mm";
}
