// A calm print of the photograph: grey, low in contrast, its edges kept, so that rods stand out and edges stay
// in sight. It is looked at only; nothing is computed from it.

const REACH_PX = 12;
const GREY = 122;
const SHARE = 0.45;
const EDGES = 0.9;

/** Sums along rows and columns, so that the mean of any square is four look-ups. */
function sums(levels, width, height) {
  const out = new Float64Array((width + 1) * (height + 1));
  for (let y = 0; y < height; y++) {
    let row = 0;
    for (let x = 0; x < width; x++) {
      row += levels[y * width + x];
      out[(y + 1) * (width + 1) + x + 1] = out[y * (width + 1) + x + 1] + row;
    }
  }
  return out;
}

export async function calmPrint(picture) {
  const { width, height } = picture;
  const canvas = new OffscreenCanvas(width, height);
  const ctx = canvas.getContext("2d");
  ctx.drawImage(picture, 0, 0);
  const image = ctx.getImageData(0, 0, width, height);
  const { data } = image;
  const levels = new Float32Array(width * height);
  for (let k = 0; k < levels.length; k++) levels[k] = 0.299 * data[4 * k] + 0.587 * data[4 * k + 1] + 0.114 * data[4 * k + 2];
  const sum = sums(levels, width, height);
  for (let y = 0; y < height; y++) {
    const [top, bottom] = [Math.max(0, y - REACH_PX), Math.min(height, y + REACH_PX + 1)];
    for (let x = 0; x < width; x++) {
      const [left, right] = [Math.max(0, x - REACH_PX), Math.min(width, x + REACH_PX + 1)];
      const total = sum[bottom * (width + 1) + right] - sum[top * (width + 1) + right] - sum[bottom * (width + 1) + left] + sum[top * (width + 1) + left];
      const mean = total / ((bottom - top) * (right - left));
      const k = y * width + x;
      const level = GREY + SHARE * (mean - 128) + EDGES * (levels[k] - mean);
      data[4 * k] = data[4 * k + 1] = data[4 * k + 2] = level;
    }
  }
  ctx.putImageData(image, 0, 0);
  return createImageBitmap(canvas);
}
