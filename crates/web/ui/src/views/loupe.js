// The picture around a point, enlarged, beside the pointer.
const TIMES = 8;

export function magnify(loupe, picture, viewport, px) {
  if (!picture) return;
  const ctx = loupe.getContext("2d");
  const size = loupe.width;
  const share = picture.width / viewport.source[0];
  const half = size / 2 / TIMES;
  ctx.imageSmoothingEnabled = false;
  ctx.fillStyle = "#333";
  ctx.fillRect(0, 0, size, size);
  ctx.drawImage(picture, (px[0] - half) * share, (px[1] - half) * share, 2 * half * share, 2 * half * share, 0, 0, size, size);
  const middle = size / 2;
  for (const [width, colour] of [[3, "rgba(0,0,0,.6)"], [1, "#ece8de"]]) {
    ctx.lineWidth = width;
    ctx.strokeStyle = colour;
    ctx.beginPath();
    for (const [dx, dy] of [[1, 0], [-1, 0], [0, 1], [0, -1]]) {
      ctx.moveTo(middle + 7 * dx, middle + 7 * dy);
      ctx.lineTo(middle + 26 * dx, middle + 26 * dy);
    }
    ctx.stroke();
  }
  const [x, y] = viewport.plateToScreen(...px);
  const [width, height] = viewport.size;
  const left = x + 28 + size > width ? x - 28 - size : x + 28;
  const top = Math.min(Math.max(8, y - size - 12), height - size - 8);
  loupe.style.transform = `translate(${Math.round(left)}px, ${Math.round(top)}px)`;
}
