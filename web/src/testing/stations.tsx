import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import type { ReactNode } from "react";
import { vi } from "vitest";
import type { PieceView } from "../api/client";
import { counts, partAt, type PartField } from "../api/parts";
import type { Editing } from "../state/useEditing";
import { onPage } from "./page";
import { PARTS } from "./parts";

export const keep = vi.fn<Editing["keep"]>();
export const drag = vi.fn<Editing["drag"]>();
export const editing: Editing = { keep, drag };

type Data = Record<string, unknown>;

/** A document as the server would begin it, with some of its parts otherwise. */
export function begun(root: string, change: Data = {}): Data {
  return merged(PARTS.parts[root]?.defaults ?? {}, change);
}

/** The starting values of a part, with some otherwise. */
export function part(name: string, change: Data = {}): Data {
  return begun(name, change);
}

/** A piece of a kind, for stations that look at one. */
export function pieceOf(kind: string, document: Data, shapes: { name: string; title: string }[] = []): PieceView {
  return { id: "p1", kind, shape: kind, shapes, revision: 1, document, stations: [], abilities: [] } as unknown as PieceView;
}

/** Draw something on the bench of a kind of piece. */
export function show(ui: ReactNode, kind: string) {
  cleanup();
  return render(ui, { wrapper: onPage(undefined, kind) });
}

/** Type into a field and press Enter. */
export function type(label: string, text: string): void {
  const field = screen.getByLabelText(label);
  fireEvent.change(field, { target: { value: text } });
  fireEvent.keyDown(field, { key: "Enter" });
}

/** The last step that was kept: what the history calls it, and its change. */
export function kept(): [string, unknown] {
  const last = keep.mock.calls.at(-1);
  if (!last) throw new Error("Nothing was kept.");
  return last;
}

/** Parameters of a part that a person types as a number and that count as the part is, with where each stands. */
export function typedIn(root: string, document: Data, at: string): { field: PartField; place: string }[] {
  const values = at.split(".").reduce<unknown>((value, name) => (value as Data)[name], document) as Data;
  return partAt(PARTS, root, document, at)
    .fields.filter((field) => (field.type === "number" || field.type === "whole") && values[field.name] != null && counts(field, values))
    .map((field) => ({ field, place: `${at}.${field.name}` }));
}

/** What to type so that a parameter changes: another number within its limits, and the same as the server keeps it. */
export function otherwise(field: PartField, value: number): { text: string; number: number } {
  const [low, high] = [field.lowest ?? value, field.highest ?? value + 1];
  const middle = value === low ? Math.min(high, low + 1) : (value + low) / 2;
  const whole = Math.round(middle) === value ? low : Math.round(middle);
  const number = field.type === "whole" ? whole : Math.round(middle * 1000) / 1000;
  const share = field.unit === "%" || field.unit === "tone";
  return { text: share ? `${number * 100} %` : String(number), number };
}

function merged(data: Data, change: Data): Data {
  const both = { ...data };
  for (const [name, value] of Object.entries(change)) {
    const old = both[name];
    const nested = value !== null && typeof value === "object" && !Array.isArray(value) && old !== null && typeof old === "object" && !Array.isArray(old);
    both[name] = nested ? merged(old as Data, value as Data) : value;
  }
  return both;
}
