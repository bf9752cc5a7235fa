const KEY = "nebrel-screen-px-per-mm";
/** What a browser takes a screen for that it knows nothing of: 96 pixels to the inch. */
export const USUAL_PX_PER_MM = 96 / 25.4;

/** Screen pixels that make a millimetre, as measured on this screen, or as usual. */
export function screenPxPerMm(): number {
  const kept = Number(globalThis.localStorage?.getItem(KEY));
  return kept > 0 ? kept : USUAL_PX_PER_MM;
}

/** Keep what was measured: a bar of `barPx` is `measuredMm` long on this screen. */
export function measureScreen(barPx: number, measuredMm: number): void {
  globalThis.localStorage?.setItem(KEY, String(barPx / measuredMm));
}
