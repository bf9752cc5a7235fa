// @vitest-environment happy-dom
import { act, renderHook } from "@testing-library/react";
import { beforeEach, expect, test } from "vitest";
import { NO_ANSWER } from "../api/client";
import { useConnection } from "../api/connection";
import { useBenchStore } from "./benchStore";
import { useRefusal } from "./useRefusal";

beforeEach(() => {
  useConnection.setState({ connected: true });
  useBenchStore.setState({ editRefusal: null, refusal: null });
});

test("an edit that got no answer is no refusal once the server is back", () => {
  const { result } = renderHook(() => useRefusal());
  act(() => useBenchStore.setState({ editRefusal: NO_ANSWER }));
  expect(result.current).toBe(NO_ANSWER);
  act(() => useConnection.setState({ connected: false }));
  expect(result.current).toBeNull();
  act(() => useConnection.setState({ connected: true }));
  expect(result.current).toBeNull();
});

test("any other refusal is said again once the server is back", () => {
  const { result } = renderHook(() => useRefusal());
  act(() => useBenchStore.setState({ editRefusal: "Width must be at least 5 mm." }));
  act(() => useConnection.setState({ connected: false }));
  act(() => useConnection.setState({ connected: true }));
  expect(result.current).toBe("Width must be at least 5 mm.");
});
