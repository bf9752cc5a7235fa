// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../testing/server";
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { PieceView } from "../api/client";
import { keys } from "../api/pieces";
import { freshClient, onPage } from "../testing/page";
import { useBenchStore } from "./benchStore";
import { firstStation, useReshape } from "./useReshape";

const named = (...names: string[]) => names.map((name) => ({ name, title: name, begins: name === "outlines" }));
const PANEL = {
  id: "p1",
  revision: 3,
  kind: "panel",
  shape: "panel",
  shapes: [
    { name: "panel", title: "Relief panel" },
    { name: "cutter", title: "Clay cutter" },
  ],
  stations: named("picture", "height", "body"),
} as unknown as PieceView;
const CUTTER = { ...PANEL, revision: 4, kind: "traced", shape: "cutter", stations: named("picture", "outlines", "body") } as PieceView;

beforeEach(() => {
  freshServer();
  useBenchStore.setState({ station: "body", editRefusal: null, draft: null });
});
afterEach(cleanup);

test("a piece becomes another thing, and opens where that is made", async () => {
  on("POST /api/pieces/p1/shape", CUTTER);
  const client = freshClient();
  const { result } = renderHook(() => useReshape(PANEL), { wrapper: onPage(client) });
  act(() => result.current.mutate("cutter"));
  await waitFor(() => expect(client.getQueryData<PieceView>(keys.piece("p1"))?.kind).toBe("traced"));
  expect(askedOf("POST /api/pieces/p1/shape")).toEqual([{ base: 3, label: "Made a clay cutter", shape: "cutter" }]);
  expect(useBenchStore.getState().station).toBe("outlines");
});

test("what is worked on at its body stays there", async () => {
  on("POST /api/pieces/p1/shape", { ...CUTTER, kind: "lithophane", stations: named("picture", "light", "body") });
  const client = freshClient();
  const { result } = renderHook(() => useReshape(PANEL), { wrapper: onPage(client) });
  act(() => result.current.mutate("lithophane"));
  await waitFor(() => expect(client.getQueryData<PieceView>(keys.piece("p1"))?.kind).toBe("lithophane"));
  expect(useBenchStore.getState().station).toBe("body");
});

test("what cannot be made of it says why, and nothing changes", async () => {
  on("POST /api/pieces/p1/shape", () => ({ status: 422, json: { message: "The picture shows no edge." } }));
  const client = freshClient();
  const { result } = renderHook(() => useReshape(PANEL), { wrapper: onPage(client) });
  act(() => result.current.mutate("cutter"));
  await waitFor(() => expect(useBenchStore.getState().editRefusal).toBe("The picture shows no edge."));
  expect(useBenchStore.getState().station).toBe("body");
  expect(client.getQueryData(keys.piece("p1"))).toBeUndefined();
});

test("a piece opens at the first station after its picture", () => {
  expect(firstStation(PANEL)).toBe("height");
  expect(firstStation({ stations: named("body", "proof") })).toBe("body");
});
