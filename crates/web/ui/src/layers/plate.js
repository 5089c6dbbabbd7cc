// What is drawn over the plate: each layer is a function of (context, viewport, data).
import { css } from "./colour.js";

export function haloed(ctx, width, colour, path) {
  path();
  ctx.lineWidth = width + 2;
  ctx.strokeStyle = "rgba(0,0,0,.55)";
  ctx.stroke();
  path();
  ctx.lineWidth = width;
  ctx.strokeStyle = colour;
  ctx.stroke();
}

export function polylines(ctx, viewport, lines) {
  ctx.beginPath();
  for (const line of lines) {
    for (let k = 0; k < line.length; k += 2) {
      const [x, y] = viewport.plateToScreen(line[k], line[k + 1]);
      if (k === 0) ctx.moveTo(x, y);
      else ctx.lineTo(x, y);
    }
  }
}

export function grid(ctx, viewport, lines) {
  if (!lines?.length) return;
  polylines(ctx, viewport, lines);
  ctx.lineWidth = 1;
  ctx.strokeStyle = "rgba(190,235,222,.6)";
  ctx.stroke();
}

export function landmarks(ctx, viewport, points, selected) {
  if (!points) return;
  for (let k = 0; k < points.length; k += 3) {
    const chosen = selected.has(points[k]);
    const [x, y] = viewport.plateToScreen(points[k + 1], points[k + 2]);
    if (x < 0 || y < 0 || x > viewport.size[0] || y > viewport.size[1]) continue;
    const half = chosen ? 5 : 2.5;
    haloed(ctx, chosen ? 2 : 1.2, chosen ? css("--chosen") : "#bfe8dc", () => {
      ctx.beginPath();
      ctx.moveTo(x - half, y);
      ctx.lineTo(x + half, y);
      ctx.moveTo(x, y - half);
      ctx.lineTo(x, y + half);
    });
  }
}

/** Where a detail should be seen: its path, and on this frame how far a search has to reach about it. */
export function predicted(ctx, viewport, path, frame) {
  if (!path?.length) return;
  ctx.setLineDash([3, 4]);
  haloed(ctx, 1, css("--chosen"), () => polylines(ctx, viewport, [path.flatMap(([, x, y]) => [x, y])]));
  ctx.setLineDash([]);
  const here = path.find(([f]) => f === frame);
  if (!here) return;
  const [x, y] = viewport.plateToScreen(here[1], here[2]);
  const [edge] = viewport.plateToScreen(here[1] + 3 * here[3], here[2]);
  const reach = Math.max(7, edge - x);
  haloed(ctx, 1.5, css("--chosen"), () => {
    ctx.beginPath();
    ctx.arc(x, y, reach, 0, 2 * Math.PI);
  });
}

export function box(ctx, from, to) {
  ctx.setLineDash([4, 3]);
  haloed(ctx, 1, css("--chosen"), () => {
    ctx.beginPath();
    ctx.rect(from[0], from[1], to[0] - from[0], to[1] - from[1]);
  });
  ctx.setLineDash([]);
}

/** Where the plate ends in its undistorted picture. */
export function border(ctx, viewport) {
  const [w, h] = viewport.source;
  const corners = [[0, 0], [w, 0], [w, h], [0, h], [0, 0]];
  const line = corners.slice(1).flatMap(([x, y], k) => {
    const [a, b] = corners[k];
    return Array.from({ length: 24 }, (_, i) => [a + ((x - a) * i) / 23, b + ((y - b) * i) / 23]).flat();
  });
  ctx.setLineDash([6, 4]);
  haloed(ctx, 1, "#ece8de", () => polylines(ctx, viewport, [line]));
  ctx.setLineDash([]);
}
