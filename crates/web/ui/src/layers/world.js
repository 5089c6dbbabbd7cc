// The oriented world over the plate: horizon with the band of its error, directions at the origin, plumb lines, grids on walls.
import { css } from "./colour.js";
import { haloed, polylines } from "./plate.js";
import { HORIZON, label } from "./survey.js";

/** The scene's directions in the order in which they are sent, with dashes of their own. */
const AXES = [
  { name: "along", accent: "--along", dash: [9, 3] },
  { name: "up", accent: "--up", dash: [] },
  { name: "across", accent: "--across", dash: [3, 3] },
];

/** So many walls get grids while none of them is looked at. */
const MOST_WALLS = 2;

export function world(ctx, viewport, overlay, statement) {
  if (!overlay) return;
  const all = overlay.walls ?? [];
  const own = all.filter(([id]) => id === statement);
  walls(ctx, viewport, (own.length ? own : all.slice(0, MOST_WALLS)).flatMap(([, lines]) => lines));
  plumbs(ctx, viewport, overlay.plumbs);
  horizon(ctx, viewport, overlay);
  // The handle shows them too.
  if (!overlay.handle) axes(ctx, viewport, overlay.axes);
}

/** Plumb lines: a thread with its bob at the ground. */
function plumbs(ctx, viewport, lines) {
  if (!lines?.length) return;
  ctx.setLineDash([1, 3]);
  haloed(ctx, 1, "#ece8de", () => polylines(ctx, viewport, lines));
  ctx.setLineDash([]);
  ctx.fillStyle = "#ece8de";
  for (const line of lines) {
    const [x, y] = viewport.plateToScreen(line.at(-2), line.at(-1));
    ctx.beginPath();
    ctx.moveTo(x - 3, y - 7);
    ctx.lineTo(x + 3, y - 7);
    ctx.lineTo(x, y);
    ctx.fill();
  }
}

function walls(ctx, viewport, lines) {
  if (!lines?.length) return;
  polylines(ctx, viewport, lines);
  ctx.lineWidth = 1;
  ctx.strokeStyle = "rgba(236,214,160,.5)";
  ctx.stroke();
}

function horizon(ctx, viewport, overlay) {
  const lines = overlay.horizon;
  if (!lines?.length) return;
  const [below, above] = overlay.horizon_band ?? [];
  if (below?.length === 1 && above?.length === 1) {
    const edge = (line) => Array.from({ length: line.length / 2 }, (_, k) => viewport.plateToScreen(line[2 * k], line[2 * k + 1]));
    ctx.beginPath();
    [...edge(below[0]), ...edge(above[0]).reverse()].forEach(([x, y], k) => (k ? ctx.lineTo(x, y) : ctx.moveTo(x, y)));
    ctx.fillStyle = "rgba(190,235,222,.22)";
    ctx.fill();
  }
  ctx.setLineDash(HORIZON.dash);
  haloed(ctx, 1, HORIZON.colour, () => polylines(ctx, viewport, lines));
  ctx.setLineDash([]);
  atBorder(ctx, viewport, lines[0], "horizon");
}

/** At the left border of the picture, or where the line comes in. */
function atBorder(ctx, viewport, line, text) {
  let at = null;
  for (let k = 0; k < line.length; k += 2) {
    const [x, y] = viewport.plateToScreen(line[k], line[k + 1]);
    if (x > 4 && y > 14 && x < viewport.size[0] && y < viewport.size[1] && (!at || x < at[0])) at = [x, y];
  }
  if (at) label(ctx, [at[0] + 4, at[1] - 6], text, HORIZON.colour);
}

function axes(ctx, viewport, all) {
  (all ?? []).forEach((lines, k) => {
    const line = lines[0];
    if (!line) return;
    const { name, accent, dash } = AXES[k];
    ctx.setLineDash(dash);
    haloed(ctx, 2, css(accent), () => polylines(ctx, viewport, lines));
    ctx.setLineDash([]);
    const [x, y] = viewport.plateToScreen(line[line.length - 2], line[line.length - 1]);
    label(ctx, [x + 5, y + 4], name, css(accent));
  });
}
