import type { LithophaneDocument } from "../../api/client";

export type FormPart = LithophaneDocument["form"];
export type FormKind = FormPart["kind"];

/** What a lantern is across when it is first rolled up, mm. */
export const LANTERN_MM = 80;

/** Whether a sheet over it runs round. */
export function isRound(kind: FormKind): boolean {
  return kind !== "flat" && kind !== "arc";
}

const ROLLED: readonly FormKind[] = ["cylinder", "prism", "heart"];
/** Forms whose width is that of the sheet. */
const SHEET_WIDE: readonly FormKind[] = ["flat", "arc", ...ROLLED];

/** The edit that bends the sheet over another form: a sheet rolled up needs to be longer than one that lies. */
export function formPatch(form: FormPart, kind: FormKind): Partial<FormPart> {
  const rolled = ROLLED.includes(kind);
  if (rolled === ROLLED.includes(form.kind) || !SHEET_WIDE.includes(kind)) return { kind };
  return { kind, width_mm: rolled ? Math.max(form.width_mm, acrossToRound(LANTERN_MM)) : Math.min(form.width_mm, 120) };
}

/** Once round, from how far it is across. */
export function acrossToRound(across: number): number {
  return Math.round(across * Math.PI * 1000) / 1000;
}

/** How far across, from once round. */
export function roundToAcross(round: number): number {
  return Math.round((round / Math.PI) * 1000) / 1000;
}
