// @vitest-environment happy-dom
import { askedOf, framed, freshServer, later, on } from "../testing/server";
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import { useConnection } from "../api/connection";
import { onPage } from "../testing/page";
import { useBenchStore } from "./benchStore";
import { usePreviewQueries } from "./usePreviewQueries";

const PLAN = "POST /api/pieces/p1/plan";
const MODEL = "POST /api/pieces/p1/model";
const FINDINGS = "POST /api/pieces/p1/findings";
const longest = (what: string) => (askedOf(what) as { longest_px: number }[]).map(({ longest_px }) => longest_px);

function planned(widthMm = 80): ArrayBuffer {
  const heights = { dtype: "float32", shape: [1, 1], values: Float32Array.from([1]) };
  const tones = { dtype: "uint16", shape: [1, 1], values: Uint16Array.from([9]) };
  return framed({ size_mm: [widthMm, 40, 4] }, { heights, tones });
}

function shaped(): ArrayBuffer {
  return framed({}, {
    positions: { dtype: "float32", shape: [3, 3], values: new Float32Array(9) },
    normals: { dtype: "int8", shape: [3, 3], values: new Int8Array(9) },
    faces: { dtype: "uint32", shape: [1, 3], values: Uint32Array.from([0, 1, 2]) },
  });
}

beforeEach(() => {
  freshServer();
  on(PLAN, () => ({ bytes: planned() }));
  on(MODEL, () => ({ bytes: shaped() }));
  on(FINDINGS, [{ severity: "note", what: "Sound." }]);
  useConnection.setState({ connected: true });
  useBenchStore.setState({ draft: null, frameMs: 0 });
});
afterEach(cleanup);

const shown = (revision: number | undefined, upto: string | null = null, pieceId = "p1") =>
  renderHook((props: { revision: number | undefined; upto: string | null; pieceId: string }) => usePreviewQueries(props.pieceId, props.revision, props.upto), {
    wrapper: onPage(),
    initialProps: { revision, upto, pieceId },
  });

test("nothing is asked for before the piece is known", () => {
  shown(undefined);
  expect(askedOf(PLAN)).toEqual([]);
});

test("the plan leads, and model and findings follow it", async () => {
  const plan = later<{ bytes: ArrayBuffer }>();
  on(PLAN, () => plan.promise);
  const { result } = shown(1);
  expect(result.current.awaited).toBe(true);
  await waitFor(() => expect(askedOf(PLAN)).toHaveLength(1));
  expect(askedOf(MODEL)).toEqual([]);
  plan.give({ bytes: planned() });
  await waitFor(() => expect(result.current.model).not.toBeNull());
  await waitFor(() => expect(result.current.findings).toHaveLength(1));
  expect(result.current).toMatchObject({ awaited: false, finishedMm: [80, 40, 4], refusal: null });
  expect([longest(PLAN), longest(MODEL)]).toEqual([[720], [720]]);
});

test("what is dragged is shown coarser, with the change that is not kept yet", async () => {
  const { result } = shown(1);
  await waitFor(() => expect(result.current.model).not.toBeNull());
  act(() => useBenchStore.setState({ draft: { title: "x" } }));
  await waitFor(() => expect(askedOf(MODEL)).toHaveLength(2));
  expect(askedOf(PLAN)[1]).toEqual({ change: { title: "x" }, longest_px: 512, upto: null });
  expect(askedOf(MODEL)[1]).toEqual({ change: { title: "x" }, longest_px: 320 });
});

test("where drawing is slow, the model waits until the hand rests", async () => {
  const { result } = shown(1);
  await waitFor(() => expect(result.current.findings).toHaveLength(1));
  useBenchStore.setState({ frameMs: 200 });
  act(() => useBenchStore.setState({ draft: { title: "x" } }));
  await waitFor(() => expect(askedOf(PLAN)).toHaveLength(2));
  await waitFor(() => expect(result.current.awaited).toBe(false));
  expect(askedOf(MODEL)).toHaveLength(1);
  await waitFor(() => expect(askedOf(MODEL)).toHaveLength(2), { timeout: 3000 });
});

test("looking after an earlier step does not change what the finished piece measures", async () => {
  const { result, rerender } = shown(1);
  await waitFor(() => expect(result.current.finishedMm).toEqual([80, 40, 4]));
  on(PLAN, () => ({ bytes: planned(120) }));
  rerender({ revision: 1, upto: "op-1", pieceId: "p1" });
  await waitFor(() => expect(result.current.plan?.head.size_mm[0]).toBe(120));
  expect(result.current.finishedMm).toEqual([80, 40, 4]);
  expect(askedOf(PLAN)[1]).toMatchObject({ upto: "op-1" });
});

test("what cannot be made says why, and what was shown stays", async () => {
  const { result, rerender } = shown(1);
  await waitFor(() => expect(result.current.plan).not.toBeNull());
  on(PLAN, () => ({ status: 422, json: { message: "Nothing of the picture would be left." } }));
  rerender({ revision: 2, upto: null, pieceId: "p1" });
  await waitFor(() => expect(result.current.refusal).toBe("Nothing of the picture would be left."));
  expect(result.current.plan).not.toBeNull();
  expect(result.current.awaited).toBe(false);
  on(PLAN, () => ({ bytes: planned() }));
  rerender({ revision: 3, upto: null, pieceId: "p1" });
  await waitFor(() => expect(result.current.refusal).toBeNull());
});

test("another piece starts afresh, and late answers for the one before are ignored", async () => {
  const late = later<{ bytes: ArrayBuffer }>();
  const { result, rerender } = shown(1);
  await waitFor(() => expect(result.current.plan).not.toBeNull());
  on(PLAN, () => late.promise);
  rerender({ revision: 2, upto: null, pieceId: "p1" });
  await waitFor(() => expect(askedOf(PLAN)).toHaveLength(2));
  on("POST /api/pieces/p2/plan", () => ({ bytes: planned(33) }));
  on("POST /api/pieces/p2/model", () => ({ bytes: shaped() }));
  on("POST /api/pieces/p2/findings", []);
  rerender({ revision: 1, upto: null, pieceId: "p2" });
  await waitFor(() => expect(result.current.finishedMm?.[0]).toBe(33));
  late.give({ bytes: planned(99) });
  await new Promise((go) => setTimeout(go, 20));
  expect(result.current.finishedMm?.[0]).toBe(33);
});

test("nothing is asked while the server is away, and the newest once it is back", async () => {
  const { rerender } = shown(1);
  await waitFor(() => expect(askedOf(PLAN)).toHaveLength(1));
  act(() => useConnection.setState({ connected: false }));
  rerender({ revision: 2, upto: null, pieceId: "p1" });
  await new Promise((go) => setTimeout(go, 20));
  expect(askedOf(PLAN)).toHaveLength(1);
  act(() => useConnection.setState({ connected: true }));
  await waitFor(() => expect(askedOf(PLAN)).toHaveLength(2));
});
