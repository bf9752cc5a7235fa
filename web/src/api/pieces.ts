import { useMutation, useQuery, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { answered, api, Refused, type AnyDocument, type JobView, type NewSheet, type PieceCard, type PieceView } from "./client";
import { withJob } from "./jobList";
import { mergedLists } from "./mergeLists";
import type { MergePatch } from "./preview";

export const keys = {
  shelf: ["pieces"] as const,
  piece: (id: string) => ["piece", id] as const,
  jobs: (pieceId: string) => ["jobs", pieceId] as const,
};

export function useShelf() {
  return useQuery({ queryKey: keys.shelf, queryFn: () => answered<PieceCard[]>(api.GET("/api/pieces")) });
}

export function usePiece(id: string) {
  return useQuery({ queryKey: keys.piece(id), queryFn: () => getPiece(id) });
}

export function useJobs(pieceId: string) {
  return useQuery({
    queryKey: keys.jobs(pieceId),
    queryFn: () => answered<JobView[]>(api.GET("/api/jobs", { params: { query: { piece_id: pieceId } } })),
  });
}

export async function startPiece(file: File): Promise<PieceView> {
  const body = new FormData();
  body.append("picture", file, file.name);
  return answered(api.POST("/api/pieces", { body: body as never, bodySerializer: (form) => form as never }));
}

/** Start a piece from a mesh; `unit` is what its numbers are, where the file does not say. */
export async function startModel(file: File, unit: string | null): Promise<PieceView> {
  const body = new FormData();
  body.append("model", file, file.name);
  if (unit) body.append("unit", unit);
  return answered(api.POST("/api/models", { body: body as never, bodySerializer: (form) => form as never }));
}

/** Start a piece from an SVG or DXF file; `unit` is what its numbers are, where the file does not say. */
export async function startDrawing(file: File, unit: string | null): Promise<PieceView> {
  const body = new FormData();
  body.append("drawing", file, file.name);
  if (unit) body.append("unit", unit);
  return answered(api.POST("/api/drawings", { body: body as never, bodySerializer: (form) => form as never }));
}

/** Put a piece from a file of its own on the shelf, with its versions. */
export async function openPieceFile(file: File): Promise<PieceView> {
  const body = new FormData();
  body.append("file", file, file.name);
  return answered(api.POST("/api/piece-files", { body: body as never, bodySerializer: (form) => form as never }));
}

/** Start a piece from a new sheet. */
export function startSheet(sheet: NewSheet): Promise<PieceView> {
  return answered(api.POST("/api/sheets", { body: sheet }));
}

/** Start a piece that is put together of others. */
export function startTogether(pieces: readonly string[]): Promise<PieceView> {
  return answered(api.POST("/api/assemblies", { body: { pieces: [...pieces] } }));
}

/** Start a mould of a piece, which it follows. */
export function startMould(pieceId: string): Promise<PieceView> {
  return answered(api.POST("/api/moulds", { body: { piece_id: pieceId } }));
}

/** Add a piece of the shelf to a whole, as a further part. */
export function useAddPart(id: string) {
  const client = useQueryClient();
  return useMutation({
    scope: { id: `edit-${id}` },
    mutationFn: (body: { base: number; piece_id: string }) =>
      added(client, id, body.base, (base) => answered<PieceView>(api.POST("/api/pieces/{piece_id}/parts", { params: { path: { piece_id: id } }, body: { ...body, base } }))),
    onSuccess: (piece) => takeIn(client, piece),
  });
}

/** Lay a picture that is kept here on the heights of a piece, as a relief of its own. */
export function useLayRelief(id: string) {
  const client = useQueryClient();
  return useMutation({
    scope: { id: `edit-${id}` },
    mutationFn: (body: { base: number; blob: string; name: string; motif: string | null }) =>
      added(client, id, body.base, (base) => answered<PieceView>(api.POST("/api/pieces/{piece_id}/reliefs", { params: { path: { piece_id: id } }, body: { ...body, base } }))),
    onSuccess: (piece) => takeIn(client, piece),
  });
}

/** Send what only adds to a piece: it comes on top of whatever the piece is by then, an edit that was on its way or another page's. */
async function added(client: QueryClient, id: string, base: number, send: (base: number) => Promise<PieceView>): Promise<PieceView> {
  const known = client.getQueryData<PieceView>(keys.piece(id))?.revision ?? base;
  try {
    return await send(known);
  } catch (refusal) {
    if (!(refusal instanceof Refused) || refusal.status !== 409) throw refusal;
    const { revision } = await getPiece(id);
    if (revision === known) throw refusal;
    return send(revision);
  }
}

/** What can be done with pieces of the shelf; every one of them is asked for by itself. */
export const onShelf = {
  copy: (id: string) => answered<PieceView>(api.POST("/api/pieces/{piece_id}/copy", { params: { path: { piece_id: id } } })),
  remove: (id: string) => answered<PieceView>(api.DELETE("/api/pieces/{piece_id}", { params: { path: { piece_id: id } } })),
  restore: (id: string) => answered<PieceView>(api.POST("/api/pieces/{piece_id}/restore", { params: { path: { piece_id: id } } })),
  build: (id: string) => answered<JobView>(api.POST("/api/pieces/{piece_id}/build", { params: { path: { piece_id: id } } })),
  tag: (id: string, tags: string[]) => answered<PieceView>(api.PUT("/api/pieces/{piece_id}/tags", { params: { path: { piece_id: id } }, body: { tags } })),
};

export interface Edit {
  label: string;
  change: MergePatch;
  /** What the piece was when the edit was made. */
  base: AnyDocument;
}

/**
 * Keep an edit. When another page was faster, the edit is laid on top of the newest state; lists, which a change
 * holds whole, are put together.
 */
export function useEdit(id: string) {
  const client = useQueryClient();
  return useMutation({
    scope: { id: `edit-${id}` },
    mutationFn: async (edit: Edit) => {
      const known = client.getQueryData<PieceView>(keys.piece(id)) ?? (await getPiece(id));
      try {
        return await sendEdit(known, edit);
      } catch (refusal) {
        if (!(refusal instanceof Refused) || refusal.status !== 409) throw refusal;
        return sendEdit(await getPiece(id), edit);
      }
    },
    onSuccess: (piece) => takeIn(client, piece),
  });
}

/** Step back or forward from the state that is shown; where another page was faster, only that one's press counts. */
export function useStep(id: string, way: "undo" | "redo") {
  const client = useQueryClient();
  return useMutation({
    scope: { id: `edit-${id}` },
    mutationFn: async () => {
      const { revision } = client.getQueryData<PieceView>(keys.piece(id)) ?? (await getPiece(id));
      const params = { path: { piece_id: id }, query: { base: revision } };
      try {
        return await answered<PieceView>(
          way === "undo"
            ? api.POST("/api/pieces/{piece_id}/undo", { params })
            : api.POST("/api/pieces/{piece_id}/redo", { params }),
        );
      } catch (refusal) {
        if (!(refusal instanceof Refused) || refusal.status !== 409) throw refusal;
        return getPiece(id);
      }
    },
    onSuccess: (piece) => takeIn(client, piece),
  });
}

/** Build a piece, once every change under way is kept. */
export function useBuild(id: string) {
  const client = useQueryClient();
  return useMutation({
    scope: { id: `edit-${id}` },
    mutationFn: () => answered<JobView>(api.POST("/api/pieces/{piece_id}/build", { params: { path: { piece_id: id } } })),
    onSuccess: (job) => takeInJob(client, job),
  });
}

/** Start long work of a piece once more that failed or was interrupted, as it was asked for. */
export function useAgain() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (job: JobView) => answered<JobView>(api.POST("/api/jobs/{job_id}/again", { params: { path: { job_id: job.id } } })),
    onSuccess: (job) => takeInJob(client, job),
  });
}

/** Write the prepared picture or the heights as a file. */
export function useExport(id: string, kind: "picture" | "heights") {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (format: "png" | "tiff") => {
      const order = { params: { path: { piece_id: id } }, body: { format } };
      return answered<JobView>(
        kind === "picture"
          ? api.POST("/api/pieces/{piece_id}/export-picture", order)
          : api.POST("/api/pieces/{piece_id}/export-heights", order),
      );
    },
    onSuccess: (job) => takeInJob(client, job),
  });
}

/** Film the finished solid while it turns once round. */
export function useFilm(id: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (order: { format: "mp4" | "webp" | "gif" | "png"; seconds: number }) =>
      answered<JobView>(api.POST("/api/pieces/{piece_id}/turntable", { params: { path: { piece_id: id } }, body: order })),
    onSuccess: (job) => takeInJob(client, job),
  });
}

export async function cancelJob(jobId: string): Promise<JobView> {
  return answered(api.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id: jobId } } }));
}

/** Show a job's newest state, and keep the newest jobs first. */
export function takeInJob(client: QueryClient, job: JobView): void {
  client.setQueryData<JobView[]>(keys.jobs(job.piece_id), (known) => known && withJob(known, job));
}

/** Show the newest state of a piece. */
export function takeIn(client: QueryClient, piece: PieceView): void {
  client.setQueryData(keys.piece(piece.id), piece);
  void client.invalidateQueries({ queryKey: keys.shelf });
}

/** Make a piece another thing of what it starts from. */
export function reshape({ id, revision }: PieceView, shape: string, label: string): Promise<PieceView> {
  return answered(api.POST("/api/pieces/{piece_id}/shape", { params: { path: { piece_id: id } }, body: { base: revision, label, shape } }));
}

function getPiece(id: string): Promise<PieceView> {
  return answered(api.GET("/api/pieces/{piece_id}", { params: { path: { piece_id: id } } }));
}

function sendEdit({ id, revision, document }: PieceView, { label, change, base }: Edit): Promise<PieceView> {
  return answered(
    api.POST("/api/pieces/{piece_id}/revisions", {
      params: { path: { piece_id: id } },
      body: { base: revision, label, change: mergedLists(base, change, document) },
    }),
  );
}
