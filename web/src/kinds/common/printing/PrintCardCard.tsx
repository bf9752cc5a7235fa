import { useLooked } from "../../../state/useLooked";
import { WorkCard } from "../../../ui/WorkCard";
import type { AnyStationProps } from "../stationProps";

const FORMS = [
  { form: "pdf", icon: "bi-file-earmark-pdf", name: "PDF" },
  { form: "txt", icon: "bi-file-earmark-text", name: "Text" },
];

/** How to print the piece, on a card that goes to the machine with it. */
export function PrintCardCard({ pieceId, revision }: Pick<AnyStationProps, "pieceId" | "revision">) {
  const { finished } = useLooked(pieceId, revision);
  return (
    <WorkCard title="Print card">
      <p className="quiet-label mb-1">Lines, layers, how it lies, support, colours, time, weight and price, on one page.</p>
      <div className="d-flex gap-2">
        {FORMS.map(({ form, icon, name }) => (
          <a key={form} className="btn btn-sm btn-outline-secondary" href={`/api/pieces/${pieceId}/print-card.${form}?finished=${finished}`} download>
            <i className={`bi ${icon} me-2`} aria-hidden="true" />
            {name}
          </a>
        ))}
      </div>
    </WorkCard>
  );
}
