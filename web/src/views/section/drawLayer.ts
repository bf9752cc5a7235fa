import type { Layer, Rings } from "../../api/printing";
import type { CloseUp } from "../../state/benchStore";
import { wallLines } from "./layerLines";

const INSIDE = "#eadfc8";
const EDGE = "#5b5e5c";
const LINE = "#b89c6a";
const LINE_EDGE = "#8b7446";
const HOLLOW = "#b8412a";
const SUPPORT = "rgba(44, 111, 98, 0.16)";
const SUPPORT_EDGE = "rgba(44, 111, 98, 0.6)";
const HANGS = "rgba(176, 122, 30, 0.35)";
const HANGS_EDGE = "#b07a1e";
const PLATE = "#e6dfd1";
const GRID_MM = [1, 2, 5, 10, 20, 50, 100];
/** A line is drawn as one from this many pixels on; below it is a tone. */
const SEEN_PX = 1.2;
const GRID_PX = 28;

/** Where a view of a layer looks: its middle over the plate, and how large. */
export type LayerEye = CloseUp;

/** The whole layer with a margin about it. */
export function wholeLayer(size: readonly [number, number, number], width: number, height: number): LayerEye {
  const [wide, deep] = size;
  const scale = Math.max(1e-3, Math.min((width - 48) / Math.max(wide, 1e-6), (height - 56) / Math.max(deep, 1e-6)));
  return { x: wide / 2, y: deep / 2, scale };
}

/** Draw one layer from above, to scale, Y upwards. */
export function drawLayer(context: CanvasRenderingContext2D, layer: Layer, eye: LayerEye, width: number, height: number): void {
  const { scale } = eye;
  const x = (mm: number) => width / 2 + (mm - eye.x) * scale;
  const y = (mm: number) => height / 2 - (mm - eye.y) * scale;
  context.clearRect(0, 0, width, height);
  drawGrid(context, eye, width, height);
  const trace = ({ points, starts }: Rings) => {
    const path = new Path2D();
    starts.forEach((start, ring) => {
      const end = starts[ring + 1] ?? points.length / 2;
      for (let at = start; at < end; at++) {
        const [px, py] = [x(points[2 * at] ?? 0), y(points[2 * at + 1] ?? 0)];
        if (at === start) path.moveTo(px, py);
        else path.lineTo(px, py);
      }
      path.closePath();
    });
    return path;
  };
  const support = trace(layer.support);
  context.fillStyle = SUPPORT;
  context.fill(support, "evenodd");
  context.strokeStyle = SUPPORT_EDGE;
  context.lineWidth = 1;
  context.stroke(support);
  const outline = trace(layer.outline);
  context.fillStyle = layer.head.colour ?? INSIDE;
  context.fill(outline, "evenodd");
  context.save();
  context.clip(outline, "evenodd");
  drawWalls(context, layer, x, y, scale);
  context.restore();
  const hangs = trace(layer.hangs);
  context.fillStyle = HANGS;
  context.fill(hangs, "evenodd");
  context.strokeStyle = HANGS_EDGE;
  context.stroke(hangs);
  context.strokeStyle = EDGE;
  context.lineWidth = 1;
  context.stroke(outline);
}

function drawWalls(context: CanvasRenderingContext2D, layer: Layer, x: (mm: number) => number, y: (mm: number) => number, scale: number): void {
  const drawn = wallLines(layer);
  context.lineJoin = "round";
  context.lineCap = "butt";
  const stroke = (points: readonly number[], px: number, style: string) => {
    context.beginPath();
    for (let at = 0; at + 1 < points.length; at += 2) {
      const [px0, py0] = [x(points[at] ?? 0), y(points[at + 1] ?? 0)];
      if (at === 0) context.moveTo(px0, py0);
      else context.lineTo(px0, py0);
    }
    context.lineWidth = px;
    context.strokeStyle = style;
    context.stroke();
  };
  // What stays hollow lies below the lines, so that it shows between them.
  for (const { kind, points, wide } of drawn) if (kind !== "line") stroke(points, Math.max(1.5, wide * scale), HOLLOW);
  for (const { kind, points, wide } of drawn) {
    if (kind !== "line") continue;
    const px = wide * scale;
    if (px > 4) stroke(points, px, LINE_EDGE);
    stroke(points, Math.max(SEEN_PX, px > 4 ? px - 1.4 : px * 0.86), LINE);
  }
}

function drawGrid(context: CanvasRenderingContext2D, eye: LayerEye, width: number, height: number): void {
  const step = GRID_MM.find((mm) => mm * eye.scale >= GRID_PX) ?? 200;
  context.strokeStyle = PLATE;
  context.lineWidth = 1;
  context.beginPath();
  const [left, right] = [eye.x - width / 2 / eye.scale, eye.x + width / 2 / eye.scale];
  const [low, high] = [eye.y - height / 2 / eye.scale, eye.y + height / 2 / eye.scale];
  for (let mm = Math.ceil(left / step) * step; mm <= right; mm += step) {
    const at = Math.round(width / 2 + (mm - eye.x) * eye.scale) + 0.5;
    context.moveTo(at, 0);
    context.lineTo(at, height);
  }
  for (let mm = Math.ceil(low / step) * step; mm <= high; mm += step) {
    const at = Math.round(height / 2 - (mm - eye.y) * eye.scale) + 0.5;
    context.moveTo(0, at);
    context.lineTo(width, at);
  }
  context.stroke();
}
