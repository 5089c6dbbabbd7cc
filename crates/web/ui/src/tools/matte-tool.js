// Drawn mattes under the pointer: clicks lay the outline, Enter or a click on its first point closes
// it; a point or the whole outline is dragged, which keys it on this frame; Shift on a side adds a point.
import { css } from "../layers/colour.js";
import { haloed } from "../layers/plate.js";

const GRAB_PX = 9;
const distance = (p, q) => Math.hypot(p[0] - q[0], p[1] - q[1]);

export class MatteTool {
  /** `host` has the outlines on this frame and hears of what is done. */
  constructor(host) {
    Object.assign(this, { host, drag: null });
  }

  down(e, view) {
    const { host } = this;
    const { viewport } = view;
    const screen = view.at(e);
    const at = viewport.screenToPlate(...screen);
    const laid = host.drawing();
    if (laid) {
      if (laid.length > 2 && distance(viewport.plateToScreen(...laid[0]), screen) < GRAB_PX) host.closed();
      else host.laid(at);
      view.soon();
      return;
    }
    const grip = this.grip(screen, at, viewport);
    if (!grip) {
      host.choose(0);
      view.soon();
      return false;
    }
    host.choose(grip.matte);
    if (grip.side !== undefined && e.shiftKey) {
      host.pointed(grip.matte, grip.side, at);
      return;
    }
    const outline = host.outlines().find((o) => o.matte === grip.matte);
    this.drag = { grip, from: at, begun: screen, moved: false, points: outline.points };
    view.soon();
  }

  move(e, view) {
    const { drag } = this;
    if (!drag) return;
    const screen = view.at(e);
    if (!drag.moved && distance(screen, drag.begun) < 3) return;
    drag.moved = true;
    const at = view.viewport.screenToPlate(...screen);
    const by = [at[0] - drag.from[0], at[1] - drag.from[1]];
    drag.now = drag.points.map((p, k) => (drag.grip.point === undefined || drag.grip.point === k ? [p[0] + by[0], p[1] + by[1]] : p));
    view.soon();
  }

  up() {
    const { drag } = this;
    this.drag = null;
    if (drag?.moved) this.host.keyed(drag.grip.matte, drag.now);
  }

  ended() {
    if (this.host.drawing()?.length > 2) this.host.closed();
  }

  /** A point, a side or the inside of an outline. */
  grip(screen, at, viewport) {
    const outlines = this.host.outlines();
    for (const { matte, points } of outlines) {
      const point = points.findIndex((p) => distance(viewport.plateToScreen(...p), screen) < GRAB_PX);
      if (point >= 0) return { matte, point };
    }
    for (const { matte, points } of outlines) {
      const shown = points.map((p) => viewport.plateToScreen(...p));
      const side = shown.findIndex((a, k) => this.beside(screen, a, shown[(k + 1) % shown.length]) < GRAB_PX - 2);
      if (side >= 0) return { matte, side };
      const inside = points.reduce((odd, [ax, ay], k) => {
        const [bx, by] = points[(k + 1) % points.length];
        return ay > at[1] !== by > at[1] && at[0] < ax + ((at[1] - ay) / (by - ay)) * (bx - ax) ? !odd : odd;
      }, false);
      if (inside) return { matte };
    }
    return null;
  }

  beside(at, a, b) {
    const d = [b[0] - a[0], b[1] - a[1]];
    const t = Math.min(1, Math.max(0, ((at[0] - a[0]) * d[0] + (at[1] - a[1]) * d[1]) / (d[0] ** 2 + d[1] ** 2 || 1)));
    return distance(at, [a[0] + t * d[0], a[1] + t * d[1]]);
  }

  paint(view) {
    const { host } = this;
    for (const { matte, points, keyed, off } of host.outlines()) {
      const own = matte === host.chosen();
      const now = this.drag?.now && this.drag.grip.matte === matte ? this.drag.now : points;
      this.outline(view, now, own, keyed, off);
    }
    const laid = host.drawing();
    if (laid?.length) this.outline(view, laid, true, true, false, true);
  }

  outline({ ctx, viewport }, points, own, keyed, off, open = false) {
    const shown = points.map((p) => viewport.plateToScreen(...p));
    const path = () => {
      ctx.beginPath();
      shown.forEach(([x, y], k) => (k ? ctx.lineTo(x, y) : ctx.moveTo(x, y)));
      if (!open) ctx.closePath();
    };
    const colour = css(own ? "--chosen" : "--wrong");
    if (!open && !off) {
      path();
      ctx.globalAlpha = 0.22;
      ctx.fillStyle = css("--wrong");
      ctx.fill();
      ctx.globalAlpha = 1;
    }
    // Between keys an outline is dashed.
    ctx.setLineDash(keyed ? [] : [5, 3]);
    haloed(ctx, own ? 1.6 : 1.1, colour, path);
    ctx.setLineDash([]);
    if (!own) return;
    for (const [x, y] of shown) {
      haloed(ctx, 1.2, colour, () => {
        ctx.beginPath();
        ctx.rect(x - 3, y - 3, 6, 6);
      });
    }
  }
}
