import { readdirSync, readFileSync } from "node:fs";
import { dirname, join, normalize } from "node:path";
import { expect, test } from "vitest";

const IMPORT = /(?:from|import\()\s*"(\.[^"]+)"/g;

/** Which folders every folder below `src` imports from, without tests. */
function imports(): Map<string, Set<string>> {
  const found = new Map<string, Set<string>>();
  const files = readdirSync("src", { recursive: true, encoding: "utf8" }).filter((file) => /\.tsx?$/.test(file) && !/\.test\.|\.d\.ts|^testing/.test(file));
  for (const file of files) {
    const folder = dirname(file);
    for (const [, target = ""] of readFileSync(join("src", file), "utf8").matchAll(IMPORT)) {
      const other = dirname(normalize(join(folder, target)));
      if (other !== folder) found.set(folder, (found.get(folder) ?? new Set()).add(other));
    }
  }
  return found;
}

/** A way from a folder back to itself, or null. */
function circle(folders: Map<string, Set<string>>): string[] | null {
  const done = new Set<string>();
  const walk = (folder: string, path: string[]): string[] | null => {
    if (path.includes(folder)) return [...path.slice(path.indexOf(folder)), folder];
    if (done.has(folder)) return null;
    for (const other of folders.get(folder) ?? []) {
      const found = walk(other, [...path, folder]);
      if (found) return found;
    }
    done.add(folder);
    return null;
  };
  for (const folder of folders.keys()) {
    const found = walk(folder, []);
    if (found) return found;
  }
  return null;
}

test("a circle is found where there is one", () => {
  const folders = new Map([
    ["a", new Set(["b"])],
    ["b", new Set(["c"])],
    ["c", new Set(["b"])],
  ]);
  expect(circle(folders)).toEqual(["b", "c", "b"]);
  folders.set("c", new Set());
  expect(circle(folders)).toBeNull();
});

test("folders of the pages import from each other in no circle", () => {
  const folders = imports();
  expect(folders.size).toBeGreaterThan(15);
  expect(circle(folders)).toBeNull();
});
