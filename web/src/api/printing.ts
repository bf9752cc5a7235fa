import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api, type ColourBands, type JobView, type LaidWay, type LayerFix, type LayersView, type TurnWeights } from "./client";
import type { components } from "./schema";
import { arrayOf, unpackFrame, type Frame } from "./binaryFrame";
import { takeInJob } from "./pieces";
import { AT_REST_PX, fetched, MODEL_DRAGGING_PX } from "./preview";

export type LayerHead = components["schemas"]["LayerHead"];

/** Outlines one after the other, x and y in turn, mm over the plate, and where each begins. */
export interface Rings {
  points: Float32Array;
  starts: Uint32Array;
}

/** One layer from above. */
export interface Layer {
  head: LayerHead;
  outline: Rings;
  hangs: Rings;
  support: Rings;
  /** Places along walls: x and y in turn, and which way the material lies. */
  places: Float32Array;
  inward: Float32Array;
  /** Of each: mm to the other side, lines that fit, the share of one that stays hollow, and the number of its outline. */
  wide: Float32Array;
  lines: Uint8Array;
  rest: Float32Array;
  runs: Uint32Array;
}

/** Which layers are looked at: those of the finished solid, or of a preview. */
export interface Looked {
  pieceId: string;
  revision: number;
  finished: boolean;
}

/** What is known of the layers of a piece. */
export function useLayers({ pieceId, revision, finished }: Looked, enabled: boolean) {
  return useQuery({
    queryKey: ["layers", pieceId, revision, finished],
    queryFn: ({ signal }) =>
      answered<LayersView>(
        api.POST("/api/pieces/{piece_id}/layers", {
          params: { path: { piece_id: pieceId } },
          body: { change: {}, longest_px: AT_REST_PX, finished },
          signal,
        }),
      ),
    enabled,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  });
}

export async function fetchLayer({ pieceId, finished }: Looked, layer: number, signal?: AbortSignal): Promise<Layer> {
  const frame = unpackFrame<LayerHead>(await fetched(`/api/pieces/${pieceId}/layer`, { change: {}, longest_px: AT_REST_PX, finished, layer }, signal));
  return {
    head: frame.head,
    outline: ringsIn(frame, "outline"),
    hangs: ringsIn(frame, "hangs"),
    support: ringsIn(frame, "support"),
    places: arrayOf(frame, "places", Float32Array).values,
    inward: arrayOf(frame, "inward", Float32Array).values,
    wide: arrayOf(frame, "wide", Float32Array).values,
    lines: arrayOf(frame, "lines", Uint8Array).values,
    rest: arrayOf(frame, "rest", Float32Array).values,
    runs: arrayOf(frame, "runs", Uint32Array).values,
  };
}

function ringsIn(frame: Frame<unknown>, name: string): Rings {
  return { points: arrayOf(frame, name, Float32Array).values, starts: arrayOf(frame, `${name}_starts`, Uint32Array).values };
}

/** What would help a piece to print, each tried on a small preview. */
export function useLayerFixes({ pieceId, revision }: Looked, enabled: boolean) {
  return useQuery({
    queryKey: ["layer-fixes", pieceId, revision],
    queryFn: ({ signal }) =>
      answered<LayerFix[]>(
        api.POST("/api/pieces/{piece_id}/layers/fixes", {
          params: { path: { piece_id: pieceId } },
          body: { change: {}, longest_px: MODEL_DRAGGING_PX, finished: false },
          signal,
        }),
      ),
    enabled,
    staleTime: Infinity,
    retry: false,
  });
}

/** Ways to lay a piece, side by side, by some weights. */
export function useWays({ pieceId, revision }: Looked, weights: TurnWeights, enabled: boolean) {
  return useQuery({
    queryKey: ["ways", pieceId, revision, weights],
    queryFn: ({ signal }) =>
      answered<LaidWay[]>(
        api.POST("/api/pieces/{piece_id}/turns", {
          params: { path: { piece_id: pieceId } },
          body: { change: {}, longest_px: MODEL_DRAGGING_PX, finished: false, weights },
          signal,
        }),
      ),
    enabled,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  });
}

/** The address of a small picture of a piece with a side below. */
export function turnedPicture(pieceId: string, revision: number, [x, y, z]: readonly [number, number, number]): string {
  return `/api/pieces/${pieceId}/turned.png?x=${x}&y=${y}&z=${z}&revision=${revision}`;
}

/** Colours by layers that the heights of a piece suggest. */
export function useSuggestedBands(pieceId: string) {
  return useMutation({
    mutationFn: (colours: number) =>
      answered<ColourBands>(
        api.POST("/api/pieces/{piece_id}/bands/suggested", {
          params: { path: { piece_id: pieceId } },
          body: { change: {}, longest_px: AT_REST_PX, colours },
        }),
      ),
  });
}

export type PrinterStanding = components["schemas"]["PrinterStanding"];
export type PrintStanding = components["schemas"]["PrintStanding"];
export type PrintWord = "pause" | "resume" | "retry" | "cancel";

const PRINTER = ["printer"] as const;
const AT_WORK = ["printing", "waiting", "jammed", "paused"];
const LOOK_AGAIN_MS = 1_000;

/** What the printer does, looked at again and again while something is in its queue. */
export function usePrinter(enabled: boolean) {
  return useQuery({
    queryKey: PRINTER,
    queryFn: ({ signal }) => answered<PrinterStanding>(api.GET("/api/printer", { signal })),
    enabled,
    refetchInterval: ({ state }) => (state.data?.prints.some((each) => AT_WORK.includes(each.state)) ? LOOK_AGAIN_MS : false),
    retry: false,
  });
}

/** Send a file to the printer, and tell it to pause, go on, try again or leave off. */
export function usePrinting() {
  const client = useQueryClient();
  const onSuccess = () => client.invalidateQueries({ queryKey: PRINTER });
  const send = useMutation({
    mutationFn: (jobId: string) => answered<PrintStanding>(api.POST("/api/jobs/{job_id}/print", { params: { path: { job_id: jobId } } })),
    onSuccess,
  });
  const tell = useMutation({
    mutationFn: ({ id, word }: { id: string; word: PrintWord }) =>
      answered<PrintStanding>(api.POST("/api/printer/prints/{print_id}/{word}", { params: { path: { print_id: id, word } } })),
    onSuccess,
  });
  return { send, tell };
}

export type PlateOrder = components["schemas"]["PlateOrder"];

/** Build pieces and lay them on one bed. */
export function useLayPlate() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (order: PlateOrder) => answered<JobView>(api.POST("/api/plates", { body: order })),
    onSuccess: (job) => takeInJob(client, job),
  });
}
