// What a surveyor would put into the photograph: the station mark with its plumb line, a graduated staff, the
// horizon, corners that can be pulled.
import { css } from "./colour.js";
import { haloed, polylines } from "./plate.js";

const MONO = "12px 'Plex Mono', monospace";

function segment(ctx, a, b) {
  ctx.beginPath();
  ctx.moveTo(...a);
  ctx.lineTo(...b);
}

export function label(ctx, [x, y], text, colour) {
  ctx.font = MONO;
  ctx.textAlign = "left";
  ctx.textBaseline = "alphabetic";
  ctx.lineWidth = 3;
  ctx.strokeStyle = "rgba(0,0,0,.7)";
  ctx.strokeText(text, x, y);
  ctx.fillStyle = colour;
  ctx.fillText(text, x, y);
}

/** How a horizon is drawn, on a photograph and over footage alike. */
export const HORIZON = { dash: [16, 5, 2, 5], colour: "#ece8de" };

/** Two places of the horizon far to both sides, plate px. */
export function horizonEnds([a, b, c], [width, height]) {
  return Math.abs(b) > Math.abs(a) ? [[-width, (a * width - c) / b], [2 * width, (-2 * a * width - c) / b]] : [[(b * height - c) / a, -height], [(-2 * b * height - c) / a, 2 * height]];
}

/** The horizon with what it tilts by, at the left border of the picture. */
export function horizon(ctx, viewport, line, text = "") {
  if (!line) return;
  const ends = horizonEnds(line, viewport.plate).map((p) => viewport.plateToScreen(...p));
  ctx.setLineDash(HORIZON.dash);
  haloed(ctx, 1, HORIZON.colour, () => segment(ctx, ...ends));
  ctx.setLineDash([]);
  if (!text) return;
  const [[x0, y0], [x1, y1]] = ends;
  const x = Math.max(8, viewport.plateToScreen(0, 0)[0] + 8);
  const y = y0 + ((x - x0) / (x1 - x0)) * (y1 - y0);
  label(ctx, [x, y - 6], text, HORIZON.colour);
}

/** The origin: a triangle with a dot that stands on the ground, a plumb line up to the horizon, and the two
 *  directions of the ground named. */
export function station(ctx, viewport, placed, line, names) {
  const [x, y] = viewport.plateToScreen(...placed.origin);
  const tip = (axis) => placed.axes.find((a) => a.axis === axis);
  const up = tip("y");
  if (up && line) plumb(ctx, viewport, placed.origin, up.to, line);
  for (const { key, name } of names) {
    const arm = tip(key);
    if (!arm || key === "y") continue;
    const end = viewport.plateToScreen(...arm.to);
    ctx.setLineDash([2, 4]);
    haloed(ctx, 1, "#ece8de", () => segment(ctx, [x, y], end));
    ctx.setLineDash([]);
    label(ctx, [end[0] + 5, end[1] + 4], name, "#ece8de");
  }
  haloed(ctx, 1.8, css("--chosen"), () => {
    ctx.beginPath();
    ctx.moveTo(x, y - 11);
    ctx.lineTo(x + 10, y + 7);
    ctx.lineTo(x - 10, y + 7);
    ctx.closePath();
  });
  ctx.beginPath();
  ctx.arc(x, y, 2.4, 0, 2 * Math.PI);
  ctx.fillStyle = css("--chosen");
  ctx.fill();
}

/** Upright from the origin as far as the horizon, or as far as the picture goes. */
function plumb(ctx, viewport, [ox, oy], [ux, uy], [a, b, c]) {
  const [dx, dy] = [ux - ox, uy - oy];
  const along = a * dx + b * dy;
  const t = Math.abs(along) > 1e-9 ? -(a * ox + b * oy + c) / along : 0;
  if (!(t > 0)) return;
  ctx.setLineDash([1, 3]);
  haloed(ctx, 1.2, "#ece8de", () => segment(ctx, viewport.plateToScreen(ox, oy), viewport.plateToScreen(ox + t * dx, oy + t * dy)));
  ctx.setLineDash([]);
}

/** A measuring staff: graduated in the unit that is stated, or bare while nothing is. */
export function staff(ctx, viewport, length, { graduations = null, text = "", colour = "#ece8de" } = {}) {
  const [from, to] = [viewport.plateToScreen(...length.from), viewport.plateToScreen(...length.to)];
  const reach = Math.hypot(to[0] - from[0], to[1] - from[1]) || 1;
  const side = [-(to[1] - from[1]) / reach, (to[0] - from[0]) / reach];
  for (const [width, paint] of [[10, "rgba(16,16,16,.85)"], [8, colour]]) {
    ctx.lineCap = "butt";
    segment(ctx, from, to);
    ctx.lineWidth = width;
    ctx.strokeStyle = paint;
    ctx.stroke();
  }
  (graduations ?? []).forEach((px, k) => {
    const [x, y] = viewport.plateToScreen(...px);
    const half = k % 5 === 0 ? 4 : 2;
    segment(ctx, [x + side[0] * (4 - 2 * half), y + side[1] * (4 - 2 * half)], [x + side[0] * 4, y + side[1] * 4]);
    ctx.lineWidth = k % 5 === 0 ? 1.6 : 1;
    ctx.strokeStyle = "#191a1a";
    ctx.stroke();
  });
  for (const [x, y] of [from, to]) haloed(ctx, 1.6, "#f5f2ea", () => segment(ctx, [x - side[0] * 9, y - side[1] * 9], [x + side[0] * 9, y + side[1] * 9]));
  if (text) label(ctx, [(from[0] + to[0]) / 2 + 14, (from[1] + to[1]) / 2 + 4], text, "#f5f2ea");
}

/** A box with corners that can be pulled: square brackets, not rings. */
export function standing(ctx, viewport, box) {
  haloed(ctx, 1.5, css("--chosen"), () => polylines(ctx, viewport, box.lines));
  for (const handle of box.handles) {
    const [x, y] = viewport.plateToScreen(...handle.px);
    haloed(ctx, 1.6, "#f5f2ea", () => {
      ctx.beginPath();
      ctx.rect(x - 4, y - 4, 8, 8);
    });
  }
}
