import { useMemo } from "react";
import type { PieceView } from "../api/client";
import { useOpKinds } from "../api/ops";
import type { MergePatch } from "../api/preview";
import { usePartSchemas } from "../state/partSchemas";
import type { LeftOut as Step } from "../views/model/useBeside";

interface Named {
  /** What a part at a place is called; undefined where it has no name. */
  part: (at: string) => string | undefined;
  /** What an entry of the list at a place is called. */
  entry: (at: string, entry: Record<string, unknown>) => string | undefined;
  /** What a switch is called that is no part of its own. */
  field: (at: string) => string | undefined;
}

type Values = Record<string, unknown>;

const isValues = (value: unknown): value is Values => typeof value === "object" && value !== null && !Array.isArray(value);

/** Everything in a document that is switched on, in its order. */
export function stepsIn(document: object, named: Named): Step[] {
  const found: Step[] = [];
  const walk = (values: Values, at: string, around: (change: unknown) => MergePatch) => {
    const name = at && values.on === true ? named.part(at) : undefined;
    if (name) found.push({ key: at, name, without: around({ on: false }) });
    for (const [key, value] of Object.entries(values)) {
      const place = at ? `${at}.${key}` : key;
      const inside = (change: unknown) => around({ [key]: change });
      if (isValues(value)) walk(value, place, inside);
      else if (Array.isArray(value)) found.push(...entriesOf(value, place, inside, named));
      else if (key.endsWith("_on") && value === true) {
        const title = named.field(place);
        if (title) found.push({ key: place, name: title, without: inside(false) });
      }
    }
  };
  walk(document as Values, "", (change) => change as MergePatch);
  return found.map((step) => {
    const alike = found.filter(({ name }) => name === step.name);
    return alike.length > 1 ? { ...step, name: `${step.name}, ${alike.indexOf(step) + 1}` } : step;
  });
}

function entriesOf(list: readonly unknown[], at: string, inside: (change: unknown) => MergePatch, named: Named): Step[] {
  return list.flatMap((entry, number) => {
    if (!isValues(entry) || entry.on !== true) return [];
    const name = named.entry(at, entry);
    const without = list.map((other, place) => (place === number ? { ...entry, on: false } : other));
    return name ? [{ key: typeof entry.id === "string" ? entry.id : `${at}.${number}`, name, without: inside(without) }] : [];
  });
}

/** The steps of a piece that is worked on. */
export function useSteps(document: PieceView["document"]): readonly Step[] {
  const schemas = usePartSchemas();
  const ops = useOpKinds();
  return useMemo(() => {
    const told = (tell: () => string | undefined) => {
      try {
        return tell() || undefined;
      } catch {
        // What has no schema has no name, and is no step.
        return undefined;
      }
    };
    return stepsIn(document, {
      part: (at) => told(() => schemas.part(document, at).heading),
      entry: (at, entry) =>
        ops.find((kind) => at === "ops" && kind.kind === entry.kind)?.title ??
        told(() => {
          const kinds = schemas.kinds(document, at);
          const own = typeof entry.name === "string" ? entry.name : "";
          return own || (kinds[String(entry.kind)] ?? Object.values(kinds)[0])?.heading;
        }),
      field: (at) => told(() => schemas.field(document, at).title.replace(/ switched on$/, "")),
    });
  }, [document, schemas, ops]);
}
