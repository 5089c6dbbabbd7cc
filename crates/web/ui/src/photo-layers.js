// What is drawn over a photograph: rails with their badges, horizon, axes, lengths, handles.
import { css, tint } from "./colour.js";
import { haloed, polylines } from "./layers.js";

const DASHES = { x: [], y: [9, 4], z: [2, 4] };
const HUES = { x: "--axis-x", y: "--axis-y", z: "--axis-z" };
export const axisColour = (axis) => css(HUES[axis]);

function segment(ctx, viewport, a, b) {
  ctx.beginPath();
  ctx.moveTo(...viewport.plateToScreen(...a));
  ctx.lineTo(...viewport.plateToScreen(...b));
}

function badge(ctx, x, y, letter, colour) {
  ctx.beginPath();
  ctx.arc(x, y, 8, 0, 2 * Math.PI);
  ctx.fillStyle = "rgba(20,20,20,.8)";
  ctx.fill();
  ctx.fillStyle = colour;
  ctx.font = "700 11px Atkinson, sans-serif";
  ctx.textAlign = "center";
  ctx.textBaseline = "middle";
  ctx.fillText(letter.toUpperCase(), x, y + 0.5);
}

export function ring(ctx, viewport, px, colour, chosen) {
  const [x, y] = viewport.plateToScreen(...px);
  haloed(ctx, chosen ? 2.2 : 1.4, colour, () => {
    ctx.beginPath();
    ctx.arc(x, y, chosen ? 6 : 4.5, 0, 2 * Math.PI);
  });
}

/** From a rail's nearer end towards the vanishing point of its axis, faint. */
function prolonged(ctx, viewport, rail, v) {
  const [vx, vy, vw] = v;
  const far = 6 * viewport.plate[0];
  const towards = (p) => {
    const d = [vx - vw * p[0], vy - vw * p[1]];
    const length = Math.hypot(...d) || 1;
    const reach = Math.abs(vw) * far > length ? length / Math.abs(vw) : far;
    const sign = vw < 0 ? -1 : 1;
    return [p[0] + (sign * d[0] * reach) / length, p[1] + (sign * d[1] * reach) / length];
  };
  const gap = (p) => Math.hypot(vx - vw * p[0], vy - vw * p[1]);
  const end = gap(rail.a) < gap(rail.b) ? rail.a : rail.b;
  segment(ctx, viewport, end, towards(end));
  ctx.globalAlpha = 0.3;
  ctx.lineWidth = 1;
  ctx.strokeStyle = axisColour(rail.axis);
  ctx.stroke();
  ctx.globalAlpha = 1;
}

export function rails(ctx, viewport, { list, chosen, vanishing, miss, worst, withEnds }) {
  const points = Object.fromEntries((vanishing ?? []).map((v) => [v.axis, v.homogeneous]));
  if (withEnds) for (const rail of list) if (points[rail.axis]) prolonged(ctx, viewport, rail, points[rail.axis]);
  list.forEach((rail, index) => {
    const own = index === chosen.index;
    const colour = own ? css("--chosen") : axisColour(rail.axis);
    ctx.setLineDash(DASHES[rail.axis]);
    haloed(ctx, own ? 2.2 : 1.5, colour, () => segment(ctx, viewport, rail.a, rail.b));
    ctx.setLineDash([]);
    if (!withEnds) return;
    ring(ctx, viewport, rail.a, colour, own && chosen.end === "a");
    ring(ctx, viewport, rail.b, colour, own && chosen.end === "b");
    const [x, y] = viewport.plateToScreen((rail.a[0] + rail.b[0]) / 2, (rail.a[1] + rail.b[1]) / 2);
    badge(ctx, x, y, rail.axis, colour);
    if (Number.isFinite(miss?.[index]) && (own || index === worst)) {
      ctx.font = "12px 'Plex Mono', monospace";
      ctx.textAlign = "left";
      ctx.lineWidth = 3;
      ctx.strokeStyle = "rgba(0,0,0,.7)";
      const text = `${Math.abs(miss[index]).toFixed(2)} px`;
      ctx.strokeText(text, x + 13, y);
      ctx.fillStyle = tint(Math.abs(miss[index]));
      ctx.fillText(text, x + 13, y);
    }
  });
}

export function offers(ctx, viewport, list) {
  for (const rail of list) {
    ctx.globalAlpha = 0.75;
    ctx.setLineDash([3, 3]);
    haloed(ctx, 1.2, axisColour(rail.axis), () => segment(ctx, viewport, rail.a, rail.b));
    ctx.setLineDash([]);
    const [x, y] = viewport.plateToScreen((rail.a[0] + rail.b[0]) / 2, (rail.a[1] + rail.b[1]) / 2);
    badge(ctx, x, y, rail.axis, axisColour(rail.axis));
    ctx.globalAlpha = 1;
  }
}

export function horizon(ctx, viewport, line) {
  if (!line) return;
  const [a, b, c] = line;
  const [width, height] = viewport.plate;
  const ends = Math.abs(b) > Math.abs(a) ? [[-width, (a * width - c) / b], [2 * width, (-2 * a * width - c) / b]] : [[(b * height - c) / a, -height], [(-2 * b * height - c) / a, 2 * height]];
  ctx.setLineDash([14, 5, 2, 5]);
  haloed(ctx, 1, css("--active"), () => segment(ctx, viewport, ...ends));
  ctx.setLineDash([]);
}

export function axes(ctx, viewport, placed) {
  for (const { axis, to } of placed.axes) {
    ctx.setLineDash(DASHES[axis]);
    haloed(ctx, 2, axisColour(axis), () => segment(ctx, viewport, placed.origin, to));
    ctx.setLineDash([]);
    badge(ctx, ...viewport.plateToScreen(...to), axis, axisColour(axis));
  }
  ring(ctx, viewport, placed.origin, css("--chalk"), true);
}

export function length(ctx, viewport, known, colour, text) {
  haloed(ctx, 2, colour, () => segment(ctx, viewport, known.from, known.to));
  ring(ctx, viewport, known.from, colour, false);
  ring(ctx, viewport, known.to, colour, false);
  const [x, y] = viewport.plateToScreen((known.from[0] + known.to[0]) / 2, (known.from[1] + known.to[1]) / 2);
  ctx.font = "12px 'Plex Mono', monospace";
  ctx.textAlign = "left";
  ctx.lineWidth = 3;
  ctx.strokeStyle = "rgba(0,0,0,.7)";
  ctx.strokeText(text, x + 10, y);
  ctx.fillStyle = colour;
  ctx.fillText(text, x + 10, y);
}

export function standing(ctx, viewport, box) {
  haloed(ctx, 1.5, css("--chosen"), () => polylines(ctx, viewport, box.lines));
  for (const handle of box.handles) ring(ctx, viewport, handle.px, axisColour(handle.axis), true);
}
