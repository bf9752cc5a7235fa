import { useQuery } from "@tanstack/react-query";
import { fetchSteps } from "../../../../api/steps";
import { Button } from "../../../../ui/Button";
import { patchAt } from "../../../common/fields/patchAt";
import type { StationProps } from "../../../common/stationProps";
import type { Step } from "./stepEdits";
import { StepRows } from "./StepRows";

/** The table of steps: every tone with its swatch, its share of the picture and its height. */
export function StepTable({ pieceId, revision, document, editing }: StationProps) {
  const steps: readonly Step[] = document.height.rule.steps;
  const weighed = useQuery({
    queryKey: ["steps", pieceId, revision, steps],
    queryFn: () => fetchSteps(pieceId, patchAt("height.rule.steps", steps)),
    placeholderData: (before) => before,
  }).data;
  const keep = (what: string, next: readonly Step[]) => editing.keep(what, patchAt("height.rule.steps", next));
  return (
    <StepRows steps={steps} shares={weighed?.table.map(({ share }) => share)} onKeep={keep}>
      <Button
        size="sm"
        variant="outline-secondary"
        disabled={!weighed}
        onClick={() => weighed && keep("Steps from the tones present", weighed.found.map(({ tone, mm }) => ({ tone, mm })))}
      >
        From the tones present
      </Button>
    </StepRows>
  );
}
