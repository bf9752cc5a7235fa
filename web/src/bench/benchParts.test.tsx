// @vitest-environment happy-dom
import { askedOf, freshServer, later, on } from "../testing/server";
import { act, cleanup, fireEvent, render, renderHook, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { Finding, JobView, PieceView } from "../api/client";
import { keys } from "../api/pieces";
import { freshClient, onPage, useShowing } from "../testing/page";
import { useBenchStore } from "../state/benchStore";
import { Findings } from "./Findings";
import { JobsMenu } from "./JobsMenu";
import { StationSteps } from "./StationSteps";
import { useEditing } from "../state/useEditing";
import { useFileJob } from "../state/useFileJob";
import { useShortcuts } from "./useShortcuts";
import { VersionsMenu } from "./VersionsMenu";

const STATIONS = ["Body", "Proof", "Deliver"].map((title) => ({ name: title.toLowerCase(), title, begins: false }));
const PIECE = { id: "p1", revision: 3, kind: "model", abilities: ["skin"], stations: STATIONS, document: { title: "Acorn", model: {}, steps: [], decorations: [] } } as unknown as PieceView;
const JOBS = "GET /api/jobs?piece_id=p1";
const state = () => useBenchStore.getState();
const job = (id: string, more: Partial<JobView> = {}) =>
  ({ id, piece_id: "p1", kind: "build", state: "done", revision: 3, stage: "", fraction: 0, message: "", created: "2026-01-01T10:00:00Z", result: null, ...more }) as JobView;

beforeEach(() => {
  freshServer();
  on(JOBS, []);
  useBenchStore.setState({ draft: null, pending: null, editRefusal: null, revision: 3, station: "height", unit: "mm", wire: false, lampOn: true, cursor: null, thinShown: false, beside: null });
});
afterEach(() => {
  cleanup();
  useShowing.setState({}, true);
});

describe("stations", () => {
  test("are those of the kind of piece, in their order", () => {
    render(<StationSteps stations={STATIONS} />);
    expect(screen.getAllByRole("button").map((each) => each.textContent)).toEqual(["Body", "Proof", "Deliver"]);
  });

  test("are gone to by a press, and say where one is", () => {
    render(<StationSteps stations={STATIONS} />);
    fireEvent.click(screen.getByRole("button", { name: "Proof" }));
    expect(state().station).toBe("proof");
    expect(screen.getByRole("button", { name: "Proof" }).getAttribute("aria-current")).toBe("step");
  });
});

describe("keys", () => {
  const press = (key: string, more: KeyboardEventInit = {}, target: EventTarget = window) => fireEvent.keyDown(target as Window, { key, ...more });
  const listen = () => {
    const onList = vi.fn();
    on("GET /api/pieces/p1", PIECE);
    on("POST /api/pieces/p1/undo?base=3", PIECE);
    on("POST /api/pieces/p1/redo?base=3", PIECE);
    renderHook(() => useShortcuts(PIECE, onList), { wrapper: onPage() });
    return onList;
  };

  test("go to stations, turn triangles, lamp and unit over, and list themselves", () => {
    const onList = listen();
    press("2");
    expect(state().station).toBe("proof");
    for (const key of ["m", "l", "u", "?"]) press(key);
    expect(state()).toMatchObject({ wire: true, lampOn: false, unit: "in" });
    expect(onList).toHaveBeenCalledOnce();
    press("9");
    expect(state().station).toBe("proof");
  });

  test("undo and redo", async () => {
    listen();
    press("z", { ctrlKey: true });
    await waitFor(() => expect(askedOf("POST /api/pieces/p1/undo?base=3")).toHaveLength(1));
    press("Z", { ctrlKey: true, shiftKey: true });
    await waitFor(() => expect(askedOf("POST /api/pieces/p1/redo?base=3")).toHaveLength(1));
  });

  test("mean letters while a person types, and nothing with Alt", () => {
    listen();
    const field = document.body.appendChild(document.createElement("input"));
    field.type = "text";
    press("m", { bubbles: true }, field);
    press("m", { altKey: true });
    expect(state().wire).toBe(false);
    field.remove();
  });
});

describe("an edit", () => {
  const editing = (answer: Parameters<typeof on>[1]) => {
    on("POST /api/pieces/p1/revisions", answer);
    const client = freshClient();
    client.setQueryData(keys.piece("p1"), PIECE);
    return renderHook(() => useEditing("p1", PIECE.document), { wrapper: onPage(client) }).result;
  };

  test("is shown at once, and as kept once the server has it", async () => {
    const answer = later<{ json: PieceView }>();
    const hook = editing(() => answer.promise);
    act(() => hook.current.drag({ title: "Drag" }));
    expect(state().draft).toEqual({ title: "Drag" });
    act(() => hook.current.keep("Named", { title: "Kept" }));
    expect(state().pending).toEqual({ change: { title: "Kept" }, kept: false });
    answer.give({ json: { ...PIECE, revision: 4 } });
    await waitFor(() => expect(state().pending).toEqual({ change: { title: "Kept" }, kept: true }));
    expect(state().draft).toBeNull();
  });

  test("that is refused is taken off the page, with the reason", async () => {
    const hook = editing(() => ({ status: 422, json: { message: "A title is needed." } }));
    act(() => hook.current.keep("Named", { title: "" }));
    await waitFor(() => expect(state().editRefusal).toBe("A title is needed."));
    expect(state()).toMatchObject({ pending: null, draft: null });
    act(() => hook.current.drag({ title: "Again" }));
    expect(state().editRefusal).toBeNull();
  });
});

describe("files", () => {
  test("are saved once, as soon as their job is done", async () => {
    const click = vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(() => undefined);
    const client = freshClient();
    on(JOBS, [job("j1", { state: "running" })]);
    const { result } = renderHook(() => useFileJob("p1", 3, "build"), { wrapper: onPage(client) });
    await waitFor(() => expect(result.current.active?.id).toBe("j1"));
    act(() => result.current.saveWhenDone(job("j1")));
    expect(click).not.toHaveBeenCalled();
    act(() => void client.setQueryData(keys.jobs("p1"), [job("j1")]));
    await waitFor(() => expect(click).toHaveBeenCalledOnce());
    act(() => void client.setQueryData(keys.jobs("p1"), [job("j1")]));
    expect(click).toHaveBeenCalledOnce();
    expect(result.current.active).toBeUndefined();
    click.mockRestore();
  });

  test("of an earlier revision or another kind are not taken for this one's", async () => {
    on(JOBS, [job("old", { revision: 2 }), job("map", { kind: "heights" })]);
    const { result } = renderHook(() => useFileJob("p1", 3, "build"), { wrapper: onPage() });
    await waitFor(() => expect(askedOf(JOBS)).toHaveLength(1));
    expect(result.current.newest).toBeUndefined();
  });
});

describe("jobs", () => {
  const open = async (jobs: JobView[]) => {
    on(JOBS, jobs);
    render(<JobsMenu pieceId="p1" />, { wrapper: onPage() });
    await waitFor(() => expect(askedOf(JOBS)).toHaveLength(1));
    await act(async () => fireEvent.click(screen.getByRole("button", { name: /^Jobs/ })));
  };

  test("tell what is at work, and can be cancelled", async () => {
    on("POST /api/jobs/j1/cancel", job("j1", { state: "cancelled" }));
    await open([job("j1", { state: "running", stage: "Triangulating", fraction: 0.4 })]);
    expect(await screen.findByText("Build, at work: Triangulating")).toBeTruthy();
    expect(screen.getByRole("progressbar").getAttribute("aria-valuenow")).toBe("40");
    fireEvent.click(screen.getByRole("button", { name: "Cancel" }));
    await waitFor(() => expect(askedOf("POST /api/jobs/j1/cancel")).toHaveLength(1));
  });

  test("that came to nothing are offered again, but for those that a newer one does", async () => {
    on("POST /api/jobs/j2/again", job("j4", { state: "waiting", kind: "turntable" }));
    await open([
      job("j3", { state: "failed", message: "Too large." }),
      job("j2", { state: "interrupted", kind: "turntable", message: "The server was stopped." }),
      job("j1", { state: "interrupted", message: "Killed." }),
    ]);
    expect(await screen.findByText(/The server was stopped\./)).toBeTruthy();
    expect(screen.getByText(/Too large\./)).toBeTruthy();
    expect(screen.getByText("Turntable, interrupted")).toBeTruthy();
    const offers = screen.getAllByRole("button", { name: "Start again" });
    expect(offers).toHaveLength(2);
    fireEvent.click(offers[1] as HTMLElement);
    await waitFor(() => expect(askedOf("POST /api/jobs/j2/again")).toHaveLength(1));
    expect(await screen.findByText("Turntable, waiting")).toBeTruthy();
  });

  test("that cannot be started again say why", async () => {
    on("POST /api/jobs/j1/again", () => ({ status: 507, json: { message: "The disk is full." } }));
    await open([job("j1", { state: "interrupted", message: "Killed." })]);
    fireEvent.click(await screen.findByRole("button", { name: "Start again" }));
    expect((await screen.findByRole("alert")).textContent).toBe("The disk is full.");
  });
});

describe("findings", () => {
  const finding = (what: string, more: Partial<Finding> = {}) => ({ severity: "note", what, why: "", measure: "x", where: null, value: null, unit: "", fix: null, ...more }) as unknown as Finding;

  test("are those foreseen, until this very revision is built", async () => {
    useShowing.setState({ findings: [finding("It will be thin.")] });
    const client = freshClient();
    render(<Findings piece={PIECE} onFix={vi.fn()} onKeep={vi.fn()} />, { wrapper: onPage(client) });
    expect(screen.getByRole("heading").textContent).toBe("Findings so far");
    expect(screen.getByText("It will be thin.")).toBeTruthy();
    await waitFor(() => expect(client.getQueryData(keys.jobs("p1"))).toEqual([]));
    const report = { findings: [finding("The solid is sound.")] };
    act(() => void client.setQueryData(keys.jobs("p1"), [job("j1", { result: { report } as unknown as JobView["result"] })]));
    await waitFor(() => expect(screen.getByRole("heading").textContent).toBe("Findings"));
    expect(screen.getByText("The solid is sound.")).toBeTruthy();
    act(() => useBenchStore.setState({ draft: { title: "x" } }));
    expect(screen.getByText("It will be thin.")).toBeTruthy();
  });

  test("show where they are, and offer their fix", () => {
    const onFix = vi.fn();
    const fix = { kind: "repair", parameters: {}, words: "Repair" };
    useShowing.setState({ findings: [finding("Open along 15 edges.", { severity: "fault", where: [4, 5, 6], fix })] });
    render(<Findings piece={PIECE} onFix={onFix} onKeep={vi.fn()} />, { wrapper: onPage() });
    fireEvent.click(screen.getByRole("button", { name: "Show" }));
    expect(state().cursor).toEqual({ x: 4, y: 5 });
    fireEvent.click(screen.getByRole("button", { name: /Repair/ }));
    expect(onFix).toHaveBeenCalledExactlyOnceWith(fix);
  });

  test("may change the piece itself", () => {
    const onKeep = vi.fn();
    const fix = { kind: "change", parameters: { decorations: [] }, words: "Let it go on round the edge" };
    useShowing.setState({ findings: [finding("Half of it reaches beyond the skin.", { fix })] });
    render(<Findings piece={PIECE} onFix={vi.fn()} onKeep={onKeep} />, { wrapper: onPage() });
    fireEvent.click(screen.getByRole("button", { name: /round the edge/ }));
    expect(onKeep).toHaveBeenCalledExactlyOnceWith("Let it go on round the edge", { decorations: [] });
  });

  test("of thin strokes are shown on the picture", () => {
    useShowing.setState({ findings: [finding("Strokes are too thin.", { measure: "thin-stroke" })] });
    render(<Findings piece={PIECE} onFix={vi.fn()} onKeep={vi.fn()} />, { wrapper: onPage() });
    fireEvent.click(screen.getByRole("button", { name: "Show" }));
    expect(state()).toMatchObject({ thinShown: true, station: "picture", look: "end" });
  });

  test("are missed by nobody where there are none", () => {
    render(<Findings piece={PIECE} onFix={vi.fn()} onKeep={vi.fn()} />, { wrapper: onPage() });
    expect(screen.getByText(/Nothing stands out/)).toBeTruthy();
  });
});

describe("versions", () => {
  const open = async (versions: object[]) => {
    on("GET /api/pieces/p1/versions", versions);
    render(<VersionsMenu piece={PIECE} />, { wrapper: onPage() });
    await waitFor(() => expect(askedOf("GET /api/pieces/p1/versions")).toHaveLength(1));
    await act(async () => fireEvent.click(screen.getByRole("button", { name: "Versions" })));
  };

  test("need a name", async () => {
    await open([]);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Keep" }).disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("Name of the version"), { target: { value: "   " } });
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Keep" }).disabled).toBe(true);
  });

  test("stand beside today's state, and go away again", async () => {
    await open([{ id: 7, name: "Before the frame", revision: 1 }]);
    fireEvent.click(await screen.findByRole("button", { name: "Beside" }));
    expect(state().beside).toEqual({ version: 7, name: "Before the frame" });
    fireEvent.click(screen.getByRole("button", { name: "Away" }));
    expect(state().beside).toBeNull();
  });
});
