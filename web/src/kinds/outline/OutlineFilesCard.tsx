import { WorkCard } from "../../ui/WorkCard";

const FILES = [
  { href: "outlines.svg", label: "SVG", hint: "Curves in mm at true size." },
  { href: "outlines.dxf", label: "DXF, polylines", hint: "R2010 in mm, closed polylines no further than 3 µm from the curves." },
  { href: "outlines.dxf?splines=true", label: "DXF, splines", hint: "R2010 in mm, curves as splines." },
] as const;

/** The outlines themselves, for cutting and for other programs. */
export function OutlineFilesCard({ pieceId }: { pieceId: string }) {
  return (
    <WorkCard title="Outlines as a file">
      <div className="d-flex flex-wrap gap-1">
        {FILES.map(({ href, label, hint }) => (
          <a key={href} className="btn btn-outline-secondary btn-sm" href={`/api/pieces/${pieceId}/${href}`} download title={hint}>
            {label}
          </a>
        ))}
      </div>
      <p className="quiet-label">As they are after mending, in millimetres at true size.</p>
    </WorkCard>
  );
}
