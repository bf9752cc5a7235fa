/** A tinted material as its table tells it: its name, and what of red, green and blue passes its thickest layer. */
export interface ColourBand {
  name: string;
  passed: readonly number[];
}

/** The colours of a measured table in their order; the server reads and judges it, this only shows it. */
export function bandsIn(table: string): ColourBand[] {
  const found = new Map<string, { mm: number; passed: number[] }>();
  for (const line of table.split("\n")) {
    const [name = "", ...rest] = (line.split("#")[0] ?? "").split(",").map((word) => word.trim());
    const [mm = Number.NaN, ...passed] = rest.map(shareOf);
    if (!name || passed.length !== 3 || [mm, ...passed].some(Number.isNaN)) continue;
    if (mm > (found.get(name)?.mm ?? -1)) found.set(name, { mm, passed });
  }
  return [...found].map(([name, { passed }]) => ({ name, passed }));
}

function shareOf(word: string): number {
  if (word === "") return Number.NaN;
  return word.endsWith("%") ? Number(word.slice(0, -1)) / 100 : Number(word);
}
