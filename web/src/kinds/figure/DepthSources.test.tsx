// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../../testing/server";
import { cleanup, fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { FigureDocument } from "../../api/client";
import { useDepthStore } from "../../state/depthStore";
import { onPage } from "../../testing/page";
import { PLAN } from "../../testing/plan";
import { begun, editing, keep, kept, pieceOf, show, type } from "../../testing/stations";
import { CompareCard } from "../common/depth/CompareCard";
import { UnsureOverPlan } from "../common/depth/DepthTools";
import { FigureDepth } from "./FigureDepth";

const PICTURE = "data:image/png;base64,AA==";
const COMPARED = [
  { source: "learned", picture: PICTURE, difference: PICTURE, nearer_mm: 0, farther_mm: 0, mean_mm: 0, most_mm: 0, unsure_mm: 2.34 },
  { source: "swell", picture: PICTURE, difference: PICTURE, nearer_mm: 3.21, farther_mm: 5.43, mean_mm: 1.234, most_mm: 5.43, unsure_mm: null },
];
const UNSURE = { picture: PICTURE, mean_mm: 1.5, most_mm: 6.25 };
const MODELS = [
  { name: "good.onnx", size_bytes: 3 * 2 ** 20, card: { side: 128, gives: "nearer", scale: "one" }, problem: "" },
  { name: "odd.onnx", size_bytes: 100, card: null, problem: "odd.json is not JSON; a card is needed." },
];

beforeEach(() => {
  freshServer();
  on("POST /api/pieces/p1/depth-sources", COMPARED);
  on("POST /api/pieces/p1/unsure", UNSURE);
  on("GET /api/models", MODELS);
  useDepthStore.setState({ showUnsure: false });
});
afterEach(() => {
  cleanup();
  keep.mockReset();
});

const documentOf = (depth: object) => begun("FigureDocument", { figure: { depth } }) as unknown as FigureDocument;
const propsOf = (depth: object) => {
  const document = documentOf(depth);
  return { piece: pieceOf("figure", document as never, []), pieceId: "p1", revision: 2, document, editing };
};

describe("sources of depth", () => {
  test("are compared only when that is asked for", async () => {
    show(<CompareCard at="figure" {...propsOf({ kind: "learned" })} />, "figure");
    expect(askedOf("POST /api/pieces/p1/depth-sources")).toHaveLength(0);
    fireEvent.click(screen.getByRole("button", { name: "Compare" }));
    const rows = await screen.findAllByRole("listitem");
    expect(rows).toHaveLength(2);
    expect(within(rows[0] as HTMLElement).getByText("as it is")).toBeTruthy();
    expect(within(rows[0] as HTMLElement).getByText(/may be off by 2.3 mm/)).toBeTruthy();
    expect(within(rows[0] as HTMLElement).queryByAltText(/nearer and farther/)).toBeNull();
    expect(within(rows[1] as HTMLElement).getByText(/Up to 3.2 mm nearer \(warm\), 5.4 mm farther \(cool\), 1.23 mm on average/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Take Its outline" }));
    expect(kept()).toEqual(["Depth by Its outline", { figure: { depth: { kind: "swell" } } }]);
  });

  test("that cannot be compared say why", async () => {
    on("POST /api/pieces/p1/depth-sources", () => ({ status: 422, json: { message: "Nothing is cut out of its background." } }));
    show(<CompareCard at="figure" {...propsOf({ kind: "swell" })} />, "figure");
    fireEvent.click(screen.getByRole("button", { name: "Compare" }));
    expect((await screen.findByRole("alert")).textContent).toContain("Nothing is cut out");
  });
});

describe("a source that needs a file", () => {
  const choose = (kind: string) => fireEvent.change(screen.getByRole("combobox", { name: "Where depth comes from" }), { target: { value: kind } });

  test("is kept only once the file is there", async () => {
    on("POST /api/pictures", { blob: "5".repeat(64), name: "depths.png" });
    show(<FigureDepth {...propsOf({ kind: "learned" })} />, "figure");
    choose("picture");
    expect(keep).not.toHaveBeenCalled();
    fireEvent.change(screen.getByLabelText(/A picture of depths/), { target: { files: [new File(["x"], "depths.png")] } });
    await waitFor(() => expect(keep).toHaveBeenCalled());
    expect(kept()).toEqual(["Depth by depths.png", { figure: { depth: { kind: "picture", blob: "5".repeat(64), name: "depths.png" } } }]);
  });

  test("is given up by choosing another", async () => {
    show(<FigureDepth {...propsOf({ kind: "learned" })} />, "figure");
    choose("own");
    expect(await screen.findByText("Networks in the folder of models")).toBeTruthy();
    choose("learned");
    expect(screen.queryByText("Networks in the folder of models")).toBeNull();
    expect(keep).not.toHaveBeenCalled();
    choose("swell");
    expect(kept()[1]).toEqual({ figure: { depth: { kind: "swell" } } });
  });
});

describe("doubt", () => {
  test("is shown on the Plan when that is switched on", async () => {
    const props = propsOf({ kind: "learned" });
    show(<FigureDepth {...props} />, "figure");
    fireEvent.click(screen.getByLabelText("Show on the Plan where it is unsure"));
    expect((await screen.findByTestId("unsure")).textContent).toContain("by 1.5 mm, by 6.3 mm where it is reddest");
    render(<svg><UnsureOverPlan at="figure" {...props} geometry={PLAN} /></svg>, { wrapper: onPage(undefined, "figure") });
    expect((await screen.findByTestId("unsure-on-plan")).getAttribute("href")).toBe(PICTURE);
  });

  test("is nothing that other sources have", () => {
    useDepthStore.setState({ showUnsure: true });
    const props = propsOf({ kind: "swell" });
    render(<svg><UnsureOverPlan at="figure" {...props} geometry={PLAN} /></svg>, { wrapper: onPage(undefined, "figure") });
    expect(screen.queryByTestId("unsure-on-plan")).toBeNull();
    expect(askedOf("POST /api/pieces/p1/unsure")).toHaveLength(0);
  });
});

describe("networks of one's own", () => {
  test("are listed, and one is taken with its card", async () => {
    const taken = { blob: "3".repeat(64), name: "good.onnx", card: { side: 128, gives: "nearer", scale: "one" } };
    on("POST /api/models/good.onnx/take", taken);
    show(<FigureDepth {...propsOf({ kind: "own" })} />, "figure");
    fireEvent.click(await screen.findByRole("button", { name: "Take good.onnx" }));
    await waitFor(() => expect(keep).toHaveBeenCalled());
    expect(kept()).toEqual(["Depth by good.onnx", { figure: { depth: { kind: "own", ...taken } } }]);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Take odd.onnx" }).disabled).toBe(true);
    expect(screen.getByRole("alert").textContent).toContain("not JSON");
  });

  test("one that is taken shows its card, which can be put right", () => {
    show(<FigureDepth {...propsOf({ kind: "own", blob: "3".repeat(64), name: "good.onnx" })} />, "figure");
    type("Side of its picture", "128");
    expect(kept()[1]).toEqual({ figure: { depth: { card: { side: 128 } } } });
  });

  test("where there is none it is said where one goes", async () => {
    on("GET /api/models", []);
    show(<FigureDepth {...propsOf({ kind: "own" })} />, "figure");
    expect(await screen.findByText(/Put an ONNX file into/)).toBeTruthy();
  });

  test("one that is refused says why", async () => {
    on("POST /api/models/good.onnx/take", () => ({ status: 413, json: { message: "good.onnx has 600 MiB; up to 512 MiB are accepted." } }));
    show(<FigureDepth {...propsOf({ kind: "own" })} />, "figure");
    fireEvent.click(await screen.findByRole("button", { name: "Take good.onnx" }));
    expect(await screen.findByText(/up to 512 MiB/)).toBeTruthy();
  });
});
