import { NO_ANSWER, PAGE, Refused, sentenceIn } from "./client";
import type { components } from "./schema";
import { arrayOf, unpackFrame, type Frame } from "./binaryFrame";

/** Facts in front of a plan's arrays. */
export type PlanHead = components["schemas"]["PlanHead"];
type SolidHead = components["schemas"]["SolidHead"];

/** A solid for looking at: vertices are split along creases. */
export interface ShadedSolid {
  positions: Float32Array;
  normals: Int8Array;
  faces: Uint32Array;
  /** Whether it stands, and is looked at from in front and not from above. */
  standing: boolean;
  /** What was taken off from a model's own coordinates, mm. */
  low: readonly [number, number, number];
  /** Red, green, blue and opacity of every vertex, where it has some. */
  colours?: Uint8Array;
  /** What light passes, where it is a lithophane. */
  sheet?: SheetOnSolid;
}

/** Where a solid's vertices lie on its unrolled sheet, and how much material light passes there. */
export interface SheetOnSolid {
  sizeMm: readonly [number, number];
  around: boolean;
  /** Shares of the sheet's width and height from its lower left corner; 1 facing the eye, -1 the lamp, 0 beside it. */
  places: Float32Array;
  through: Sheet;
  /** Red, green and blue that colour filters give to white light there, sRGB; where it has filters. */
  lit?: Uint8Array;
}

/** Millimetres of material, top row first. */
export interface Sheet {
  rows: number;
  columns: number;
  mm: Float32Array;
}

/** Heights in mm above the backing and tones 0..65535, top row first; NaN where there is no material. */
export interface HeightGrid {
  rows: number;
  columns: number;
  heights: Float32Array;
  tones: Uint16Array;
  /** On the sheet of a lithophane, where heights are thicknesses: 1 where the picture is, 0 on the border. */
  window?: Uint8Array;
  /** There, millimetres of material: heights are those of a wall in which light does not spread, and that looks the same. */
  walls?: Float32Array;
  /** Red, green and blue that colour filters give to white light, and those that are wanted, sRGB; where it has filters. */
  lit?: Uint8Array;
  wanted?: Uint8Array;
}

/** The piece from above. */
export interface Plan {
  head: PlanHead;
  grid: HeightGrid;
}

export type MergePatch = Record<string, unknown>;

/** Pixels of the longer side while something is dragged, and at rest; the section cuts the model that is shown. */
export const PLAN_DRAGGING_PX = 512;
export const MODEL_DRAGGING_PX = 320;
export const AT_REST_PX = 720;

/** The piece from above; `upto` names the picture op after which to look, "" the source, null the finished picture. */
export async function fetchPlan(
  pieceId: string,
  change: MergePatch,
  longestPx: number,
  upto: string | null = null,
  signal?: AbortSignal,
): Promise<Plan> {
  const buffer = await fetched(`/api/pieces/${pieceId}/plan`, { change, longest_px: longestPx, upto }, signal);
  const frame = unpackFrame<PlanHead>(buffer);
  const tones = arrayOf(frame, "tones", Uint16Array);
  const [rows = 0, columns = 0] = tones.shape;
  return {
    head: frame.head,
    grid: {
      rows,
      columns,
      heights: arrayOf(frame, "heights", Float32Array).values,
      tones: tones.values,
      window: bytesIn(frame, "window"),
      walls: frame.arrays.has("walls") ? arrayOf(frame, "walls", Float32Array).values : undefined,
      lit: bytesIn(frame, "lit"),
      wanted: bytesIn(frame, "wanted"),
    },
  };
}

export async function fetchModel(pieceId: string, change: MergePatch, longestPx: number, signal?: AbortSignal): Promise<ShadedSolid> {
  return solidIn(unpackFrame(await fetched(`/api/pieces/${pieceId}/model`, { change, longest_px: longestPx }, signal)));
}

/** A small gray picture with its coverage. */
export interface Thumb {
  rows: number;
  columns: number;
  gray: Uint8Array;
  cover: Uint8Array;
}

export interface Strip {
  /** By op id; "" is the source. */
  thumbs: Map<string, Thumb>;
  failed: Record<string, string>;
}

/** Small pictures of the source and of every op's result. */
export async function fetchStrip(pieceId: string, change: MergePatch, signal?: AbortSignal): Promise<Strip> {
  const frame = unpackFrame<components["schemas"]["StripHead"]>(
    await fetched(`/api/pieces/${pieceId}/strip`, { change }, signal),
  );
  const thumbs = new Map<string, Thumb>();
  frame.head.ids.forEach((id, at) => {
    if (!frame.arrays.has(`gray${at}`)) return;
    const gray = arrayOf(frame, `gray${at}`, Uint8Array);
    const [rows = 0, columns = 0] = gray.shape;
    thumbs.set(id, { rows, columns, gray: gray.values, cover: arrayOf(frame, `cover${at}`, Uint8Array).values });
  });
  return { thumbs, failed: frame.head.failed };
}

/** Places thinner than the maker's line: 0 nowhere, else 1 hair-thin to 255 nearly wide enough. */
export interface ThinMap {
  rows: number;
  columns: number;
  strokes: Uint8Array;
  gaps: Uint8Array;
}

export async function fetchThinMap(pieceId: string, change: MergePatch, signal?: AbortSignal): Promise<ThinMap> {
  const frame = unpackFrame(await fetched(`/api/pieces/${pieceId}/thin-map`, { change, longest_px: 1024 }, signal));
  const strokes = arrayOf(frame, "strokes", Uint8Array);
  const [rows = 0, columns = 0] = strokes.shape;
  return { rows, columns, strokes: strokes.values, gaps: arrayOf(frame, "gaps", Uint8Array).values };
}

export type MapKind = components["schemas"]["MapDraft"]["kind"];

/** Facts in front of a surface map: among them the least that the maker can make, where that is known. */
export type MapHead = components["schemas"]["MapHead"];

/** A solid with a measure for every vertex, NaN where there is none. */
export interface SurfaceMap {
  head: MapHead;
  solid: ShadedSolid;
  values: Float32Array;
}

/** A measure over the preview, or over the solid that a job built. */
export async function fetchMap(pieceId: string, kind: MapKind, builtBy: string | undefined, signal?: AbortSignal): Promise<SurfaceMap> {
  const buffer = builtBy
    ? await fetched(`/api/jobs/${builtBy}/map?kind=${kind}`, undefined, signal)
    : await fetched(`/api/pieces/${pieceId}/map`, { kind }, signal);
  const frame = unpackFrame<MapHead>(buffer);
  return { head: frame.head, solid: solidIn(frame), values: arrayOf(frame, "values", Float32Array).values };
}

/** What is shown of a simulated stock: it alone, or coloured by what is left or cannot be reached. */
export type CarvingShown = "stock" | "left" | "reach";

/** The simulated stock at a step of a carving job; with a measure for every vertex where one is shown. */
export async function fetchStock(jobId: string, step: number, shown: CarvingShown, signal?: AbortSignal): Promise<{ solid: ShadedSolid; map: SurfaceMap | null }> {
  const frame = unpackFrame<MapHead>(await fetched(`/api/jobs/${jobId}/carving/stock?step=${step}&shown=${shown}`, undefined, signal));
  const solid = solidIn(frame);
  if (shown === "stock") return { solid, map: null };
  return { solid, map: { head: frame.head, solid, values: arrayOf(frame, "values", Float32Array).values } };
}

export async function fetchBuiltSolid(jobId: string, signal?: AbortSignal): Promise<ShadedSolid> {
  return solidIn(unpackFrame(await fetched(`/api/jobs/${jobId}/model`, undefined, signal)));
}

/** What stands beside today's model: a version, or the mesh before it was made light. */
export async function fetchBeside(pieceId: string, version: number | "before", signal?: AbortSignal): Promise<ShadedSolid> {
  const url = version === "before" ? `/api/pieces/${pieceId}/original/model` : `/api/versions/${version}/model`;
  return solidIn(unpackFrame(await fetched(url, undefined, signal)));
}

function solidIn(frame: Frame<SolidHead | MapHead>): ShadedSolid {
  const { head } = frame;
  return {
    positions: arrayOf(frame, "positions", Float32Array).values,
    normals: arrayOf(frame, "normals", Int8Array).values,
    faces: arrayOf(frame, "faces", Uint32Array).values,
    standing: head.standing,
    low: "low_mm" in head ? head.low_mm : [0, 0, 0],
    colours: bytesIn(frame, "colours"),
    sheet: "sheet_mm" in head && head.sheet_mm ? sheetOnSolid(frame, head.sheet_mm, head.around) : undefined,
  };
}

function sheetOnSolid(frame: Frame<unknown>, sizeMm: readonly [number, number], around: boolean): SheetOnSolid {
  const places = arrayOf(frame, "places", Float32Array).values;
  return { sizeMm, around, places, through: sheetIn(frame, "through"), lit: bytesIn(frame, "lit") };
}

function bytesIn(frame: Frame<unknown>, name: string): Uint8Array | undefined {
  return frame.arrays.has(name) ? arrayOf(frame, name, Uint8Array).values : undefined;
}

function sheetIn(frame: Frame<unknown>, name: string): Sheet {
  const { shape, values } = arrayOf(frame, name, Float32Array);
  const [rows = 0, columns = 0] = shape;
  return { rows, columns, mm: values };
}

/** One cell of a contact sheet, with its thicknesses. */
export type Variation = components["schemas"]["Variation"] & { through: Sheet };

/** Three ranges of thickness by three strengths of the light rule. */
export async function fetchVariations(pieceId: string, signal?: AbortSignal): Promise<Variation[]> {
  const frame = unpackFrame<components["schemas"]["VariationsHead"]>(await fetched(`/api/pieces/${pieceId}/variations`, { change: {} }, signal));
  return frame.head.cells.map((cell, at) => ({ ...cell, through: sheetIn(frame, `through${at}`) }));
}

export async function fetched(url: string, body?: unknown, signal?: AbortSignal): Promise<ArrayBuffer> {
  const post = { method: "POST", headers: { ...PAGE, "Content-Type": "application/json" }, body: JSON.stringify(body) };
  let response: Response;
  try {
    response = await fetch(url, { ...(body === undefined ? { headers: PAGE } : post), signal });
  } catch (fault) {
    if (signal?.aborted) throw fault;
    throw new Refused(NO_ANSWER, 0);
  }
  if (!response.ok) throw new Refused(sentenceIn(await response.json().catch(() => null)), response.status);
  return response.arrayBuffer();
}
