// Tracks over the plate and as lifelines: many thousands of segments, drawn in few strokes.
import { css, quality, tint } from "./colour.js";

const TAIL = 12;
/** A standard error of so many px is the end of the ramp along tails and lifelines. */
export const SIGMA_END_PX = 0.3;
const SHADES = 8;
/** Tints of groups, told apart in lightness as well as in hue. */
const GROUPS = ["#7fb0e0", "#e58a6b", "#a9c46c", "#c79be0", "#d8c27a", "#6fd0c8"];

const shade = (px, end) => Math.min(SHADES - 1, Math.floor((SHADES * px) / end));
const SHADE_COLOURS = Array.from({ length: SHADES }, (_, k) => `rgb(${quality((k + 0.5) / SHADES).join(",")})`);
const shadeColour = (k) => SHADE_COLOURS[k];

/** Index of a frame in a track, -1 where it is not seen. */
export function indexAt(track, frame) {
  const { frames } = track;
  if (!frames.length || frame < frames[0] || frame > frames[frames.length - 1]) return -1;
  const guess = frame - frames[0];
  if (frames[guess] === frame) return guess;
  // A track that slept has a gap.
  let [low, high] = [0, frames.length - 1];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (frames[middle] < frame) low = middle + 1;
    else high = middle;
  }
  return frames[low] === frame ? low : -1;
}

/** Whether a track is drawn and can be picked. */
export const isShown = (track, scene) => !track.note?.hidden && (!track.aside || scene.show.aside || scene.selected.has(track.id));

export function groupTints(tracks) {
  const names = [...new Set(tracks.map((t) => t.note?.group).filter(Boolean))].sort();
  return new Map(names.map((name, k) => [name, GROUPS[k % GROUPS.length]]));
}

/** Long paths cost more than their pieces: after so many strokes a path is begun anew. */
const PIECES = 48;
/** With more tracks than this in sight tails are short and have no halo. */
const CROWD = 600;

class Strokes {
  constructor() {
    this.paths = new Map();
  }

  of(colour) {
    let list = this.paths.get(colour);
    if (!list) this.paths.set(colour, (list = []));
    const last = list[list.length - 1];
    if (last && last.pieces < PIECES) {
      last.pieces += 1;
      return last.path;
    }
    list.push({ path: new Path2D(), pieces: 1 });
    return list[list.length - 1].path;
  }

  paint(ctx, width, halo = true) {
    if (halo) {
      ctx.lineWidth = width + 2;
      ctx.strokeStyle = "rgba(0,0,0,.55)";
      for (const list of this.paths.values()) for (const { path } of list) ctx.stroke(path);
    }
    ctx.lineWidth = width;
    for (const [colour, list] of this.paths) {
      ctx.strokeStyle = colour;
      for (const { path } of list) ctx.stroke(path);
    }
  }
}

/** Markers are drawn once for each look and then copied. */
const stamps = new Map();
const stampSize = (own, kind) => (own || kind === "hand" ? 22 : 12);

function stamp(colour, kind, own, aside, ratio) {
  let looks = stamps.get(colour);
  if (!looks) {
    if (stamps.size > 100) stamps.clear();
    stamps.set(colour, (looks = []));
  }
  const look = (kind === "hand" ? 1 : 0) + (own ? 2 : 0) + (aside ? 4 : 0);
  if (looks[look]?.ratio !== ratio) looks[look] = { ratio, picture: drawnStamp(colour, kind, own, aside, ratio) };
  return looks[look].picture;
}

function drawnStamp(colour, kind, own, aside, ratio) {
  const size = stampSize(own, kind);
  const canvas = new OffscreenCanvas(Math.round(size * ratio), Math.round(size * ratio));
  const ctx = canvas.getContext("2d");
  ctx.scale(ratio, ratio);
  const [middle, radius, path] = [size / 2, own ? 6 : 3.5, new Path2D()];
  if (kind === "hand") {
    crossGap(path, middle, middle, radius + 2);
  } else {
    path.arc(middle, middle, radius, 0, 2 * Math.PI);
  }
  if (aside) {
    path.moveTo(middle - 3, middle + 3);
    path.lineTo(middle + 3, middle - 3);
  }
  const width = own ? 2 : 1.2;
  for (const [wide, paint] of [[width + 2, "rgba(0,0,0,.55)"], [width, colour]]) {
    ctx.lineWidth = wide;
    ctx.strokeStyle = paint;
    ctx.stroke(path);
  }
  return canvas.transferToImageBitmap();
}

export function tracks(ctx, viewport, scene) {
  const { list, frame, selected } = scene;
  const [wrong, chosenColour] = [css("--wrong"), css("--chosen")];
  const ratio = window.devicePixelRatio || 1;
  const [tails, seen, unsolved] = [new Strokes(), [], tint(null)];
  for (const track of list) {
    const at = indexAt(track, frame);
    if (at < 0 || !isShown(track, scene)) continue;
    const [x, y] = viewport.plateToScreen(track.xy[2 * at], track.xy[2 * at + 1]);
    if (x < -20 || y < -20 || x > viewport.size[0] + 20 || y > viewport.size[1] + 20) continue;
    const own = selected.has(track.id);
    const group = scene.tints.get(track.note?.group);
    seen.push({ track, at, x, y, own, group, colour: own ? chosenColour : track.aside ? wrong : group ?? (track.rms == null ? unsolved : shadeColour(shade(track.rms, 1))) });
  }
  const crowded = seen.length > CROWD;
  for (const { track, at, own, group, colour } of seen) {
    tail(tails, viewport, track, at, own || track.aside || group ? colour : null, crowded && !own ? TAIL / 3 : TAIL);
  }
  tails.paint(ctx, 1.1, !crowded);
  const dotted = crowded && scene.playing;
  if (dotted) dots(ctx, seen);
  // Stamps of a crowd lie on whole px, which takes a third less time than mixing them between px.
  ctx.imageSmoothingEnabled = !crowded;
  const place = crowded ? (v) => Math.round(v * ratio) / ratio : (v) => v;
  for (const front of [false, true]) {
    for (const { track, x, y, own, colour } of seen) {
      if (own !== front || (dotted && !own)) continue;
      const size = stampSize(own, track.kind);
      ctx.drawImage(stamp(colour, track.kind, own, track.aside, ratio), place(x - size / 2), place(y - size / 2), size, size);
    }
  }
  ctx.imageSmoothingEnabled = true;
}

/** A crowd that moves: each a dot on a darker one. */
function dots(ctx, seen) {
  ctx.fillStyle = "rgba(0,0,0,.55)";
  for (const { x, y } of seen) ctx.fillRect(Math.round(x) - 2, Math.round(y) - 2, 5, 5);
  const colours = new Set(seen.map((s) => s.colour));
  for (const wanted of colours) {
    ctx.fillStyle = wanted;
    for (const { x, y, colour } of seen) if (colour === wanted) ctx.fillRect(Math.round(x) - 1, Math.round(y) - 1, 3, 3);
  }
}

/** A ring with four gaps where a cross-hair would be: a hand track. */
function crossGap(path, x, y, radius) {
  for (let k = 0; k < 4; k++) {
    const from = (k * Math.PI) / 2 + 0.3;
    path.moveTo(x + radius * Math.cos(from), y + radius * Math.sin(from));
    path.arc(x, y, radius, from, from + Math.PI / 2 - 0.6);
  }
}

/** The recent path, coloured by how certain each position is unless a colour is given. */
function tail(strokes, viewport, track, at, colour, length) {
  const from = Math.max(0, at - length);
  if (length < TAIL && track.frames[from] === track.frames[at] - at + from) {
    // In a crowd one straight stroke tells the way.
    const path = strokes.of(colour ?? shadeColour(shade(track.sigmas[at], SIGMA_END_PX)));
    path.moveTo(...viewport.plateToScreen(track.xy[2 * from], track.xy[2 * from + 1]));
    path.lineTo(...viewport.plateToScreen(track.xy[2 * at], track.xy[2 * at + 1]));
    return;
  }
  let before = viewport.plateToScreen(track.xy[2 * from], track.xy[2 * from + 1]);
  for (let k = from + 1; k <= at; k++) {
    const point = viewport.plateToScreen(track.xy[2 * k], track.xy[2 * k + 1]);
    if (track.frames[k] === track.frames[k - 1] + 1) {
      const path = strokes.of(colour ?? shadeColour(shade(track.sigmas[k], SIGMA_END_PX)));
      path.moveTo(...before);
      path.lineTo(...point);
    }
    before = point;
  }
}

/** Where features would be placed: dotted squares, so that nobody takes them for tracks. */
export function preview(ctx, viewport, places) {
  const strokes = new Strokes();
  for (let k = 0; k < places.length; k += 3) {
    const [x, y] = viewport.plateToScreen(places[k], places[k + 1]);
    strokes.of("#bfe8dc").rect(x - 3, y - 3, 6, 6);
  }
  strokes.paint(ctx, 1.2);
}

export function loop(ctx, points) {
  ctx.setLineDash([4, 3]);
  ctx.beginPath();
  points.forEach(([x, y], k) => (k ? ctx.lineTo(x, y) : ctx.moveTo(x, y)));
  ctx.closePath();
  for (const [width, colour] of [[3, "rgba(0,0,0,.55)"], [1, css("--chosen")]]) {
    ctx.lineWidth = width;
    ctx.strokeStyle = colour;
    ctx.stroke();
  }
  ctx.setLineDash([]);
}

/** Frames of one shade that follow each other: first frame, last frame, shade, and so on. They stay as long as the
 *  positions do. */
const stretches = new WeakMap();

function stretchesOf({ frames, sigmas }) {
  let known = stretches.get(frames);
  if (known) return known;
  stretches.set(frames, (known = []));
  let begun = 0;
  for (let k = 1; k <= frames.length; k++) {
    const own = shade(sigmas[k - 1], SIGMA_END_PX);
    if (k < frames.length && frames[k] === frames[k - 1] + 1 && shade(sigmas[k], SIGMA_END_PX) === own) continue;
    known.push(frames[begun], frames[k - 1], own);
    begun = k;
  }
  return known;
}

/** Lifelines as a picture of their own: they change less often than playhead and selection. */
export class Lifelines {
  constructor() {
    this.surface = document.createElement("canvas");
    this.row = 1;
  }

  /** The picture for what is asked; drawn anew only when `version` or the size changes. */
  picture(d, x, width, height, ratio) {
    const wanted = [d.version, width, height, ratio, css("--wrong")].join();
    if (this.wanted !== wanted) {
      this.wanted = wanted;
      this.draw(d, (frame) => x(frame) * ratio, Math.max(1, Math.round(width * ratio)), Math.max(1, Math.round(height * ratio)));
      this.row /= ratio;
    }
    return this.surface;
  }

  /** Px by px: there may be more positions than a canvas can draw rectangles. */
  draw(d, x, width, height) {
    const { surface } = this;
    Object.assign(surface, { width, height });
    const ctx = surface.getContext("2d");
    const picture = ctx.createImageData(width, height);
    const into = new Uint32Array(picture.data.buffer);
    const shades = Array.from({ length: SHADES }, (_, k) => packed(shadeColour(k)));
    const wrong = packed(css("--wrong"));
    this.row = Math.min(14, height / Math.max(1, d.tracks.length));
    let [first, last] = [Infinity, -Infinity];
    for (const { frames } of d.tracks) [first, last] = [Math.min(first, frames[0]), Math.max(last, frames[frames.length - 1])];
    if (!d.tracks.length) [first, last] = [0, 0];
    const columns = Array.from({ length: last - first + 1 }, (_, k) => [x(first + k - 0.5), x(first + k + 0.5)].map((v) => Math.min(width, Math.max(0, Math.round(v)))));
    d.tracks.forEach((t, i) => {
      const top = Math.floor(i * this.row);
      const bottom = Math.min(height, Math.max(top + 1, Math.floor((i + 1) * this.row) - (this.row > 3 ? 1 : 0)));
      const whole = t.aside ? wrong : t.rms != null ? shades[shade(t.rms, 1)] : null;
      const life = stretchesOf(t);
      for (let k = 0; k < life.length; k += 3) {
        const [from, to] = [columns[life[k] - first][0], columns[life[k + 1] - first][1]];
        for (let y = top; y < bottom; y++) into.fill(whole ?? shades[life[k + 2]], y * width + from, y * width + Math.max(to, from + 1));
      }
    });
    this.weave(into, width, height);
    ctx.putImageData(picture, 0, 0);
  }

  /** Threads: each passes over and under the frames in turn, beside its neighbour's other way round. */
  weave(into, width, height) {
    const ratio = window.devicePixelRatio || 1;
    const [thread, pass] = [Math.max(this.row, 2 * ratio), 5 * ratio];
    for (let y = 0; y < height; y++) {
      const odd = Math.floor(y / thread) % 2;
      for (let x = 0; x < width; x++) {
        const k = y * width + x;
        const below = Math.floor(x / pass) % 2 !== odd;
        if (into[k] && below) into[k] = darker(into[k]);
      }
    }
  }

  /** Those that are selected, over the picture. */
  chosen(ctx, d, x, top) {
    ctx.fillStyle = css("--chosen");
    // Rows thinner than a px share it: few stand out, and the more they are the less each one shines.
    const shares = this.row < 1 ? (this.row * d.tracks.length) / (4 * Math.max(1, d.selected.size)) : 1;
    ctx.globalAlpha = Math.min(1, Math.max(0.15, shares));
    const thick = shares < 1 ? 1 : Math.max(2, this.row - 1);
    d.tracks.forEach((t, i) => {
      if (!d.selected.has(t.id)) return;
      const from = x(t.frames[0]);
      ctx.fillRect(from - 0.5, top + Math.floor(i * this.row), Math.max(1, x(t.frames[t.frames.length - 1]) - from + 1), thick);
    });
    ctx.globalAlpha = 1;
  }
}

/** What lies below: a quarter of its light is lost. */
const darker = (px) => ((px & 0xff000000) | (((px & 0x00fefefe) >>> 1) + ((px & 0x00fcfcfc) >>> 2))) >>> 0;

/** A colour as the four bytes of a px, alpha last; asking a canvas takes its time. */
const packs = new Map();

function packed(colour) {
  if (packs.has(colour)) return packs.get(colour);
  const probe = document.createElement("canvas").getContext("2d");
  probe.fillStyle = colour;
  probe.fillRect(0, 0, 1, 1);
  const [px] = new Uint32Array(probe.getImageData(0, 0, 1, 1).data.buffer);
  packs.set(colour, px);
  return px;
}
