import type { BuildReport } from "../api/client";
import { useBenchStore } from "../state/benchStore";
import { formatLength } from "../state/units";

/** What a build measured. */
export function ReportFacts({ report }: { report: BuildReport }) {
  const unit = useBenchStore((state) => state.unit);
  const size = report.size_mm.map((side) => formatLength(side, unit)).join(" × ");
  return (
    <dl className="facts" data-testid="build-report">
      <dt>Size</dt>
      <dd>
        {size} {unit}
      </dd>
      <dt>Triangles</dt>
      <dd>{report.triangles.toLocaleString("en")}</dd>
      {report.error_where === "nowhere" ? (
        <>
          <dt>Error</dt>
          <dd>{report.error_how}</dd>
        </>
      ) : (
        <>
          <dt title={`${report.error_how}, ${report.error_where}`}>Largest error</dt>
          <dd title={`${report.error_how}, ${report.error_where}`}>{report.max_error_mm.toFixed(4)} mm</dd>
          {report.max_error_between_mm !== null && (
            <>
              <dt>Between samples</dt>
              <dd>{report.max_error_between_mm.toFixed(4)} mm</dd>
            </>
          )}
          <dt>RMS error</dt>
          <dd>{report.rms_error_mm.toFixed(4)} mm</dd>
        </>
      )}
      {report.edges && (
        <>
          <dt>Walls along curves</dt>
          <dd title="How far the finished walls are from where the picture shows its edges; hard edges show them to half a pixel.">
            {formatLength(report.edges.walls_mm, unit)} {unit}, {report.edges.max_error_mm.toFixed(3)} mm off at most
          </dd>
        </>
      )}
      {report.form && (
        <>
          <dt>Parts in order</dt>
          <dd title="Measured on the finished solid, along all places where one part hides another.">
            {report.form.overlaps_mm > 0 ? `${(100 * report.form.order_kept).toFixed(1)} % of ${formatLength(report.form.overlaps_mm, unit)} ${unit}` : "nothing hides another part"}
          </dd>
        </>
      )}
      {report.mould && (
        <>
          <dt>It holds</dt>
          <dd title="What it takes to fill the mould, with its channel.">{report.mould.holds_cm3.toFixed(2)} cm³</dd>
          <dt>Walls lean by</dt>
          <dd title="Measured on the finished mould, but for 0.5 % of its cavity.">{report.mould.least_draft_deg.toFixed(1)}° at least</dd>
          <dt>The piece reaches in</dt>
          <dd title="How far the piece, made larger by what it shrinks, would reach into the finished mould.">by {report.mould.reaches_in_mm.toFixed(3)} mm at most</dd>
        </>
      )}
      {report.printed && (
        <>
          <dt>The file stands</dt>
          <dd>
            {report.printed.size_mm.map((side) => formatLength(side, unit)).join(" × ")} {unit}, {report.printed.sound ? "sound" : "not sound"}
          </dd>
          {report.printed.bodies.length > 0 && (
            <>
              <dt>Bodies</dt>
              <dd>{report.printed.bodies.map(({ name, volume_mm3: mm3 }) => `${name}, ${(mm3 / 1000).toFixed(2)} cm³`).join("; ")}</dd>
            </>
          )}
        </>
      )}
      <dt>Volume</dt>
      <dd>{(report.volume_mm3 / 1000).toFixed(2)} cm³</dd>
      {report.lit && (
        <>
          <dt>Contrast in light</dt>
          <dd>1 : {report.lit.contrast.toFixed(1)}</dd>
          <dt>Likeness within reach</dt>
          <dd>{report.lit.ssim_within_reach.toFixed(3)} of 1</dd>
        </>
      )}
      {report.lit?.colours && (
        <>
          <dt>Colours off, CIEDE2000</dt>
          <dd>{report.lit.colours.mean_difference.toFixed(1)} on average</dd>
          <dt>Bodies</dt>
          <dd>{report.lit.colours.bodies.map((body) => body.name + (body.sound ? "" : ", not sound")).join("; ")}</dd>
        </>
      )}
      {report.figure && (
        <>
          <dt>Seen from the front</dt>
          <dd>{(100 * report.figure.overlap_mask).toFixed(2)} % as cut out</dd>
          <dt>Made thicker</dt>
          <dd>{report.figure.thickened_mm2.toFixed(1)} mm²</dd>
        </>
      )}
      <dt>File</dt>
      <dd>{(report.file_bytes / 2 ** 20).toFixed(1)} MiB</dd>
      <dt>Took</dt>
      <dd>{report.seconds.toFixed(1)} s</dd>
    </dl>
  );
}
