// Boxes about guests and what they are grabbed by: a ring that turns them, a square that makes them larger.
import { css } from "./colour.js";
import { haloed, polylines } from "./plate.js";

/** Where a guest is turned and where it is made larger, px of the screen: its lowest and its highest corner. */
export function knobs(lines, viewport) {
  const ends = lines.flatMap((line) => [viewport.plateToScreen(line[0], line[1]), viewport.plateToScreen(line.at(-2), line.at(-1))]);
  if (!ends.length) return {};
  const lowest = ends.reduce((a, b) => (b[1] > a[1] ? b : a));
  const highest = ends.reduce((a, b) => (b[1] < a[1] ? b : a));
  return { turn: lowest, size: highest };
}

/** The chosen guest's box with its knobs. */
export function guests(ctx, viewport, outlines, chosen) {
  const lines = outlines?.find(([id]) => id === chosen)?.[1];
  if (!lines?.length) return;
  ctx.globalAlpha = 0.7;
  haloed(ctx, 1, css("--chosen"), () => polylines(ctx, viewport, lines));
  ctx.globalAlpha = 1;
  const { turn, size } = knobs(lines, viewport);
  haloed(ctx, 1.5, css("--chosen"), () => {
    ctx.beginPath();
    ctx.arc(...turn, 6, 0.5, 2 * Math.PI - 0.5);
  });
  haloed(ctx, 1.5, css("--chosen"), () => {
    ctx.beginPath();
    ctx.rect(size[0] - 4.5, size[1] - 4.5, 9, 9);
  });
}
