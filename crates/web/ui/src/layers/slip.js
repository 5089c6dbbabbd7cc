// Expected slip over the picture: a calm veil in the ramp of residuals, with its legend.
import { quality } from "./colour.js";

/** Slip of so much is the end of the ramp, px; more where much of the picture is worse. */
const END_PX = 0.5;
const ALPHA = 0.5;
const LEGEND_PX = 160;

const shade = (px, end) => quality(Math.min(1, px / end)).map(Math.round);

function endOf(px) {
  const sorted = px.filter((v) => v !== null).sort((a, b) => a - b);
  return Math.max(END_PX, sorted[Math.floor(0.95 * (sorted.length - 1))] ?? END_PX);
}

/** The veil: one px a place, drawn as large as the plate; cell by cell where that is bent. */
export function field(ctx, viewport, { size: [columns, rows], px }) {
  const end = endOf(px);
  if (viewport.bend) return cells(ctx, viewport, [columns, rows], px, end);
  const small = new OffscreenCanvas(columns, rows);
  const own = small.getContext("2d");
  const image = own.createImageData(columns, rows);
  px.forEach((v, k) => image.data.set(v === null ? [0, 0, 0, 0] : [...shade(v, end), 255 * ALPHA], 4 * k));
  own.putImageData(image, 0, 0);
  const [x, y] = viewport.plateToScreen(0, 0);
  const [x2, y2] = viewport.plateToScreen(...viewport.source);
  ctx.imageSmoothingEnabled = true;
  ctx.drawImage(small, x, y, x2 - x, y2 - y);
}

function cells(ctx, viewport, [columns, rows], px, end) {
  const [width, height] = viewport.source;
  px.forEach((v, k) => {
    if (v === null) return;
    const [x, y] = [((k % columns) * width) / columns, (Math.floor(k / columns) * height) / rows];
    const [x2, y2] = [x + width / columns, y + height / rows];
    ctx.beginPath();
    for (const corner of [[x, y], [x2, y], [x2, y2], [x, y2]]) ctx.lineTo(...viewport.plateToScreen(...corner));
    ctx.fillStyle = `rgba(${shade(v, end).join(",")},${ALPHA})`;
    ctx.fill();
  });
}

export function legend(ctx, viewport, { px, distance }, unit) {
  const known = px.filter((v) => v !== null);
  if (!known.length) return;
  const end = endOf(px);
  const [h, left, top] = [10, 14, viewport.size[1] - 40];
  ctx.fillStyle = "rgba(16,16,16,.78)";
  ctx.fillRect(left - 8, top - 22, LEGEND_PX + 16, h + 46);
  for (let k = 0; k < LEGEND_PX; k++) {
    ctx.fillStyle = `rgb(${shade((k / LEGEND_PX) * end, end).join(",")})`;
    ctx.fillRect(left + k, top, 1, h);
  }
  ctx.font = '11px "Plex Mono", monospace';
  ctx.textBaseline = "alphabetic";
  ctx.fillStyle = "#ece8de";
  ctx.textAlign = "left";
  ctx.fillText(`slip at ${distance.toFixed(2)} ${unit}`, left, top - 7);
  ctx.fillText("0", left, top + h + 14);
  ctx.textAlign = "center";
  ctx.fillText(`${Math.min(...known).toFixed(2)}–${Math.max(...known).toFixed(2)} px`, left + LEGEND_PX / 2, top + h + 14);
  ctx.textAlign = "right";
  ctx.fillText(end.toFixed(1), left + LEGEND_PX, top + h + 14);
  ctx.textAlign = "left";
}
