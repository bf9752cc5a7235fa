// @vitest-environment happy-dom
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import { usePoseStore } from "../../../state/poseStore";
import { PoseButtons } from "./PoseButtons";

afterEach(cleanup);

test("rings stay for one turn after another; each of them is kept", () => {
  const onTurn = vi.fn();
  render(<PoseButtons onTurn={onTurn} />);
  fireEvent.click(screen.getByRole("button", { name: "Turn by hand" }));
  expect(usePoseStore.getState().mode).toBe("rings");
  act(() => usePoseStore.getState().keep?.([0, 45, 0]));
  act(() => usePoseStore.getState().keep?.([0, 0, 5]));
  expect(onTurn.mock.calls).toEqual([[[0, 45, 0]], [[0, 0, 5]]]);
  expect(screen.getByRole("button", { name: "Turn by hand" }).getAttribute("aria-pressed")).toBe("true");
  fireEvent.click(screen.getByRole("button", { name: "Turn by hand" }));
  expect(usePoseStore.getState().mode).toBeNull();
});

test("a face is pointed at once; leaving the station puts the hand away", () => {
  const onTurn = vi.fn();
  const { unmount } = render(<PoseButtons onTurn={onTurn} />);
  fireEvent.click(screen.getByRole("button", { name: "This face down" }));
  expect(screen.getByText("Press the face of the model that is to lie below.")).toBeTruthy();
  act(() => usePoseStore.getState().keep?.([90, 0, 0]));
  expect(onTurn).toHaveBeenCalledExactlyOnceWith([90, 0, 0]);
  expect(usePoseStore.getState().mode).toBeNull();
  unmount();
  expect(usePoseStore.getState().keep).toBeNull();
});
