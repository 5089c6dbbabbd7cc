// The plate with its layers; pan, zoom, and selecting by click and by box.
import { CanvasView } from "./canvas-view.js";
import * as layers from "../layers/plate.js";
import * as trackLayers from "../layers/tracks.js";
import { guests } from "../layers/guests.js";
import * as slip from "../layers/slip.js";
import { world } from "../layers/world.js";

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
    if (scene.hold) viewport.hold(scene.hold);
    this.begin(scene.picture, scene.playing);
    this.host(scene);
    const selected = scene.selected;
    this.inside(() => {
      if (scene.show.grid) layers.grid(ctx, viewport, scene.overlay?.grid);
      if (scene.show.world) world(ctx, viewport, scene.overlay, scene.statement);
      if (scene.mask) this.veil(scene.mask);
      if (scene.show.tracks) trackLayers.tracks(ctx, viewport, { ...scene, list: scene.tracks });
      if (scene.preview) trackLayers.preview(ctx, viewport, scene.preview);
      if (scene.show.landmarks) layers.landmarks(ctx, viewport, scene.overlay?.points, selected);
      layers.predicted(ctx, viewport, scene.predicted, scene.frame);
      if (scene.show.lensGrid) layers.grid(ctx, viewport, scene.lens?.grid);
      if (scene.slip) slip.field(ctx, viewport, scene.slip);
      if (scene.show.guests) guests(ctx, viewport, scene.overlay?.guests, scene.guest);
    });
    if (scene.slip) slip.legend(ctx, viewport, scene.slip, scene.unit === "metre" ? "m" : "units");
    if (scene.bend) layers.border(ctx, viewport);
    scene.tool?.paint(this);
    if (this.drag?.kind === "box") layers.box(ctx, this.drag.from, this.drag.to);
    if (this.drag?.kind === "loop") trackLayers.loop(ctx, this.drag.points);
  }

  /** Guests on their own surface, between picture and lines. */
  host(scene) {
    if (!this.guests) return;
    if (scene.show.guests && scene.guests) this.guests.draw(scene.frame, this.viewport, this.ratio || 1, this.frame(), scene.playing);
    else this.guests.canvas.hidden = true;
  }

  /** What mattes leave out, tinted. */
  veil(mask) {
    const { ctx, viewport } = this;
    ctx.globalAlpha = 0.45;
    if (!viewport.bend) ctx.drawImage(mask, ...this.frame());
    ctx.globalAlpha = 1;
  }

  down(e) {
    this.canvas.setPointerCapture(e.pointerId);
    const from = this.at(e);
    const tool = e.button === 0 ? this.scene().tool : null;
    // A tool that has nothing to do there leaves the pointer to selecting.
    if (tool && tool.down(e, this) !== false) {
      this.drag = { kind: "tool", tool };
      return;
    }
    this.drag = { kind: e.button === 0 ? "click" : "pan", from, to: from };
  }

  move(e) {
    if (!this.drag) return;
    if (this.drag.kind === "tool") return this.drag.tool.move(e, this);
    const to = this.at(e);
    if (this.drag.kind === "pan") {
      this.viewport.pan(to[0] - this.drag.to[0], to[1] - this.drag.to[1]);
      const { hold } = this.scene();
      if (hold) hold.at = null;
    }
    const far = Math.hypot(to[0] - this.drag.from[0], to[1] - this.drag.from[1]) > 4;
    if (this.drag.kind === "click" && far) Object.assign(this.drag, this.scene().looping ? { kind: "loop", points: [this.drag.from] } : { kind: "box" });
    if (this.drag.kind === "loop") this.drag.points.push(to);
    this.drag.to = to;
    this.soon();
  }

  up(e) {
    const drag = this.drag;
    this.drag = null;
    if (drag?.kind === "tool") return drag.tool.up(e, this);
    if (!drag || drag.kind === "pan") return;
    const ids = { box: () => this.within(drag.from, drag.to), loop: () => this.inLoop(drag.points), click: () => this.nearest(drag.from) }[drag.kind]();
    this.picked(ids, e.shiftKey);
  }

  /** Selectable features on this frame: id and screen position. */
  *features() {
    const scene = this.scene();
    if (scene.show.tracks) {
      for (const track of scene.tracks) {
        const k = trackLayers.indexAt(track, scene.frame);
        if (k >= 0 && trackLayers.isShown(track, scene)) yield [track.id, ...this.viewport.plateToScreen(track.xy[2 * k], track.xy[2 * k + 1])];
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

  /** Features inside a freehand loop, by the even-odd rule. */
  inLoop(points) {
    const inside = (x, y) =>
      points.reduce((odd, [ax, ay], k) => {
        const [bx, by] = points[(k + 1) % points.length];
        return ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax) ? !odd : odd;
      }, false);
    return [...this.features()].filter(([, x, y]) => inside(x, y)).map(([id]) => id);
  }
}
