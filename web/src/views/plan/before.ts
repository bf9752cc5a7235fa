import type { Plan } from "../../api/preview";

export interface Before {
  /** Whether anything but the frame was changed. */
  comparable: boolean;
  /** The picture with only its frame changed, so that it lies on what the Plan shows; null unless it is compared. */
  plan: Plan | null;
}
