// Rails as ranging rods: a hairline on the edge itself, a banded rod beside it so that the edge stays in sight,
// ticks across its ends, a needle for what it misses.
import { css } from "./colour.js";
import { familyOf } from "../photo/families.js";

/** How far beside its edge a rod stands, and how thick it is, px of the screen. */
const BESIDE_PX = 7;
const THICK_PX = 5;
const TICK_PX = 8;
/** What a rail misses is drawn so many times longer. */
export const NEEDLE_TIMES = 20;
const LEAST_NEEDLE_PX = 2;
const NEAR_PX = 16;

/** Where a rail lies on the screen: its ends, the way along it, and the side on which its rod stands. */
export function laidOut(viewport, rail) {
  const [a, b] = [viewport.plateToScreen(...rail.a), viewport.plateToScreen(...rail.b)];
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  const along = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
  // Above what lies, to the left of what stands.
  let side = [along[1], -along[0]];
  if (Math.abs(side[1]) > 0.3 ? side[1] > 0 : side[0] > 0) side = [-side[0], -side[1]];
  return { a, b, along, side, length };
}

const at = (from, along, s, side, off) => [from[0] + along[0] * s + side[0] * off, from[1] + along[1] * s + side[1] * off];

function line(ctx, from, to, width, colour) {
  ctx.beginPath();
  ctx.moveTo(...from);
  ctx.lineTo(...to);
  ctx.lineWidth = width;
  ctx.strokeStyle = colour;
  ctx.stroke();
}

/** Stretches of a rod that are tinted, px along it. */
export function bandsOf(family, length) {
  const out = [];
  for (let from = 0; from < length; from += family.period) {
    for (const [a, b] of family.bands) {
      const [start, end] = [from + a * family.period, Math.min(length, from + b * family.period)];
      if (start < length) out.push([start, end]);
    }
  }
  return out;
}

function rod(ctx, { a, along, side, length }, family, colour, hover) {
  const part = (from, to, width, paint) => line(ctx, at(a, along, from, side, BESIDE_PX), at(a, along, to, side, BESIDE_PX), width, paint);
  part(-1, length + 1, THICK_PX + 2, "rgba(16,16,16,.85)");
  part(0, length, THICK_PX, "#ece8de");
  const near = hover && nearness(hover, { a, along, length });
  for (const [from, to] of bandsOf(family, length)) {
    const lit = near && near.off < NEAR_PX && near.s >= from - 1 && near.s <= to + 1;
    part(from, to, THICK_PX, colour);
    if (lit) part(from, to, THICK_PX - 2, "#ffffff");
  }
}

/** How far along a rail a place of the screen is, and how far beside it. */
function nearness([x, y], { a, along, length }) {
  const d = [x - a[0], y - a[1]];
  const s = d[0] * along[0] + d[1] * along[1];
  return { s, off: s < -NEAR_PX || s > length + NEAR_PX ? Infinity : Math.abs(d[0] * along[1] - d[1] * along[0]) };
}

function tick(ctx, end, { side }, chosen) {
  const reach = chosen ? TICK_PX + 4 : TICK_PX;
  const [from, to] = [at(end, side, -reach, side, 0), at(end, side, reach, side, 0)];
  line(ctx, from, to, 3.5, "rgba(0,0,0,.7)");
  line(ctx, from, to, chosen ? 2.2 : 1.4, chosen ? css("--chosen") : "#f5f2ea");
}

/** What a rail misses its vanishing point by, as a needle at its farther end. */
function needle(ctx, placed, miss, scale) {
  const length = miss * NEEDLE_TIMES * scale;
  if (!(Math.abs(length) > LEAST_NEEDLE_PX)) return;
  const { b, side } = placed;
  const tip = at(b, side, length, side, 0);
  line(ctx, b, tip, 4, "rgba(0,0,0,.7)");
  line(ctx, b, tip, 2, css("--wrong"));
  ctx.beginPath();
  ctx.arc(...tip, 2.4, 0, 2 * Math.PI);
  ctx.fillStyle = css("--wrong");
  ctx.fill();
}

/** One rail with all that belongs to it. */
export function rail(ctx, viewport, laid, { chosen = false, end = "", miss = null, hover = null } = {}) {
  const family = familyOf(laid.axis);
  const placed = laidOut(viewport, laid);
  line(ctx, placed.a, placed.b, 2.4, "rgba(0,0,0,.45)");
  line(ctx, placed.a, placed.b, 1, chosen ? css("--chosen") : "#f5f2ea");
  rod(ctx, placed, family, css(family.accent), hover);
  if (chosen) line(ctx, at(placed.a, placed.along, 0, placed.side, BESIDE_PX + 6), at(placed.b, placed.along, 0, placed.side, BESIDE_PX + 6), 1.5, css("--chosen"));
  tick(ctx, placed.a, placed, chosen && end === "a");
  tick(ctx, placed.b, placed, chosen && end === "b");
  if (miss !== null) needle(ctx, placed, miss, viewport.scale);
}

/** An edge that is on offer: its hairline dashed, its rod faint. */
export function offer(ctx, viewport, edge) {
  const placed = laidOut(viewport, edge);
  ctx.globalAlpha = 0.55;
  ctx.setLineDash([4, 4]);
  line(ctx, placed.a, placed.b, 1.2, "#f5f2ea");
  ctx.setLineDash([]);
  rod(ctx, placed, familyOf(edge.axis), css(familyOf(edge.axis).accent), null);
  ctx.globalAlpha = 1;
}

/** From a rail's nearer end towards the vanishing point of its family, faint. */
export function prolonged(ctx, viewport, laid, [vx, vy, vw]) {
  const far = 6 * viewport.plate[0];
  const gap = (p) => Math.hypot(vx - vw * p[0], vy - vw * p[1]);
  const end = gap(laid.a) < gap(laid.b) ? laid.a : laid.b;
  const d = [vx - vw * end[0], vy - vw * end[1]];
  const length = Math.hypot(...d) || 1;
  const reach = Math.abs(vw) * far > length ? length / Math.abs(vw) : far;
  const sign = vw < 0 ? -1 : 1;
  const to = [end[0] + (sign * d[0] * reach) / length, end[1] + (sign * d[1] * reach) / length];
  ctx.globalAlpha = 0.3;
  line(ctx, viewport.plateToScreen(...end), viewport.plateToScreen(...to), 1, css(familyOf(laid.axis).accent));
  ctx.globalAlpha = 1;
}
