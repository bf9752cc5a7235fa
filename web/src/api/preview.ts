import { NO_ANSWER, Refused, sentenceIn } from "./client";
import { arrayOf, unpackFrame, type Frame } from "./frame";

/** Facts in front of a plan's arrays, as `PlanHead` in `api/messages.py`. */
export interface PlanHead {
  size_mm: [number, number, number];
  pitch_mm: number;
  backing_mm: number;
  relief_mm: number;
  full_px: [number, number];
}

/** A solid for looking at: vertices are split along creases. */
export interface ShadedSolid {
  positions: Float32Array;
  normals: Int8Array;
  faces: Uint32Array;
}

/** Heights in mm above the backing and tones 0..65535, top row first; NaN where there is no material. */
export interface HeightGrid {
  rows: number;
  columns: number;
  heights: Float32Array;
  tones: Uint16Array;
}

/** The piece from above. */
export interface Plan {
  head: PlanHead;
  grid: HeightGrid;
}

export type MergePatch = Record<string, unknown>;

export async function fetchPlan(pieceId: string, change: MergePatch, longestPx: number): Promise<Plan> {
  const buffer = await fetched(`/api/pieces/${pieceId}/plan`, { change, longest_px: longestPx });
  const frame = unpackFrame<PlanHead>(buffer);
  const tones = arrayOf(frame, "tones", Uint16Array);
  const [rows = 0, columns = 0] = tones.shape;
  return {
    head: frame.head,
    grid: { rows, columns, heights: arrayOf(frame, "heights", Float32Array).values, tones: tones.values },
  };
}

export async function fetchModel(pieceId: string, change: MergePatch, longestPx: number): Promise<ShadedSolid> {
  return solidIn(unpackFrame(await fetched(`/api/pieces/${pieceId}/model`, { change, longest_px: longestPx })));
}

export async function fetchBuiltSolid(jobId: string): Promise<ShadedSolid> {
  return solidIn(unpackFrame(await fetched(`/api/jobs/${jobId}/model`)));
}

function solidIn(frame: Frame<unknown>): ShadedSolid {
  return {
    positions: arrayOf(frame, "positions", Float32Array).values,
    normals: arrayOf(frame, "normals", Int8Array).values,
    faces: arrayOf(frame, "faces", Uint32Array).values,
  };
}

async function fetched(url: string, body?: unknown): Promise<ArrayBuffer> {
  const post = { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) };
  let response: Response;
  try {
    response = await fetch(url, body === undefined ? undefined : post);
  } catch {
    throw new Refused(NO_ANSWER, 0);
  }
  if (!response.ok) throw new Refused(sentenceIn(await response.json().catch(() => null)), response.status);
  return response.arrayBuffer();
}
