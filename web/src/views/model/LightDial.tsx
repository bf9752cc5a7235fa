import type { PointerEvent } from "react";
import { useBenchStore } from "../../state/benchStore";

const LOWEST_DEG = 4;

/** A dial that turns a lamp round the model: direction by angle, height by distance from the rim. */
export function LightDial() {
  const light = useBenchStore((state) => state.light);
  const set = useBenchStore((state) => state.set);
  const from = (light.fromDeg * Math.PI) / 180;
  const reach = (1 - light.aboveDeg / 90) * 40;
  const at = { x: 50 + reach * Math.cos(from), y: 50 - reach * Math.sin(from) };

  const aim = (fromDeg: number, aboveDeg: number) =>
    set({
      light: {
        fromDeg: Math.round((fromDeg + 360) % 360),
        aboveDeg: Math.round(Math.min(90, Math.max(LOWEST_DEG, aboveDeg))),
      },
    });
  const onPointer = (event: PointerEvent<SVGSVGElement>) => {
    if (event.type === "pointerdown") event.currentTarget.setPointerCapture(event.pointerId);
    else if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
    const box = event.currentTarget.getBoundingClientRect();
    const x = (event.clientX - box.left - box.width / 2) / (box.width / 2);
    const y = (box.top + box.height / 2 - event.clientY) / (box.height / 2);
    aim((Math.atan2(y, x) * 180) / Math.PI, 90 * (1 - Math.hypot(x, y) / 0.8));
  };

  return (
    <svg
      className="light-dial"
      viewBox="0 0 100 100"
      role="slider"
      tabIndex={0}
      aria-label="Lamp"
      aria-valuemin={0}
      aria-valuemax={359}
      aria-valuenow={light.fromDeg}
      aria-valuetext={`from ${light.fromDeg} degrees, ${light.aboveDeg} degrees above the surface`}
      data-testid="light-dial"
      onPointerDown={onPointer}
      onPointerMove={onPointer}
      onKeyDown={(event) => {
        const step = event.shiftKey ? 15 : 5;
        if (event.key === "ArrowLeft") aim(light.fromDeg + step, light.aboveDeg);
        else if (event.key === "ArrowRight") aim(light.fromDeg - step, light.aboveDeg);
        else if (event.key === "ArrowUp") aim(light.fromDeg, light.aboveDeg + step);
        else if (event.key === "ArrowDown") aim(light.fromDeg, light.aboveDeg - step);
        else return;
        event.preventDefault();
      }}
    >
      <circle cx={50} cy={50} r={46} fill="rgb(44 49 51 / 72%)" stroke="#fbf8f2" strokeOpacity={0.45} />
      <circle cx={50} cy={50} r={20} fill="none" stroke="#fbf8f2" strokeOpacity={0.18} />
      <path d={`M50 50 L${at.x} ${at.y}`} stroke="#f4d9a0" strokeOpacity={0.6} />
      <rect x={45} y={45} width={10} height={10} rx={1.5} fill="#d9ccb2" />
      <circle cx={at.x} cy={at.y} r={7} fill="#f9e3b0" stroke="#2a2d2e" />
      <text x={50} y={88} textAnchor="middle" fontSize={10.5} fill="#fbf8f2">
        {light.aboveDeg}° high
      </text>
    </svg>
  );
}
