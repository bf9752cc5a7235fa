import { useQuery } from "@tanstack/react-query";
import Form from "react-bootstrap/Form";
import { answered, api, type Part } from "../../../api/client";
import { useBenchStore } from "../../../state/benchStore";
import { formatLength } from "../../../state/units";

interface Props {
  pieceId: string;
  revision: number;
  stepId: string;
  /** Numbers of the parts that stay. */
  chosen: readonly number[];
  onChange: (chosen: number[]) => void;
}

/** The parts that come into a step, the largest first, each to be kept or dropped. */
export function PartsList({ pieceId, revision, stepId, chosen, onChange }: Props) {
  const unit = useBenchStore((state) => state.unit);
  const parts = useQuery({
    queryKey: ["parts", pieceId, revision, stepId],
    queryFn: () =>
      answered<Part[]>(
        api.GET("/api/pieces/{piece_id}/parts/{step_id}", { params: { path: { piece_id: pieceId, step_id: stepId } } }),
      ),
    placeholderData: (before) => before,
    retry: false,
  }).data;
  if (!parts) return null;
  const told = (part: Part) => part.size_mm.map((side) => formatLength(Math.round(side * 100) / 100, unit)).join(" × ");
  return (
    <div role="group" aria-label="Parts">
      {parts.map((part) => {
        const kept = chosen.includes(part.number);
        return (
          <Form.Check
            key={part.number}
            id={`part-${stepId}-${part.number}`}
            label={`${told(part)} ${unit}, ${part.triangles.toLocaleString("en")} triangles`}
            checked={kept}
            disabled={kept && chosen.length === 1}
            onChange={() => onChange(kept ? chosen.filter((other) => other !== part.number) : [...chosen, part.number].sort((a, b) => a - b))}
          />
        );
      })}
    </div>
  );
}
