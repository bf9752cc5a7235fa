import { useQuery } from "@tanstack/react-query";
import { answered, api, type AnyDocument } from "./client";
import type { components } from "./schema";

export type OpKind = components["schemas"]["OpKind"];
export type Tool = NonNullable<OpKind["tool"]>;
export type ContentBox = components["schemas"]["ContentBox"];
export type PictureFile = components["schemas"]["PictureFile"];

/** A picture op in a document; what else it holds, its kind says. */
export interface PictureOp {
  kind: string;
  id: string;
  on: boolean;
  [parameter: string]: unknown;
}

/** The ops of a piece. */
export function opsOf(document: AnyDocument): readonly PictureOp[] {
  return ("ops" in document ? document.ops : []) as unknown as readonly PictureOp[];
}

const NONE: readonly OpKind[] = [];

/** The kinds of ops that the server knows. */
export function useOpKinds(): readonly OpKind[] {
  const kinds = useQuery({
    queryKey: ["ops"],
    queryFn: () => answered<OpKind[]>(api.GET("/api/ops")),
    staleTime: Infinity,
  });
  return kinds.data ?? NONE;
}

/** Keep a further picture file. */
export function addPicture(file: File): Promise<PictureFile> {
  const body = new FormData();
  body.append("picture", file, file.name);
  return answered(api.POST("/api/pictures", { body: body as never, bodySerializer: (form) => form as never }));
}

/** The box around what the picture shows after the op `upto`. */
export function findContent(pieceId: string, upto: string): Promise<ContentBox> {
  return answered(
    api.POST("/api/pieces/{piece_id}/content-box", {
      params: { path: { piece_id: pieceId } },
      body: { change: {}, longest_px: 1024, upto },
    }),
  );
}

/** Tones along a curve, at even steps from black to white. */
export function fetchCurve(points: readonly (readonly [number, number])[]): Promise<number[]> {
  return answered(api.POST("/api/ops/curve", { body: points as [number, number][] }));
}

/** The tones that a reduction finds in what comes into it. */
export function fetchTones(pieceId: string, opId: string, parameters: object): Promise<number[]> {
  return answered(
    api.POST("/api/pieces/{piece_id}/tones/{op_id}", {
      params: { path: { piece_id: pieceId, op_id: opId } },
      body: parameters as { count: number; spread: "found" | "even" },
    }),
  );
}

/** The id of the last op, after which the picture is prepared; "" where there is none. */
export function preparedId(document: AnyDocument): string {
  return opsOf(document).at(-1)?.id ?? "";
}
