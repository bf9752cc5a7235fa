// @vitest-environment happy-dom
import { askedOf, framed, freshServer, later, on } from "../testing/server";
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import { useConnection } from "../api/connection";
import { onPage } from "../testing/page";
import { useBenchStore } from "./benchStore";
import { usePreviews } from "./usePreviews";

const PLAN = "POST /api/pieces/p1/plan";
const MODEL = "POST /api/pieces/p1/model";
const FINDINGS = "POST /api/pieces/p1/findings";
const state = () => useBenchStore.getState();
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
  renderHook((props: { revision: number | undefined; upto: string | null; pieceId: string }) => usePreviews(props.pieceId, props.revision, props.upto), {
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
  shown(1);
  expect(state().planAwaited).toBe(true);
  await waitFor(() => expect(askedOf(PLAN)).toHaveLength(1));
  expect(askedOf(MODEL)).toEqual([]);
  plan.give({ bytes: planned() });
  await waitFor(() => expect(state().model).not.toBeNull());
  await waitFor(() => expect(state().findings).toHaveLength(1));
  expect(state()).toMatchObject({ planAwaited: false, finishedMm: [80, 40, 4], refusal: null });
  expect([longest(PLAN), longest(MODEL)]).toEqual([[720], [720]]);
});

test("what is dragged is shown coarser, with the change that is not kept yet", async () => {
  shown(1);
  await waitFor(() => expect(state().model).not.toBeNull());
  act(() => useBenchStore.setState({ draft: { title: "x" } }));
  await waitFor(() => expect(askedOf(MODEL)).toHaveLength(2));
  expect(askedOf(PLAN)[1]).toEqual({ change: { title: "x" }, longest_px: 512, upto: null });
  expect(askedOf(MODEL)[1]).toEqual({ change: { title: "x" }, longest_px: 320 });
});

test("where drawing is slow, the model waits until the hand rests", async () => {
  shown(1);
  await waitFor(() => expect(state().findings).toHaveLength(1));
  useBenchStore.setState({ frameMs: 200 });
  act(() => useBenchStore.setState({ draft: { title: "x" } }));
  await waitFor(() => expect(askedOf(PLAN)).toHaveLength(2));
  await waitFor(() => expect(state().planAwaited).toBe(false));
  expect(askedOf(MODEL)).toHaveLength(1);
  await waitFor(() => expect(askedOf(MODEL)).toHaveLength(2), { timeout: 3000 });
});

test("looking after an earlier step does not change what the finished piece measures", async () => {
  const { rerender } = shown(1);
  await waitFor(() => expect(state().finishedMm).toEqual([80, 40, 4]));
  on(PLAN, () => ({ bytes: planned(120) }));
  rerender({ revision: 1, upto: "op-1", pieceId: "p1" });
  await waitFor(() => expect(state().plan?.head.size_mm[0]).toBe(120));
  expect(state().finishedMm).toEqual([80, 40, 4]);
  expect(askedOf(PLAN)[1]).toMatchObject({ upto: "op-1" });
});

test("what cannot be made says why, and what was shown stays", async () => {
  const { rerender } = shown(1);
  await waitFor(() => expect(state().plan).not.toBeNull());
  on(PLAN, () => ({ status: 422, json: { message: "Nothing of the picture would be left." } }));
  rerender({ revision: 2, upto: null, pieceId: "p1" });
  await waitFor(() => expect(state().refusal).toBe("Nothing of the picture would be left."));
  expect(state().plan).not.toBeNull();
  expect(state().planAwaited).toBe(false);
  on(PLAN, () => ({ bytes: planned() }));
  rerender({ revision: 3, upto: null, pieceId: "p1" });
  await waitFor(() => expect(state().refusal).toBeNull());
});

test("another piece starts afresh, and late answers for the one before are ignored", async () => {
  const late = later<{ bytes: ArrayBuffer }>();
  const { rerender } = shown(1);
  await waitFor(() => expect(state().plan).not.toBeNull());
  on(PLAN, () => late.promise);
  rerender({ revision: 2, upto: null, pieceId: "p1" });
  await waitFor(() => expect(askedOf(PLAN)).toHaveLength(2));
  on("POST /api/pieces/p2/plan", () => ({ bytes: planned(33) }));
  on("POST /api/pieces/p2/model", () => ({ bytes: shaped() }));
  on("POST /api/pieces/p2/findings", []);
  rerender({ revision: 1, upto: null, pieceId: "p2" });
  await waitFor(() => expect(state().finishedMm?.[0]).toBe(33));
  late.give({ bytes: planned(99) });
  await new Promise((go) => setTimeout(go, 20));
  expect(state().finishedMm?.[0]).toBe(33);
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

test("an edit that was kept is shown as such until its revision is here", async () => {
  const { rerender } = shown(1);
  useBenchStore.setState({ pending: { change: { title: "x" }, kept: false } });
  rerender({ revision: 2, upto: null, pieceId: "p1" });
  await waitFor(() => expect(state().revision).toBe(2));
  expect(state().pending).toEqual({ change: { title: "x" }, kept: false });
  act(() => useBenchStore.setState({ pending: { change: { title: "x" }, kept: true } }));
  rerender({ revision: 3, upto: null, pieceId: "p1" });
  await waitFor(() => expect(state().pending).toBeNull());
});
