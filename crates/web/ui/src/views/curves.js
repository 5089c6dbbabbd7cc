// How the camera runs over time, drawn into the strip: lines with bands of one standard error, jumps marked.
import { css } from "../layers/colour.js";

/** What can be drawn: key in the answer of the server, names of its lines, unit, decimals. */
const KINDS = {
  position: { key: "position", lines: ["X", "Y", "Z"], digits: 2 },
  rotation: { key: "rotation_deg", lines: ["pan", "tilt", "roll"], unit: "°", digits: 1 },
  focal: { key: "focal_mm", lines: ["focal"], unit: " mm", digits: 2 },
  slip: { key: "slip", lines: ["slip"], unit: " px", digits: 3 },
};
const COLOURS = ["--along", "--up", "--across"];
const TOP = 26;
const BOTTOM = 8;

/** Draws the chosen kind of curves, those of another attempt dashed behind; false where there is none of it. */
export function drawCurves(ctx, { curve: kind, curves, beside, unit, frame }, x, height) {
  const { key, lines, digits, unit: own } = KINDS[kind] ?? {};
  if (!key || !curves?.frames.length) return false;
  const all = [curves[key]].flat();
  const other = beside ? [beside[key]].flat() : [];
  // Each line about its own middle, all on one scale, so that what moves most shows most.
  const middles = all.map((c) => (Math.min(...c.values) + Math.max(...c.values)) / 2);
  const off = (list) => list.flatMap((c, i) => c.values.map((v, k) => Math.abs(v - middles[i]) + (c.sigma[k] ?? 0)));
  // Another attempt may lie far off, and then leaves the strip; what was measured is what is looked for.
  const most = kind === "slip" ? Infinity : 3 * Math.max(...off(all));
  const reach = Math.max(1e-9, Math.min(most, Math.max(...off(all), ...off(other))));
  const y = (v, i) => TOP + (height - TOP - BOTTOM) * (0.5 - (0.5 * (v - middles[i])) / reach);
  const at = curves.frames.map(x);
  other.forEach((c, i) => behind(ctx, beside.frames.map(x), c.values, (v) => y(v, i), all.length > 1 ? css(COLOURS[i]) : css("--active")));
  all.forEach((c, i) => {
    const colour = all.length > 1 ? css(COLOURS[i]) : css("--active");
    if (c.sigma.length) band(ctx, at, c, (v) => y(v, i), colour);
    line(ctx, at, c.values, (v) => y(v, i), colour);
    jumps(ctx, at, c, (v) => y(v, i));
  });
  legend(ctx, lines, all, curves.frames.indexOf(frame), reach, own ?? ` ${unit}`, digits);
  return true;
}

/** A line of another attempt: dashed, so that it is told by shape. */
export function behind(ctx, at, values, y, colour) {
  ctx.setLineDash([4, 3]);
  ctx.globalAlpha = 0.7;
  line(ctx, at, values, y, colour);
  ctx.setLineDash([]);
  ctx.globalAlpha = 1;
}

function line(ctx, at, values, y, colour) {
  ctx.beginPath();
  values.forEach((v, k) => (k ? ctx.lineTo(at[k], y(v)) : ctx.moveTo(at[k], y(v))));
  ctx.strokeStyle = colour;
  ctx.lineWidth = 1.5;
  ctx.stroke();
}

function band(ctx, at, { values, sigma }, y, colour) {
  ctx.beginPath();
  values.forEach((v, k) => (k ? ctx.lineTo(at[k], y(v + sigma[k])) : ctx.moveTo(at[k], y(v + sigma[k]))));
  for (let k = values.length - 1; k >= 0; k--) ctx.lineTo(at[k], y(values[k] - sigma[k]));
  ctx.closePath();
  ctx.globalAlpha = 0.3;
  ctx.fillStyle = colour;
  ctx.fill();
  ctx.globalAlpha = 1;
}

/** A ring about each frame that jumps: told by shape, not by colour alone. */
export function jumps(ctx, at, { values, spikes }, y) {
  ctx.strokeStyle = css("--wrong");
  ctx.lineWidth = 1.5;
  for (const k of spikes) {
    ctx.beginPath();
    ctx.arc(at[k], y(values[k]), 5, 0, 2 * Math.PI);
    ctx.stroke();
  }
}

/** Names with what they are at the playhead, and how much the height of the strip is. */
function legend(ctx, names, all, k, reach, unit, digits) {
  names.forEach((name, i) => {
    ctx.fillStyle = all.length > 1 ? css(COLOURS[i]) : css("--dim");
    ctx.font = '11px "Atkinson", sans-serif';
    ctx.fillText(name, 8, 34 + 13 * i);
    if (k < 0) return;
    ctx.font = '10px "Plex Mono", monospace';
    const value = all[i].values[k].toFixed(digits);
    // A line that is alone has room below its name.
    const at = all.length > 1 ? [62 - ctx.measureText(value).width, 34 + 13 * i] : [8, 47];
    ctx.fillText(value, ...at);
  });
  const rows = Math.max(2, names.length);
  const whole = 2 * reach;
  ctx.fillStyle = css("--dim");
  ctx.font = '10px "Plex Mono", monospace';
  ctx.fillText(`↕ ${whole.toFixed(whole < 0.1 ? Math.max(4, digits) : digits)}`, 8, 38 + 13 * rows);
  ctx.fillText(unit.trim(), 8, 50 + 13 * rows);
}
