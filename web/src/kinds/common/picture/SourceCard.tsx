import { useBenchStore } from "../../../state/benchStore";
import { lengthWithUnit } from "../../../state/units";
import { WorkCard } from "../../../ui/WorkCard";
import type { PicturedStationProps } from "../stationProps";
import { usePlan } from "../../../state/previews";

/** What the file is, and what its pixels become at the size of the piece. */
export function SourceCard({ document }: Pick<PicturedStationProps, "document">) {
  const unit = useBenchStore((state) => state.unit);
  const pitch = usePlan()?.head;
  const { picture } = document;
  const levels = (2 ** Math.min(picture.bit_depth, 16)).toLocaleString("en");
  const onePixel = pitch ? pitch.size_mm[0] / Math.max(1, pitch.full_px[0] - 1) : null;
  return (
    <WorkCard title="Source">
      <dl className="facts">
        <dt>File</dt>
        <dd>{picture.name}</dd>
        <dt>Format</dt>
        <dd>
          {picture.format}, {picture.channels}
        </dd>
        <dt>Pixels</dt>
        <dd>
          {picture.width_px.toLocaleString("en")} × {picture.height_px.toLocaleString("en")}
        </dd>
        <dt>Depth</dt>
        <dd>
          {picture.bit_depth} bit{picture.bit_depth <= 16 && `, ${levels} tones`}
        </dd>
        <dt>Says of its size</dt>
        <dd>{picture.dpi ? `${picture.dpi} dpi, ${sizeAt(picture, unit)}` : "nothing"}</dd>
        {onePixel !== null && (
          <>
            <dt>One pixel on the piece</dt>
            <dd>{lengthWithUnit(onePixel, unit, unit === "mm" ? 3 : 4)}</dd>
            <dt>One printed line</dt>
            <dd>{(document.maker.line_width_mm / onePixel).toFixed(1)} pixels</dd>
          </>
        )}
      </dl>
      {picture.remarks?.map((remark) => (
        <p key={remark} className="quiet-label">
          {remark}
        </p>
      ))}
      <p className="quiet-label">The original file is never changed.</p>
    </WorkCard>
  );
}

function sizeAt({ width_px, height_px, dpi }: PicturedStationProps["document"]["picture"], unit: "mm" | "in"): string {
  if (!dpi) return "";
  const side = (px: number) => (unit === "mm" ? ((px / dpi) * 25.4).toFixed(0) : (px / dpi).toFixed(2));
  return `${side(width_px)} × ${side(height_px)} ${unit}`;
}
