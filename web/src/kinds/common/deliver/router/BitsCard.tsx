import { useState } from "react";
import { useRack, useReach, useReachFixes } from "../../../../api/carving";
import type { RouterBit } from "../../../../api/client";
import { usePartSchemas } from "../../../../state/partSchemas";
import { Button } from "../../../../ui/Button";
import { WorkCard } from "../../../../ui/WorkCard";
import { RowFields } from "../../fields/RowFields";
import type { AnyStationProps } from "../../stationProps";
import { KeptRows } from "./KeptRows";
import { percent } from "./percent";

const ENOUGH = 0.002;
const ROLES = { rough: "roughs", finish: "finishes" } as const;

/** The bits that work on the piece, what they cannot reach, and the rack that they come from. */
export function BitsCard({ pieceId, revision, document, editing }: AnyStationProps) {
  const part = usePartSchemas().kinds(document, "carving.bits")[""];
  const { bits: rack, add, change, drop } = useRack();
  const [open, setOpen] = useState<number | null>(null);
  const bits: readonly RouterBit[] = document.carving.bits;
  const finishes = bits.some(({ role }) => role === "finish");
  const reach = useReach(pieceId, revision, finishes);
  const keep = (label: string, next: readonly RouterBit[]) => editing.keep(label, { carving: { bits: next } });
  const keepInRack = (bit: RouterBit) => {
    const same = rack.find((each) => each.bit.name === bit.name);
    if (same) change.mutate({ ...same, bit });
    else add.mutate(bit);
  };
  const inRack = (bit: RouterBit) => rack.some((each) => JSON.stringify(each.bit) === JSON.stringify(bit));
  const refusal = add.error ?? change.error ?? reach.error;
  return (
    <WorkCard title="Bits">
      {bits.map((bit, at) => (
        <section key={`${at} ${bit.name}`} className="opening" aria-label={bit.name}>
          <div className="d-flex align-items-center gap-1">
            <strong className="flex-grow-1">{bit.name}</strong>
            <span className="quiet-label">{bit.kind === "drill" ? "drills" : ROLES[bit.role]}</span>
            <button type="button" className="icon-button" aria-label={`Change ${bit.name}`} aria-expanded={open === at} onClick={() => setOpen(open === at ? null : at)}>
              <i className="bi bi-sliders" aria-hidden="true" />
            </button>
            <button type="button" className="icon-button" aria-label={`Put ${bit.name} back`} onClick={() => keep(`Without ${bit.name}`, bits.filter((_, i) => i !== at))}>
              <i className="bi bi-x-lg" aria-hidden="true" />
            </button>
          </div>
          <ReachWords found={reach.data?.bits.find(({ name }) => name === bit.name)} over={reach.data?.over_mm} role={bit.role} />
          {open === at && part && (
            <>
              <div className="field-pairs">
                <RowFields
                  part={part}
                  row={bit}
                  onKeep={(what, changed) => keep(`${bit.name}, ${what}`, bits.map((each, i) => (i === at ? { ...each, ...changed } : each)))}
                />
              </div>
              {!inRack(bit) && (
                <Button size="sm" variant="outline-secondary" onClick={() => keepInRack(bit)}>
                  Keep it in the rack
                </Button>
              )}
            </>
          )}
        </section>
      ))}
      {reach.data && reach.data.bits.length > 1 && (
        <p className="quiet-label" data-testid="reach-together">
          Together they leave more than {reach.data.over_mm} mm on {percent(reach.data.together.share)} of the surface.
        </p>
      )}
      <ReachFixes pieceId={pieceId} revision={revision} editing={editing} wanted={(reach.data?.together.share ?? 0) > ENOUGH} />
      <KeptRows
        title="Rack"
        place="the rack"
        rows={rack.map(({ id, bit: { name } }) => ({ id, name, taken: bits.some((bit) => bit.name === name) }))}
        onTake={(at) => {
          const taken = rack[at];
          if (taken) keep(`With ${taken.bit.name}`, placed(bits, taken.bit));
        }}
        onDrop={(id) => drop.mutate(id)}
      />
      {refusal && (
        <p className="measure-refusal" role="alert">
          {refusal.message}
        </p>
      )}
    </WorkCard>
  );
}

/** What would let bits reach more, with what it would come to. */
function ReachFixes({ pieceId, revision, editing, wanted }: Pick<AnyStationProps, "pieceId" | "revision" | "editing"> & { wanted: boolean }) {
  const fixes = useReachFixes(pieceId, revision, wanted).data;
  if (!wanted || !fixes) return null;
  return fixes.map(({ words, change, share, most_mm, moved_rms_mm }) => (
    <div key={words} className="d-flex align-items-center gap-2" data-testid="reach-fix">
      <span className="flex-grow-1 quiet-label">
        {words}: then {percent(share)}, up to {most_mm.toFixed(2)} mm
        {moved_rms_mm > 0 && `; the surface itself moves by ${moved_rms_mm.toFixed(2)} mm (RMS)`}.
      </span>
      <Button size="sm" variant="outline-secondary" aria-label={`Fix: ${words}`} onClick={() => editing.keep(words, change)}>
        Fix
      </Button>
    </div>
  ));
}

function ReachWords({ found, over, role }: { found: { most_mm: number; share: number } | undefined; over: number | undefined; role: RouterBit["role"] }) {
  if (role !== "finish" || !found || over === undefined) return null;
  return (
    <p className="quiet-label mb-1" data-testid="reach">
      {found.share > 0 ? `Leaves more than ${over} mm on ${percent(found.share)} of the surface, up to ${found.most_mm.toFixed(2)} mm.` : `Reaches everywhere to within ${over} mm.`}
    </p>
  );
}

/** Bits that rough come first, then those that finish, from coarse to fine. */
function placed(bits: readonly RouterBit[], bit: RouterBit): RouterBit[] {
  const tip = ({ kind, diameter_mm, tip_radius_mm }: RouterBit) => (kind === "taper" ? 2 * tip_radius_mm : kind === "v" ? 0 : diameter_mm);
  const all = bit.role === "rough" ? [...bits.filter(({ role }) => role !== "rough"), bit] : [...bits, bit];
  return all.sort((one, other) => Number(one.role === "finish") - Number(other.role === "finish") || tip(other) - tip(one));
}
