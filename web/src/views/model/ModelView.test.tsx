// @vitest-environment happy-dom
import { freshServer, on } from "../../testing/server";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { ShadedSolid } from "../../api/preview";
import { useBenchStore } from "../../state/benchStore";
import { freshClient, onPage, useShowing } from "../../testing/page";
import { ModelView } from "./ModelView";

const SOLID: ShadedSolid = {
  positions: new Float32Array(9),
  normals: new Int8Array(9),
  faces: new Uint32Array([0, 1, 2]),
  standing: false,
  low: [0, 0, 0],
};

beforeEach(() => {
  freshServer();
  on("GET /api/jobs?piece_id=one", []);
  useBenchStore.setState({ station: "height", draft: null, beside: null });
});
afterEach(() => {
  cleanup();
  useShowing.setState({}, true);
});

// What these tests run in draws nothing in 3D, as some browsers do.
const look = (built: ShadedSolid | null = SOLID) =>
  render(<ModelView pieceId="one" revision={3} built={built} printing={null} title="Fern" />, { wrapper: onPage(freshClient()) });

test("where nothing is drawn in 3D that is said, and what only the stage needs is not there", () => {
  look();
  expect(screen.getByRole("status").textContent).toContain("draws nothing in 3D");
  expect(screen.getByRole("group", { name: "Model" }).getAttribute("aria-busy")).toBe("false");
  expect(screen.getByTestId("model-note").textContent).toBe("Built · 1 triangles");
  expect(screen.queryByRole("button", { name: "Turn" })).toBeNull();
});

test("a picture is asked for only when it is wanted, of this very revision", () => {
  look();
  expect(screen.queryByRole("img")).toBeNull();
  fireEvent.click(screen.getByRole("button", { name: "Show a picture of it" }));
  expect(screen.getByRole("img").getAttribute("src")).toBe("/api/pieces/one/thumbnail.png?revision=3");
});

test("before there is a solid it is waited for, or said that there is none", () => {
  look(null);
  expect(screen.getByRole("status").textContent).toBe("Making the solid …");
  cleanup();
  useShowing.setState({ refusal: "The picture is empty." });
  look(null);
  expect(screen.getByRole("status").textContent).toBe("There is no solid to show.");
});
