// The undistorted picture px by px: a table says where each px of the surface comes from, and four px
// of the picture are mixed. Without a graphics card that is faster than drawing it as long as the view
// and the bend, and with them the table, stay.
import { ENOUGH } from "./bend.js";

/** Parts of a px that a place is rounded to. */
const PARTS = 32;
/** Px between places that are looked up in the mesh; between them it is as good as straight. */
const STRIDE = 8;
/** Enlarged so far, px are shown as they are. */
const SHARP = 2;

/** Mixes two px of 8 bits a channel, `b` with so many parts. */
const mix = (a, b, parts) => {
  const odd = (Math.imul(a & 0xff00ff, PARTS - parts) + Math.imul(b & 0xff00ff, parts) + 0x100010) >>> 5;
  const even = (Math.imul((a >>> 8) & 0xff00ff, PARTS - parts) + Math.imul((b >>> 8) & 0xff00ff, parts) + 0x100010) >>> 5;
  return (odd & 0xff00ff) | ((even & 0xff00ff) << 8);
};

/** Fills a table between values at the corners of squares. */
function between(corners, across, values, columns, rows) {
  for (let row = 0, k = 0; row < rows; row++) {
    const above = Math.floor(row / STRIDE) * across;
    const share = (row % STRIDE) / STRIDE;
    let from = corners[above] + share * (corners[above + across] - corners[above]);
    for (let square = above + 1, begin = 0; begin < columns; begin += STRIDE, square++) {
      const to = corners[square] + share * (corners[square + across] - corners[square]);
      const step = (to - from) / STRIDE;
      const end = Math.min(STRIDE, columns - begin);
      for (let i = 0; i < end; i++) values[k++] = from + i * step;
      from = to;
    }
  }
}

/** Draws a plate through a bend on a surface. */
export class GatheredBend {
  constructor(surface) {
    this.surface = surface;
    this.ctx = surface.getContext("2d");
    this.smaller = document.createElement("canvas");
    // Kept in memory: reading it from anywhere else takes longer than all the rest.
    this.reader = this.smaller.getContext("2d", { alpha: false, willReadFrequently: true });
  }

  /** The picture at a scale and an offset in device px. */
  draw(picture, bend, [width, height], scale, offset, plays) {
    const { surface, ctx } = this;
    // No more of the picture is read than is seen, and at about the size in which it is.
    const share = Math.min(picture.width / bend.plate[0], scale / ENOUGH);
    const wanted = [width, height, scale, ...offset, share].join();
    if (this.of !== bend || this.wanted !== wanted) {
      this.table(bend, [width, height], scale, offset, share);
      Object.assign(this, { of: bend, wanted });
      if (surface.width !== width) surface.width = width;
      if (surface.height !== height) surface.height = height;
      ctx.clearRect(0, 0, width, height);
    }
    this.gather(this.read(picture, plays));
    ctx.putImageData(this.shown, ...this.corner);
  }

  /** What is seen of the picture; smoothly, which takes five times as long, unless it `plays`. */
  read(picture, plays) {
    const { smaller, reader, box } = this;
    if (smaller.width !== box.width) smaller.width = box.width;
    if (smaller.height !== box.height) smaller.height = box.height;
    reader.imageSmoothingQuality = plays ? "low" : "medium";
    reader.drawImage(picture, -box.left, -box.top, ...box.whole);
    return reader.getImageData(0, 0, box.width, box.height);
  }

  /** Where each px of the part of the surface that the picture covers comes from; -1 from nowhere. */
  table(bend, [width, height], scale, offset, share) {
    const [left, top] = offset.map((at) => Math.max(0, Math.floor(at)));
    const columns = Math.max(1, Math.min(width, Math.ceil(offset[0] + bend.size[0] * scale)) - left);
    const rows = Math.max(1, Math.min(height, Math.ceil(offset[1] + bend.size[1] * scale)) - top);
    this.corner = [left, top];
    this.shown = new ImageData(columns, rows);
    const whole = bend.plate.map((size) => Math.max(2, Math.round(size * share)));
    // Places at the corners of squares, then what lies between them.
    const across = Math.ceil(columns / STRIDE) + 1;
    const down = Math.ceil(rows / STRIDE) + 1;
    const [us, vs] = [0, 1].map(() => new Float32Array(columns * rows));
    const corners = [0, 1].map(() => new Float32Array(across * down));
    for (let k = 0; k < across * down; k++) {
      const [i, j] = [STRIDE * (k % across), STRIDE * Math.floor(k / across)];
      const at = bend.toPlate((left + i + 0.5 - offset[0]) / scale, (top + j + 0.5 - offset[1]) / scale);
      corners[0][k] = (at[0] * whole[0]) / bend.plate[0];
      corners[1][k] = (at[1] * whole[1]) / bend.plate[1];
    }
    between(corners[0], across, us, columns, rows);
    between(corners[1], across, vs, columns, rows);
    this.enter(us, vs, whole, scale >= SHARP);
  }

  /** Enters places on the picture, `whole` px large, into the table, and what part of it they need. */
  enter(us, vs, [width, height], isSharp) {
    const { from, parts, box } = this.room(us, vs, width, height);
    for (let k = 0; k < us.length; k++) {
      if (us[k] < 0) continue;
      const u = us[k] - box.left;
      const v = vs[k] - box.top;
      const column = isSharp ? Math.round(u) : Math.floor(u);
      const row = isSharp ? Math.round(v) : Math.floor(v);
      from[k] = row * box.width + column;
      if (!isSharp) parts[k] = (Math.round((u - column) * PARTS) << 8) | Math.round((v - row) * PARTS);
    }
  }

  /** Room for the table; what is not on the picture gets a place of -1, the rest one between px. */
  room(us, vs, width, height) {
    let left = width;
    let top = height;
    let right = 0;
    let bottom = 0;
    for (let k = 0; k < us.length; k++) {
      const isOn = us[k] >= 0 && vs[k] >= 0 && us[k] <= width && vs[k] <= height;
      const u = Math.min(width - 1.001, Math.max(0, us[k] - 0.5));
      const v = Math.min(height - 1.001, Math.max(0, vs[k] - 0.5));
      us[k] = isOn ? u : -1;
      vs[k] = v;
      if (!isOn) continue;
      if (u < left) left = u;
      if (u > right) right = u;
      if (v < top) top = v;
      if (v > bottom) bottom = v;
    }
    left = Math.floor(Math.min(left, width - 2));
    top = Math.floor(Math.min(top, height - 2));
    const size = { width: Math.max(2, Math.floor(right) + 2 - left), height: Math.max(2, Math.floor(bottom) + 2 - top) };
    this.box = { left, top, ...size, whole: [width, height] };
    this.from = new Int32Array(us.length).fill(-1);
    this.parts = new Uint16Array(us.length);
    return this;
  }

  gather(source) {
    const px = new Uint32Array(source.data.buffer);
    const out = new Uint32Array(this.shown.data.buffer);
    const { from, parts } = this;
    const below = source.width;
    for (let k = 0; k < out.length; k++) {
      const at = from[k];
      if (at < 0) continue;
      const across = parts[k] >>> 8;
      out[k] = mix(mix(px[at], px[at + 1], across), mix(px[at + below], px[at + below + 1], across), parts[k] & 255);
    }
  }
}
