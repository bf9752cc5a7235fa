import { create } from "zustand";
import type { Finding } from "../api/client";
import type { MapKind, MergePatch, Plan, ShadedSolid } from "../api/preview";
import type { GlowLook } from "../views/glow";
import type { Look } from "../stations/picture/lookedAt";
import type { Unit } from "../ui/units";

/** How the sheet of a lithophane is shown on the Plan. */
export type SheetLook = "lit" | "wanted" | "straight" | "difference" | "thickness";

export const STATIONS = ["picture", "height", "body", "proof", "deliver"] as const;
export type Station = (typeof STATIONS)[number];

/** Millimetres from the lower left corner of the piece. */
export interface Spot {
  x: number;
  y: number;
}

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
}

export interface Light {
  /** Direction that the light comes from, 0 right, 90 top. */
  fromDeg: number;
  /** Height over the surface, 90 straight above. */
  aboveDeg: number;
}

interface BenchState {
  unit: Unit;
  station: Station;
  cursor: Spot | null;
  line: Line | null;
  light: Light;
  wire: boolean;
  /** The measure that colours the model at Proof. */
  mapKind: MapKind | null;
  /** How far the section plane leans from the upright, and how high its line is. */
  tiltDeg: number;
  liftMm: number;
  /** What is shown beside today's model: a version, or the mesh before it was made light. */
  beside: { version: number | "before"; name: string } | null;
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
  /** How a lithophane lets light through, and the light it is in; null for other pieces. */
  glow: GlowLook | null;
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
  plan: Plan | null;
  /** Whether the plan shows what the outlines come from, which is not laid out as the solid is. */
  atSource: boolean;
  /** Size of the last plan of the finished picture; while ops that frame it are worked on, the plan's may differ. */
  finishedMm: readonly [number, number, number] | null;
  /** Whether a newer plan is on its way. */
  planAwaited: boolean;
  /** The solid as previewed; it follows the plan. */
  model: ShadedSolid | null;
  /** The solid that was last drawn on the stage. */
  drawn: ShadedSolid | null;
  /** How long the last drawing of the model took. */
  frameMs: number;
  /** What is known before the build. */
  findings: readonly Finding[];
  /** Why what is shown cannot be made. */
  refusal: string | null;
  /** Why the last edit was not kept; it stays to be read until the next one. */
  editRefusal: string | null;
  set: (part: Partial<Omit<BenchState, "set">>) => void;
}

const SAME_MM = 0.5;
const UNIT_KEY = "nebrel-unit";

/** What the bench shows and points at; what the piece is lives on the server. */
export const useBenchStore = create<BenchState>()((set) => ({
  unit: rememberedUnit(),
  station: "height",
  cursor: null,
  line: null,
  light: { fromDeg: 140, aboveDeg: 24 },
  wire: false,
  mapKind: null,
  tiltDeg: 0,
  liftMm: 0,
  beside: null,
  eye: null,
  measuring: false,
  picked: [],
  opId: null,
  look: "end",
  brush: { sizeMm: 4, hardness: 0.8, inside: true },
  divider: null,
  thinShown: false,
  glow: null,
  lampOn: true,
  sheetLook: "lit",
  sheetBeside: null,
  gridMm: 0,
  draft: null,
  revision: null,
  pending: null,
  plan: null,
  atSource: false,
  finishedMm: null,
  planAwaited: false,
  model: null,
  drawn: null,
  frameMs: 0,
  findings: [],
  refusal: null,
  editRefusal: null,
  set: (part) => {
    if (part.unit) globalThis.localStorage?.setItem(UNIT_KEY, part.unit);
    set(part);
  },
}));

/** Whether the plan shows the very frame that the model has, so that places on them are the same; not once it is bent. */
export function isSameAsModel(state: Pick<BenchState, "plan" | "finishedMm" | "atSource" | "glow">): boolean {
  return state.glow === null && isSameFrame(state);
}

/** Whether the plan shows the very frame that the section has, so that places on them are the same. */
export function isSameFrame({ plan, finishedMm, atSource }: Pick<BenchState, "plan" | "finishedMm" | "atSource">): boolean {
  if (atSource) return false;
  if (!plan || !finishedMm) return true;
  const [width, depth] = plan.head.size_mm;
  return Math.abs(width - finishedMm[0]) + Math.abs(depth - finishedMm[1]) < SAME_MM;
}

function rememberedUnit(): Unit {
  return globalThis.localStorage?.getItem(UNIT_KEY) === "in" ? "in" : "mm";
}
