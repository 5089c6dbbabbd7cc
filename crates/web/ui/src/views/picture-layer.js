// The picture beneath the lines of a view, on surfaces of their own: lines change without it, and it
// is drawn once, however often they do.
import { DrawnBend } from "./drawn-bend.js";
import { GatheredBend } from "./gathered-bend.js";

export class PictureLayer {
  /** Beneath the canvas that the lines are drawn on. */
  constructor(over) {
    this.over = over;
    this.surfaces = [];
    this.flat = this.beneath();
    this.ctx = this.flat.getContext("2d");
  }

  /** A surface beneath the lines. */
  beneath() {
    const surface = document.createElement("canvas");
    surface.setAttribute("aria-hidden", "true");
    // Above those that there are, below all that lies over the picture.
    const last = this.surfaces.at(-1);
    if (last) last.after(surface);
    else this.over.before(surface);
    this.surfaces.push(surface);
    return surface;
  }

  /** Shows a picture, or nothing, as the viewport has it. */
  show(picture, viewport, ratio, plays) {
    const { over } = this;
    const scale = viewport.scale * ratio;
    const offset = viewport.offset.map((at) => at * ratio);
    const view = [over.width, over.height, scale, ...offset].join();
    const stays = this.view === view && this.of === viewport.bend;
    // An undistorted picture is drawn again, and smoothly, when it stops.
    const passes = Boolean(plays && viewport.bend);
    if (stays && this.picture === picture && this.passes === passes) return;
    Object.assign(this, { picture, view, passes, of: viewport.bend });
    const bent = picture && viewport.bend ? this.bending(plays && stays) : null;
    for (const surface of this.surfaces) surface.hidden = surface !== (bent?.surface ?? this.flat);
    if (bent) bent.draw(picture, viewport.bend, [over.width, over.height], scale, offset, plays);
    else this.draw(picture, scale, offset, viewport.plate);
  }

  /** What draws the undistorted picture; `stays` while it plays and the view is that of the last picture. */
  bending(stays) {
    if (this.drawn === undefined) this.drawn = DrawnBend.on(this.beneath());
    if (this.drawn && !(stays && this.drawn.byProcessor)) return this.drawn;
    this.gathered ??= new GatheredBend(this.beneath());
    return this.gathered;
  }

  draw(picture, scale, offset, size) {
    const { flat, ctx, over } = this;
    if (flat.width !== over.width) flat.width = over.width;
    if (flat.height !== over.height) flat.height = over.height;
    ctx.clearRect(0, 0, flat.width, flat.height);
    if (!picture) return;
    ctx.imageSmoothingEnabled = scale < 2;
    ctx.imageSmoothingQuality = "high";
    ctx.drawImage(picture, ...offset, size[0] * scale, size[1] * scale);
  }
}
