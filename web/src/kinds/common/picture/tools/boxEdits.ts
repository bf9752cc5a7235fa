import type { ContentBox } from "../../../../api/ops";

export type Side = "left" | "right" | "bottom" | "top";
export type Grip = readonly Side[];

const LEAST = 0.01;

/** The box after its gripped sides moved by shares of the picture; all four gripped moves the whole. */
export function gripped(box: ContentBox, grip: Grip, dx: number, dy: number): ContentBox {
  if (grip.length === 4) {
    const across = clamp(dx, -box.left, 1 - box.right);
    const up = clamp(dy, -box.bottom, 1 - box.top);
    return { left: box.left + across, right: box.right + across, bottom: box.bottom + up, top: box.top + up };
  }
  return {
    left: grip.includes("left") ? clamp(box.left + dx, 0, box.right - LEAST) : box.left,
    right: grip.includes("right") ? clamp(box.right + dx, box.left + LEAST, 1) : box.right,
    bottom: grip.includes("bottom") ? clamp(box.bottom + dy, 0, box.top - LEAST) : box.bottom,
    top: grip.includes("top") ? clamp(box.top + dy, box.bottom + LEAST, 1) : box.top,
  };
}

/**
 * The box made to have `proportion` (its width over its height, both in shares), by moving the gripped sides and
 * staying inside the picture.
 */
export function proportioned(box: ContentBox, grip: Grip, proportion: number): ContentBox {
  const leftHeld = !grip.includes("left");
  const bottomHeld = !grip.includes("bottom");
  const roomAcross = leftHeld ? 1 - box.left : box.right;
  const roomUp = bottomHeld ? 1 - box.bottom : box.top;
  const byHeight = !grip.includes("left") && !grip.includes("right");
  const wanted = byHeight ? (box.top - box.bottom) * proportion : box.right - box.left;
  const width = Math.min(wanted, roomAcross, roomUp * proportion);
  const height = width / proportion;
  return {
    left: leftHeld ? box.left : box.right - width,
    right: leftHeld ? box.left + width : box.right,
    bottom: bottomHeld ? box.bottom : box.top - height,
    top: bottomHeld ? box.bottom + height : box.top,
  };
}

/** Width over height that a choice of proportions asks for; null for none. */
export function askedProportion(aspect: unknown, width: number, depth: number): number | null {
  if (aspect === "kept") return width / depth;
  const [across, up] = String(aspect).split(":").map(Number);
  return across && up ? across / up : null;
}

function clamp(value: number, low: number, high: number): number {
  return Math.min(high, Math.max(low, value));
}
