import { answered, api } from "./client";
import { arrayOf, unpackFrame } from "./binaryFrame";
import { fetched } from "./preview";
import type { components } from "./schema";

export type Decoration = components["schemas"]["DecorationPart"];
export type Stroke = components["schemas"]["BrushMark"];
export type DecorationFile = components["schemas"]["DecorationFile"];
export type Snap = components["schemas"]["SnapDraft"]["to"];
export type Triple = readonly [number, number, number];

/** Facts in front of a placement. All places are the model's own, in mm; handles are the corners of the box from the lower
 * left one on, counter-clockwise, and the middle of its upper side. */
export type PlacementHead = components["schemas"]["PlacementHead"];

/** Where a decoration would lie: faces of the skin with their places in its box and how much they are stretched. */
export interface Placement {
  head: PlacementHead;
  corners: Float32Array;
  shares: Float32Array;
  stretch: Float32Array;
}

export async function fetchPlacement(pieceId: string, decoration: Decoration, mostCopies: number, quick: boolean): Promise<Placement> {
  const frame = unpackFrame<PlacementHead>(
    await fetched(`/api/pieces/${pieceId}/placement`, { decoration, most_copies: mostCopies, quick }),
  );
  return {
    head: frame.head,
    corners: arrayOf(frame, "corners", Float32Array).values,
    shares: arrayOf(frame, "shares", Float32Array).values,
    stretch: arrayOf(frame, "stretch", Float32Array).values,
  };
}

export async function fetchSnap(pieceId: string, at: Triple, up: Triple, to: Snap): Promise<Triple> {
  const params = { path: { piece_id: pieceId } };
  const body = { at: [...at] as [number, number, number], up: [...up] as [number, number, number], to };
  return (await answered<{ at: Triple }>(api.POST("/api/pieces/{piece_id}/snap", { params, body }))).at;
}

/** Take a picture or drawing in, to be laid on models. */
export async function addDecorationFile(file: File): Promise<DecorationFile> {
  const body = new FormData();
  body.append("file", file, file.name);
  return answered(api.POST("/api/decoration-files", { body: body as never, bodySerializer: (form) => form as never }));
}

/** A picture of what is laid: white, and see-through where nothing stands out. */
export function artUrl({ kind, blob }: Pick<Decoration["art"], "kind" | "blob">): string {
  return `/api/decoration-art/${kind}/${blob}.png`;
}
