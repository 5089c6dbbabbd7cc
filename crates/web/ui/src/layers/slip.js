// Expected slip over the picture: a calm veil in the ramp of residuals, with its legend.
import { quality } from "./colour.js";

/** Slip of so much is the end of the ramp, px; more where all of the picture is worse. */
const END_PX = 0.5;

const tinted = (px, end, alpha) => `rgba(${quality(Math.min(1, px / end)).map(Math.round).join(",")},${alpha})`;

export function field(ctx, viewport, { size, px, distance }, unit) {
  const [columns, rows] = size;
  const [width, height] = viewport.source ?? viewport.plate;
  const known = px.filter((v) => v !== null);
  if (!known.length) return;
  const sorted = [...known].sort((a, b) => a - b);
  const end = Math.max(END_PX, sorted[Math.floor(0.95 * (sorted.length - 1))]);
  for (let k = 0; k < px.length; k++) {
    if (px[k] === null) continue;
    const [x, y] = [((k % columns) * width) / columns, (Math.floor(k / columns) * height) / rows];
    const [x2, y2] = [x + width / columns, y + height / rows];
    ctx.beginPath();
    [[x, y], [x2, y], [x2, y2], [x, y2]].forEach((corner, i) => {
      const at = viewport.plateToScreen(...corner);
      if (i) ctx.lineTo(...at);
      else ctx.moveTo(...at);
    });
    ctx.fillStyle = tinted(px[k], end, 0.42);
    ctx.fill();
  }
  legend(ctx, viewport, end, [sorted[0], sorted[sorted.length - 1]], `${distance.toFixed(2)} ${unit}`);
}

function legend(ctx, viewport, end, [least, most], distance) {
  const [w, h, left, top] = [160, 10, 12, viewport.size[1] - 44];
  ctx.fillStyle = "rgba(16,16,16,.7)";
  ctx.fillRect(left - 6, top - 20, w + 12, h + 42);
  for (let k = 0; k < w; k++) {
    ctx.fillStyle = tinted((k / w) * end, end, 1);
    ctx.fillRect(left + k, top, 1, h);
  }
  ctx.font = '11px "Plex Mono", monospace';
  ctx.textBaseline = "alphabetic";
  ctx.fillStyle = "#ece8de";
  ctx.textAlign = "left";
  ctx.fillText(`slip at ${distance}`, left, top - 6);
  ctx.fillText(`${least.toFixed(2)} to ${most.toFixed(2)} px`, left, top + h + 14);
  ctx.textAlign = "right";
  ctx.fillText(end.toFixed(1), left + w, top + h + 14);
  ctx.textAlign = "left";
}
