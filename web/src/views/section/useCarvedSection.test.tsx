// @vitest-environment happy-dom
import { askedOf, freshServer, on } from "../../testing/server";
import { cleanup, renderHook, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import { useBenchStore } from "../../state/benchStore";
import { useCarveStore } from "../../state/carveStore";
import { freshClient, onPage } from "../../testing/page";
import { useCarvedSection } from "./useCarvedSection";

const CUT = { cut: [[0, 3], [5, 2]], offset: [[0, 3], [5, 1.5]], asked: null };
const AT_STEP = (step: number) => `POST /api/jobs/c1/carving/section?step=${step}`;

beforeEach(() => {
  freshServer();
  on("GET /api/jobs?piece_id=p1", [{ id: "c1", piece_id: "p1", kind: "carving", state: "done", revision: 3 }]);
  on(AT_STEP(10_000), CUT);
  on(AT_STEP(4), { ...CUT, cut: [[0, 3], [5, 3]] });
  useBenchStore.setState({ station: "deliver", draft: null, tiltDeg: 0, line: { start: { x: 0, y: 0.5 }, end: { x: 1, y: 0.5 } } });
  useCarveStore.setState({ step: null });
});
afterEach(cleanup);

const look = (revision = 3) => renderHook(() => useCarvedSection("p1", revision), { wrapper: onPage(freshClient()) }).result;

test("the stock is cut along the section line, at the step that is looked at", async () => {
  const section = look();
  await waitFor(() => expect(section.current).toEqual(CUT));
  expect(askedOf(AT_STEP(10_000))).toEqual([{ start: [0, 0.5], end: [1, 0.5], tilt_deg: 0, lift_mm: 0 }]);
  cleanup();
  useCarveStore.setState({ step: 4 });
  const earlier = look();
  await waitFor(() => expect(earlier.current?.cut[1]).toEqual([5, 3]));
});

test("nothing is cut of another revision, at another station, or where the section leans", async () => {
  const sections = [look(2)];
  useBenchStore.setState({ tiltDeg: 20 });
  sections.push(look());
  useBenchStore.setState({ tiltDeg: 0, station: "proof" });
  sections.push(look());
  await new Promise((done) => setTimeout(done, 50));
  expect(sections.map(({ current }) => current)).toEqual([null, null, null]);
  expect(askedOf(AT_STEP(10_000))).toEqual([]);
});
