import { create } from "zustand";
import type { Light } from "./benchStore";

const KEY = "nebrel-judging";

/** What a piece can look as if it were made of, to judge its form. */
export const SURFACES = ["plaster", "clay", "bronze", "wood", "stone"] as const;
export type Surface = (typeof SURFACES)[number];

/** From the left and low, raking over the form, and from above. */
const FIRST_LIGHTS: readonly Light[] = [
  { fromDeg: 140, aboveDeg: 24 },
  { fromDeg: 200, aboveDeg: 9 },
  { fromDeg: 60, aboveDeg: 58 },
];

interface Judging {
  surface: Surface;
  /** Three lights that are kept, to look at everything alike. */
  lights: readonly Light[];
  /** Whether shadows are as soft as those of a wide lamp, and hollows dark, once nothing moves. */
  soft: boolean;
  /** Counts up with every picture of the stage that is asked for. */
  pictures: number;
  choose: (surface: Surface) => void;
  keepLight: (at: number, light: Light) => void;
  soften: (soft: boolean) => void;
  takePicture: () => void;
}

/** How form is judged: kept in this browser, the same for all pieces. */
export const useJudgingStore = create<Judging>()((set, get) => ({
  ...remembered(),
  pictures: 0,
  choose: (surface) => {
    set({ surface });
    remember(get());
  },
  keepLight: (at, light) => {
    set({ lights: get().lights.map((kept, number) => (number === at ? light : kept)) });
    remember(get());
  },
  soften: (soft) => {
    set({ soft });
    remember(get());
  },
  takePicture: () => set({ pictures: get().pictures + 1 }),
}));

type Kept = Pick<Judging, "surface" | "lights" | "soft">;

function remember({ surface, lights, soft }: Kept): void {
  globalThis.localStorage?.setItem(KEY, JSON.stringify({ surface, lights, soft }));
}

/** What this browser keeps; what is not as it should be counts for nothing. */
export function remembered(): Kept {
  try {
    const kept = JSON.parse(globalThis.localStorage?.getItem(KEY) ?? "{}") as Partial<Judging>;
    return {
      surface: SURFACES.find((surface) => surface === kept.surface) ?? "plaster",
      lights: FIRST_LIGHTS.map((light, at) => (isLight(kept.lights?.[at]) ? kept.lights[at] : light)),
      soft: kept.soft === true,
    };
  } catch {
    return { surface: "plaster", lights: FIRST_LIGHTS, soft: false };
  }
}

function isLight(light: unknown): light is Light {
  const { fromDeg, aboveDeg } = (light ?? {}) as Partial<Light>;
  return Number.isFinite(fromDeg) && Number.isFinite(aboveDeg);
}
