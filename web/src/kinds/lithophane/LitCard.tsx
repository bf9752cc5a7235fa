import { useLitFacts } from "../../api/lithophanes";
import { WorkCard } from "../../ui/WorkCard";
import type { LithophaneStationProps } from "../common/stationProps";

/** What is measured of the lit piece, through its actual walls. */
export function LitCard({ pieceId, revision }: Pick<LithophaneStationProps, "pieceId" | "revision">) {
  const facts = useLitFacts(pieceId, revision).data;
  if (!facts) return null;
  const { lit } = facts;
  return (
    <WorkCard title="In light">
      <dl className="facts" data-testid="lit-facts">
        <dt>Contrast reached</dt>
        <dd>1 : {lit.contrast.toFixed(1)}</dd>
        <dt>Tones too dark to show</dt>
        <dd>{(100 * lit.tones_lost).toFixed(1)} % of the picture</dd>
        <dt>Walls of the picture</dt>
        <dd>
          {lit.thinnest_mm.toFixed(2)} to {lit.thickest_mm.toFixed(2)} mm
        </dd>
        <dt>Likeness to what is aimed at</dt>
        <dd>{lit.ssim_within_reach.toFixed(3)} of 1</dd>
        <dt>Likeness to the picture</dt>
        <dd>{lit.ssim.toFixed(3)} of 1</dd>
        {lit.colours && (
          <>
            <dt>Colours off, CIEDE2000</dt>
            <dd>{lit.colours.mean_difference.toFixed(1)} on average</dd>
            <dt>Colours far off</dt>
            <dd>{(100 * lit.colours.far_off).toFixed(0)} % of the picture</dd>
          </>
        )}
        <dt>Smallest visible detail</dt>
        <dd>{facts.detail_mm.toFixed(2)} mm</dd>
      </dl>
      <p className="quiet-label">Measured through the walls of the preview, square to its form.</p>
    </WorkCard>
  );
}
