// The plate with its layers; pan, zoom, and selecting by click and by box.
import { CanvasView } from "./canvas-view.js";
import * as layers from "./layers.js";

const PICK_PX = 12;

export class PlateView extends CanvasView {
  /** `scene()` gives what to draw, `picked(ids, adding)` hears of selections; `scene().tool`
   *  takes the pointer where a station has one of its own. */
  constructor(canvas, loupe, width, height, scene, picked) {
    super(canvas, width, height);
    Object.assign(this, { loupe, scene, picked, drag: null });
    canvas.addEventListener("dblclick", () => this.scene().tool?.ended());
    canvas.addEventListener("pointerdown", (e) => this.down(e));
    canvas.addEventListener("pointermove", (e) => this.move(e));
    canvas.addEventListener("pointerup", (e) => this.up(e));
    this.observe();
  }

  draw() {
    const { ctx, viewport } = this;
    const scene = this.scene();
    viewport.through(scene.bend);
    this.begin(scene.picture);
    const selected = scene.selected;
    this.inside(() => {
      if (scene.show.grid) layers.grid(ctx, viewport, scene.overlay?.grid);
      if (scene.show.tracks) layers.tracks(ctx, viewport, { list: scene.tracks, frame: scene.frame, selected, showAside: scene.show.aside });
      if (scene.show.landmarks) layers.landmarks(ctx, viewport, scene.overlay?.points, selected);
      if (scene.show.lensGrid) layers.grid(ctx, viewport, scene.lens?.grid);
      if (scene.show.boxes) layers.boxes(ctx, viewport, scene.overlay?.boxes);
    });
    if (scene.bend) layers.border(ctx, viewport);
    scene.tool?.paint(this);
    if (this.drag?.kind === "box") layers.box(ctx, this.drag.from, this.drag.to);
  }

  down(e) {
    this.canvas.setPointerCapture(e.pointerId);
    const from = this.at(e);
    const tool = e.button === 0 ? this.scene().tool : null;
    if (tool) {
      this.drag = { kind: "tool", tool };
      tool.down(e, this);
      return;
    }
    this.drag = { kind: e.button === 0 ? "click" : "pan", from, to: from };
  }

  move(e) {
    if (!this.drag) return;
    if (this.drag.kind === "tool") return this.drag.tool.move(e, this);
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
    if (drag?.kind === "tool") return drag.tool.up(e, this);
    if (!drag || drag.kind === "pan") return;
    const ids = drag.kind === "box" ? this.within(drag.from, drag.to) : this.nearest(drag.from);
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

  within(a, b) {
    const [x0, x1] = [Math.min(a[0], b[0]), Math.max(a[0], b[0])];
    const [y0, y1] = [Math.min(a[1], b[1]), Math.max(a[1], b[1])];
    return [...this.features()].filter(([, x, y]) => x >= x0 && x <= x1 && y >= y0 && y <= y1).map(([id]) => id);
  }
}
