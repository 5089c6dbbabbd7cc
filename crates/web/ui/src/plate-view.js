// The plate with its layers; pan, zoom, and selecting by click and by box.
import * as layers from "./layers.js";
import { Viewport } from "./viewport.js";

const PICK_PX = 12;

export class PlateView {
  /** `scene()` gives what to draw, `picked(ids, adding)` hears of selections. */
  constructor(canvas, width, height, scene, picked) {
    Object.assign(this, { canvas, scene, picked, drag: null });
    this.viewport = new Viewport(width, height);
    this.ctx = canvas.getContext("2d");
    new ResizeObserver(() => this.resize()).observe(canvas.parentElement);
    canvas.addEventListener("wheel", (e) => this.wheel(e), { passive: false });
    canvas.addEventListener("pointerdown", (e) => this.down(e));
    canvas.addEventListener("pointermove", (e) => this.move(e));
    canvas.addEventListener("pointerup", (e) => this.up(e));
    canvas.addEventListener("contextmenu", (e) => e.preventDefault());
  }

  resize() {
    const { clientWidth, clientHeight } = this.canvas.parentElement;
    const ratio = window.devicePixelRatio || 1;
    this.canvas.width = Math.max(1, Math.round(clientWidth * ratio));
    this.canvas.height = Math.max(1, Math.round(clientHeight * ratio));
    this.ratio = ratio;
    this.viewport.resize(clientWidth, clientHeight);
    this.draw();
  }

  draw() {
    const { ctx, viewport } = this;
    const scene = this.scene();
    ctx.setTransform(this.ratio || 1, 0, 0, this.ratio || 1, 0, 0);
    ctx.clearRect(0, 0, viewport.size[0], viewport.size[1]);
    if (scene.picture) {
      const [x, y] = viewport.plateToScreen(0, 0);
      ctx.imageSmoothingEnabled = viewport.scale < 2;
      ctx.imageSmoothingQuality = "high";
      ctx.drawImage(scene.picture, x, y, viewport.plate[0] * viewport.scale, viewport.plate[1] * viewport.scale);
    }
    const selected = scene.selected;
    // Lines end at the picture's border: there is nothing to hold them against beyond it.
    ctx.save();
    ctx.beginPath();
    ctx.rect(...viewport.plateToScreen(0, 0), viewport.plate[0] * viewport.scale, viewport.plate[1] * viewport.scale);
    ctx.clip();
    if (scene.show.grid) layers.grid(ctx, viewport, scene.overlay?.grid);
    if (scene.show.tracks) layers.tracks(ctx, viewport, { list: scene.tracks, frame: scene.frame, selected, showAside: scene.show.aside });
    if (scene.show.landmarks) layers.landmarks(ctx, viewport, scene.overlay?.points, selected);
    if (scene.show.boxes) layers.boxes(ctx, viewport, scene.overlay?.boxes);
    ctx.restore();
    if (this.drag?.kind === "box") layers.box(ctx, this.drag.from, this.drag.to);
  }

  at(e) {
    const r = this.canvas.getBoundingClientRect();
    return [e.clientX - r.left, e.clientY - r.top];
  }

  wheel(e) {
    e.preventDefault();
    this.viewport.zoom(Math.exp(-e.deltaY * 0.0015), ...this.at(e));
    this.draw();
  }

  down(e) {
    this.canvas.setPointerCapture(e.pointerId);
    const from = this.at(e);
    this.drag = { kind: e.button === 0 ? "click" : "pan", from, to: from };
  }

  move(e) {
    if (!this.drag) return;
    const to = this.at(e);
    if (this.drag.kind === "pan") this.viewport.pan(to[0] - this.drag.to[0], to[1] - this.drag.to[1]);
    const far = Math.hypot(to[0] - this.drag.from[0], to[1] - this.drag.from[1]) > 4;
    if (this.drag.kind === "click" && far) this.drag.kind = "box";
    this.drag.to = to;
    this.draw();
  }

  up(e) {
    const drag = this.drag;
    this.drag = null;
    if (!drag || drag.kind === "pan") return;
    const ids = drag.kind === "box" ? this.inside(drag.from, drag.to) : this.nearest(drag.from);
    this.picked(ids, e.shiftKey);
  }

  /** Selectable features on this frame: id and screen position. */
  *features() {
    const scene = this.scene();
    if (scene.show.tracks) {
      for (const track of scene.tracks) {
        const k = layers.indexAt(track, scene.frame);
        if (k >= 0 && (!track.aside || scene.show.aside)) yield [track.id, ...this.viewport.plateToScreen(track.xy[2 * k], track.xy[2 * k + 1])];
      }
    } else if (scene.show.landmarks && scene.overlay?.points) {
      const p = scene.overlay.points;
      for (let k = 0; k < p.length; k += 3) yield [p[k], ...this.viewport.plateToScreen(p[k + 1], p[k + 2])];
    }
  }

  nearest([x, y]) {
    let best = [PICK_PX, null];
    for (const [id, fx, fy] of this.features()) {
      const d = Math.hypot(fx - x, fy - y);
      if (d < best[0]) best = [d, id];
    }
    return best[1] === null ? [] : [best[1]];
  }

  inside(a, b) {
    const [x0, x1] = [Math.min(a[0], b[0]), Math.max(a[0], b[0])];
    const [y0, y1] = [Math.min(a[1], b[1]), Math.max(a[1], b[1])];
    return [...this.features()].filter(([, x, y]) => x >= x0 && x <= x1 && y >= y0 && y <= y1).map(([id]) => id);
  }
}
