// @vitest-environment happy-dom
import { freshServer, on } from "../../testing/server";
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import { useBenchStore } from "../../state/benchStore";
import { useCarveStore } from "../../state/carveStore";
import { freshClient, onPage } from "../../testing/page";
import type { PlanGeometry } from "./geometry";
import { RouterLegend, RouterPlan } from "./RouterPlan";

const STOCK = { left: -15, low: -13, width: 120, depth: 140, zero: { x: -15, y: -13 } };
const GEOMETRY = { scale: 2, toPx: ({ x, y }: { x: number; y: number }) => ({ x: 100 + 2 * x, y: 400 - 2 * y }) } as unknown as PlanGeometry;
const WAYS = [
  { kind: "rough", bit: "flat 6 mm", ways: [[0, 0, 50, 0]] },
  { kind: "v-carve", bit: "V", ways: [[0, 0, 10, 10, 20, 0], [30, 30, 40, 40]] },
];
const RUNS = { state: "running", program: "a.nc", job_id: "c1", number: 0, line: 4, lines: 9, place_mm: [25, 33, -1], seconds: 3, why: "" };

beforeEach(() => {
  freshServer();
  on("GET /api/jobs?piece_id=p1", [{ id: "c1", piece_id: "p1", kind: "carving", state: "done", revision: 3 }]);
  on("GET /api/jobs/c1/carving", { minutes: [0, 1], stock: [-15, -13, 120, 140], zero: [-15, -13, 0], ways: WAYS });
  on("GET /api/router", RUNS);
  useBenchStore.setState({ station: "deliver", draft: null });
  useCarveStore.setState({ ways: true });
});
afterEach(cleanup);

function plan() {
  const ui = (
    <>
      <svg>
        <RouterPlan pieceId="p1" revision={3} stock={STOCK} geometry={GEOMETRY} />
      </svg>
      <RouterLegend pieceId="p1" revision={3} />
    </>
  );
  return render(ui, { wrapper: onPage(freshClient()) });
}

test("ways are drawn by kind with a dot where the bit is lifted, and the legend says which", async () => {
  plan();
  const carved = await screen.findByTestId("ways-v-carve");
  expect(carved.querySelectorAll("circle")).toHaveLength(2);
  expect(carved.querySelector("path")?.getAttribute("d")).toBe("M 100.0 400.0 L 120.0 380.0 L 140.0 400.0");
  expect(screen.getByRole("note").textContent).toContain("roughing V-carving");
});

test("the tip is drawn where the router says that it is, from the zero point", async () => {
  plan();
  const tip = await screen.findByTestId("router-tip");
  expect([tip.getAttribute("cx"), tip.getAttribute("cy")]).toEqual(["120", "360"]);
});

test("the tip of another job is not drawn, and ways may be hidden", async () => {
  on("GET /api/router", { ...RUNS, job_id: "other" });
  useCarveStore.setState({ ways: false });
  plan();
  expect(await screen.findByTestId("router-plan")).toBeTruthy();
  expect(screen.queryByTestId("router-tip")).toBeNull();
  expect(screen.queryByTestId("ways-rough")).toBeNull();
  expect(screen.queryByRole("note")).toBeNull();
});
