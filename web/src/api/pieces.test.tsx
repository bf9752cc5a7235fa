// @vitest-environment happy-dom
import { asked, askedOf, freshServer, later, on } from "../testing/server";
import { act, renderHook, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, test } from "vitest";
import { freshClient, onPage } from "../testing/page";
import { PAGE, type AnyDocument, type JobView, type PieceView } from "./client";
import { keys, startModel, takeInJob, useEdit, usePiece, useShelf, useStep } from "./pieces";

const REVISIONS = "POST /api/pieces/p1/revisions";
const step = (id: string) => ({ id, on: true, kind: "blur" });
const piece = (revision: number, ops: string[], title = "Acorn") => ({ id: "p1", revision, document: { title, ops: ops.map(step), body: {} } }) as unknown as PieceView;

beforeEach(freshServer);

describe("an edit", () => {
  const edit = (change: Record<string, unknown>, base: PieceView) => ({ label: "Blurred", change, base: base.document as AnyDocument });

  test("is sent on top of the revision that the page knows, and its answer is taken in", async () => {
    const client = freshClient();
    client.setQueryData(keys.piece("p1"), piece(3, []));
    on(REVISIONS, piece(4, ["a"]));
    const { result } = renderHook(() => useEdit("p1"), { wrapper: onPage(client) });
    await act(() => result.current.mutateAsync(edit({ ops: [step("a")] }, piece(3, []))));
    expect(askedOf(REVISIONS)).toEqual([{ base: 3, label: "Blurred", change: { ops: [step("a")] } }]);
    expect(asked[0]?.page).toBe(PAGE["Nebrel-Page"]);
    expect(client.getQueryData<PieceView>(keys.piece("p1"))?.revision).toBe(4);
  });

  test("that comes second is laid on top of what came first, item by item", async () => {
    const client = freshClient();
    client.setQueryData(keys.piece("p1"), piece(3, ["a"]));
    on("GET /api/pieces/p1", piece(4, ["a", "theirs"]));
    on(REVISIONS, (body: unknown) => ((body as { base: number }).base === 4 ? { json: piece(5, []) } : { status: 409, json: { message: "Another page was faster." } }));
    const { result } = renderHook(() => useEdit("p1"), { wrapper: onPage(client) });
    await act(() => result.current.mutateAsync(edit({ ops: [step("a"), step("ours")] }, piece(3, ["a"]))));
    const [first, second] = askedOf(REVISIONS) as { base: number; change: { ops: { id: string }[] } }[];
    expect(first?.base).toBe(3);
    expect(second?.base).toBe(4);
    expect(second?.change.ops.map(({ id }) => id).sort()).toEqual(["a", "ours", "theirs"]);
  });

  test("that is refused is told in the server's own sentence, and nothing changes", async () => {
    const client = freshClient();
    client.setQueryData(keys.piece("p1"), piece(3, []));
    on(REVISIONS, () => ({ status: 422, json: { message: "Width is 0 mm; 1 mm to 3000 mm would be accepted." } }));
    const { result } = renderHook(() => useEdit("p1"), { wrapper: onPage(client) });
    await act(() => expect(result.current.mutateAsync(edit({}, piece(3, [])))).rejects.toThrow("Width is 0 mm; 1 mm to 3000 mm would be accepted."));
    expect(askedOf(REVISIONS)).toHaveLength(1);
    expect(client.getQueryData<PieceView>(keys.piece("p1"))?.revision).toBe(3);
  });

  test("waits for the one before it, so that each builds on the last", async () => {
    const client = freshClient();
    client.setQueryData(keys.piece("p1"), piece(3, []));
    const first = later<{ json: PieceView }>();
    on(REVISIONS, (body: unknown) => ((body as { base: number }).base === 3 ? first.promise : { json: piece(5, []) }));
    const { result } = renderHook(() => useEdit("p1"), { wrapper: onPage(client) });
    let both: Promise<unknown> = Promise.resolve();
    act(() => {
      both = Promise.all([result.current.mutateAsync(edit({ title: "One" }, piece(3, []))), result.current.mutateAsync(edit({ title: "Two" }, piece(3, [])))]);
    });
    await waitFor(() => expect(askedOf(REVISIONS)).toHaveLength(1));
    first.give({ json: piece(4, []) });
    await act(() => both);
    expect((askedOf(REVISIONS) as { base: number }[]).map(({ base }) => base)).toEqual([3, 4]);
  });

  test("tells plainly that the server is gone", async () => {
    const client = freshClient();
    client.setQueryData(keys.piece("p1"), piece(3, []));
    const { result } = renderHook(() => useEdit("p1"), { wrapper: onPage(client) });
    await act(() => expect(result.current.mutateAsync(edit({}, piece(3, [])))).rejects.toThrow("does not answer"));
  });
});

test("undo and redo start from what is shown, and count once where another page was faster", async () => {
  const client = freshClient();
  client.setQueryData(keys.piece("p1"), piece(3, []));
  on("POST /api/pieces/p1/undo?base=3", piece(4, []));
  on("POST /api/pieces/p1/redo?base=4", piece(5, []));
  on("POST /api/pieces/p1/undo?base=5", () => ({ status: 409, json: { message: "The piece was changed elsewhere meanwhile." } }));
  on("GET /api/pieces/p1", piece(7, []));
  const { result } = renderHook(() => ({ undo: useStep("p1", "undo"), redo: useStep("p1", "redo") }), { wrapper: onPage(client) });
  const shown = () => client.getQueryData<PieceView>(keys.piece("p1"))?.revision;
  await act(() => result.current.undo.mutateAsync());
  expect(shown()).toBe(4);
  await act(() => result.current.redo.mutateAsync());
  expect(shown()).toBe(5);
  await act(() => result.current.undo.mutateAsync());
  expect(shown()).toBe(7);
});

test("shelf and pieces are fetched, and what went wrong is told", async () => {
  on("GET /api/pieces", [{ id: "p1", title: "Acorn" }]);
  on("GET /api/pieces/gone", () => ({ status: 404, json: { message: "There is no such piece." } }));
  const { result } = renderHook(() => ({ shelf: useShelf(), gone: usePiece("gone") }), { wrapper: onPage() });
  await waitFor(() => expect(result.current.shelf.data).toEqual([{ id: "p1", title: "Acorn" }]));
  await waitFor(() => expect(result.current.gone.error?.message).toBe("There is no such piece."));
});

test("a model whose unit is unknown comes back with the sizes to choose from", async () => {
  const sizes_mm = { mm: [40, 40, 30], in: [1016, 1016, 762] };
  on("POST /api/models", () => ({ status: 422, json: { message: "What unit is it in?", sizes_mm } }));
  const file = new File(["solid"], "bowl.stl");
  await expect(startModel(file, null)).rejects.toMatchObject({ message: "What unit is it in?", status: 422, sizes: sizes_mm });
  expect(asked[0]?.what).toBe("POST /api/models");
});

test("a job's news replaces what is known of it, for its own piece only", () => {
  const client = freshClient();
  const job = (id: string, state: string, created = "2026-01-01T00:00:00") => ({ id, piece_id: "p1", state, created }) as unknown as JobView;
  client.setQueryData(keys.jobs("p1"), [job("one", "running")]);
  takeInJob(client, job("one", "done"));
  expect(client.getQueryData<JobView[]>(keys.jobs("p1"))?.map(({ id, state }) => [id, state])).toEqual([["one", "done"]]);
  takeInJob(client, { ...job("two", "waiting"), piece_id: "p2" });
  expect(client.getQueryData(keys.jobs("p2"))).toBeUndefined();
});
