// Tracks over the plate and as lifelines: many thousands of segments, drawn in few strokes.
import { css, quality, tint } from "./colour.js";

const TAIL = 12;
/** A standard error of so many px is the end of the ramp along tails and lifelines. */
export const SIGMA_END_PX = 0.3;
const SHADES = 8;
/** Tints of groups, told apart in lightness as well as in hue. */
const GROUPS = ["#7fb0e0", "#e58a6b", "#a9c46c", "#c79be0", "#d8c27a", "#6fd0c8"];

const shade = (px, end) => Math.min(SHADES - 1, Math.floor((SHADES * px) / end));
const shadeColour = (k) => `rgb(${quality((k + 0.5) / SHADES).join(",")})`;

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

class Strokes {
  constructor() {
    this.paths = new Map();
  }

  of(colour) {
    if (!this.paths.has(colour)) this.paths.set(colour, new Path2D());
    return this.paths.get(colour);
  }

  paint(ctx, width) {
    ctx.lineWidth = width + 2;
    ctx.strokeStyle = "rgba(0,0,0,.55)";
    for (const path of this.paths.values()) ctx.stroke(path);
    ctx.lineWidth = width;
    for (const [colour, path] of this.paths) {
      ctx.strokeStyle = colour;
      ctx.stroke(path);
    }
  }
}

export function tracks(ctx, viewport, scene) {
  const { list, frame, selected } = scene;
  const [wrong, chosenColour] = [css("--wrong"), css("--chosen")];
  const [rings, tails, chosen] = [new Strokes(), new Strokes(), new Strokes()];
  for (const track of list) {
    const at = indexAt(track, frame);
    if (at < 0 || !isShown(track, scene)) continue;
    const own = selected.has(track.id);
    const [x, y] = viewport.plateToScreen(track.xy[2 * at], track.xy[2 * at + 1]);
    if (x < -20 || y < -20 || x > viewport.size[0] + 20 || y > viewport.size[1] + 20) continue;
    const group = scene.tints.get(track.note?.group);
    const colour = own ? chosenColour : track.aside ? wrong : group ?? tint(track.rms);
    tail(tails, viewport, track, at, own || track.aside || group ? colour : null);
    const into = (own ? chosen : rings).of(colour);
    const radius = own ? 6 : 3.5;
    if (track.kind === "hand") {
      crossGap(into, x, y, radius + 2);
    } else {
      into.moveTo(x + radius, y);
      into.arc(x, y, radius, 0, 2 * Math.PI);
    }
    if (track.aside) {
      into.moveTo(x - 3, y + 3);
      into.lineTo(x + 3, y - 3);
    }
  }
  tails.paint(ctx, 1.1);
  rings.paint(ctx, 1.2);
  chosen.paint(ctx, 2);
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
function tail(strokes, viewport, track, at, colour) {
  const from = Math.max(0, at - TAIL);
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

/** Lifelines as a picture of their own: they change less often than the playhead. */
export class Lifelines {
  constructor() {
    this.surface = document.createElement("canvas");
  }

  /** The picture for what is asked; drawn anew only when `version` or the size changes. */
  picture(d, x, width, height, ratio) {
    const wanted = [d.version, width, height, ratio, css("--chosen")].join();
    if (this.wanted !== wanted) {
      this.wanted = wanted;
      this.draw(d, x, width, height, ratio);
    }
    return this.surface;
  }

  draw(d, x, width, height, ratio) {
    const { surface } = this;
    surface.width = Math.max(1, Math.round(width * ratio));
    surface.height = Math.max(1, Math.round(height * ratio));
    const ctx = surface.getContext("2d");
    ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
    const row = Math.min(14, height / Math.max(1, d.tracks.length));
    this.row = row;
    const tall = row > 3 ? row - 1 : Math.max(0.4, row * 0.85);
    const rects = new Map();
    const chosen = [];
    d.tracks.forEach((t, i) => {
      const own = d.selected.has(t.id);
      const into = (k) => {
        if (!rects.has(k)) rects.set(k, []);
        return rects.get(k);
      };
      let from = 0;
      for (let k = 1; k <= t.frames.length; k++) {
        const kind = this.kind(t, from);
        const goesOn = k < t.frames.length && t.frames[k] === t.frames[k - 1] + 1 && this.kind(t, k) === kind;
        if (goesOn) continue;
        const rect = [x(t.frames[from]) - 0.5, i * row, Math.max(1, x(t.frames[k - 1]) - x(t.frames[from]) + 1), tall];
        if (own) chosen.push(rect);
        else into(kind).push(rect);
        from = k;
      }
    });
    for (const [kind, list] of rects) {
      ctx.fillStyle = kind === "aside" ? css("--wrong") : shadeColour(kind);
      for (const r of list) ctx.fillRect(...r);
    }
    ctx.fillStyle = css("--chosen");
    for (const [a, b, w, h] of chosen) ctx.fillRect(a, b, w, Math.max(2.5, h));
  }

  /** Dark is certain: by the residual where there is one, else by the standard error along it. */
  kind(t, k) {
    if (t.aside) return "aside";
    return t.rms != null ? shade(t.rms, 1) : shade(t.sigmas[k], SIGMA_END_PX);
  }
}
