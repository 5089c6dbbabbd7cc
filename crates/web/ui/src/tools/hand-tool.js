// Hand tracks under the pointer: a click places one, dragging a marker keys it there, the corners of
// the two boxes set pattern and reach. Alt makes the pointer ten times finer.
import { css } from "../layers/colour.js";
import { dragOn } from "./fine-drag.js";
import { haloed } from "../layers/plate.js";
import { magnify } from "../views/loupe.js";

const GRAB_PX = 10;
const distance = (p, q) => Math.hypot(p[0] - q[0], p[1] - q[1]);

export class HandTool {
  /** `host` knows the hand tracks on this frame and hears of what is done. */
  constructor(host) {
    Object.assign(this, { host, drag: null });
  }

  down(e, view) {
    const screen = view.at(e);
    const at = view.viewport.screenToPlate(...screen);
    const edge = this.edge(screen, view.viewport);
    if (edge) {
      this.drag = { edge, screen, begun: screen, at, moved: false };
      return;
    }
    const near = this.near(screen, view.viewport);
    if (near) {
      this.host.choose(near.id);
      this.drag = { id: near.id, screen, begun: screen, at: [...near.px], moved: false };
      view.soon();
      return;
    }
    // The chosen one is not here: a click says where it is. Else a click begins another.
    const chosen = this.host.chosen();
    const away = chosen && !this.host.placing() && !this.host.on(chosen.id);
    if (chosen && !away && !this.host.placing()) {
      this.host.choose(null);
      view.soon();
      return;
    }
    this.drag = { id: away ? chosen.id : null, screen, begun: screen, at, moved: true };
    this.show(view);
  }

  move(e, view) {
    const { drag } = this;
    if (!drag || !dragOn(drag, e, view)) return;
    if (drag.edge) {
      const { px } = this.host.on(drag.edge.id);
      drag.half = [0, 1].map((i) => Math.abs(drag.at[i] - px[i]));
      view.soon();
      return;
    }
    this.show(view);
  }

  show(view) {
    this.host.loupe(true);
    magnify(view.loupe, this.host.picture(), view.viewport, this.drag.at);
    view.soon();
  }

  up(e, view) {
    const { drag } = this;
    this.drag = null;
    this.host.loupe(false);
    if (!drag?.moved) return;
    if (drag.edge) this.host.shaped(drag.edge, drag.half);
    else if (drag.id === null) this.host.placed(drag.at);
    else this.host.keyed(drag.id, drag.at);
    view.soon();
  }

  ended() {}

  near(screen, viewport) {
    let best = [GRAB_PX, null];
    for (const hand of this.host.all()) {
      const d = distance(viewport.plateToScreen(...hand.px), screen);
      if (d < best[0]) best = [d, hand];
    }
    return best[1];
  }

  /** The corner of a box of the chosen hand track that is under the pointer. */
  edge(screen, viewport) {
    const chosen = this.host.chosen();
    const here = chosen && this.host.on(chosen.id);
    if (!here) return null;
    for (const [kind, half] of [["pattern", [chosen.pattern_px / 2, chosen.pattern_px / 2]], ["reach", chosen.reach_px]]) {
      const corner = viewport.plateToScreen(here.px[0] + half[0], here.px[1] + half[1]);
      if (distance(corner, screen) < GRAB_PX - 2) return { kind, id: chosen.id };
    }
    return null;
  }

  paint(view) {
    const { ctx, viewport } = view;
    const chosen = this.host.chosen();
    const held = this.drag?.moved && !this.drag.edge ? this.drag.at : this.host.nudged();
    const px = held ?? (chosen && this.host.on(chosen.id)?.px);
    if (held) this.cross(ctx, viewport.plateToScreen(...held));
    if (!px || (this.drag && this.drag.id === null)) return;
    const shape = this.drag?.edge?.kind;
    const half = { pattern: [chosen.pattern_px / 2, chosen.pattern_px / 2], reach: chosen.reach_px };
    if (shape === "pattern" && this.drag.half) half.pattern = [Math.max(...this.drag.half), Math.max(...this.drag.half)];
    if (shape === "reach" && this.drag.half) half.reach = this.drag.half;
    this.box(view, px, half.pattern, []);
    this.box(view, px, half.reach, [2, 4]);
  }

  box({ ctx, viewport }, px, half, dash) {
    const [x0, y0] = viewport.plateToScreen(px[0] - half[0], px[1] - half[1]);
    const [x1, y1] = viewport.plateToScreen(px[0] + half[0], px[1] + half[1]);
    ctx.setLineDash(dash);
    haloed(ctx, 1, css("--chosen"), () => {
      ctx.beginPath();
      ctx.rect(x0, y0, x1 - x0, y1 - y0);
    });
    ctx.setLineDash([]);
    ctx.fillStyle = css("--chosen");
    ctx.fillRect(x1 - 3, y1 - 3, 6, 6);
  }

  cross(ctx, [x, y]) {
    haloed(ctx, 1.5, css("--chosen"), () => {
      ctx.beginPath();
      for (const [dx, dy] of [[1, 0], [-1, 0], [0, 1], [0, -1]]) {
        ctx.moveTo(x + 3 * dx, y + 3 * dy);
        ctx.lineTo(x + 9 * dx, y + 9 * dy);
      }
    });
  }
}
