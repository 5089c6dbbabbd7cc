// Rails over the plate at Orient: a drag draws one, ends can be dragged. Alt makes the pointer ten times finer.
import { css } from "../layers/colour.js";
import { haloed } from "../layers/plate.js";
import * as rods from "../layers/rods.js";
import { magnify } from "../views/loupe.js";
import { dragOn } from "./fine-drag.js";

const GRAB_PX = 9;
/** Shorter rails show no direction, px of the screen. */
const SHORTEST_PX = 12;

export class RailTool {
  /** `host` has the rails that are shown and the draft, and hears of changes. */
  constructor(host) {
    Object.assign(this, { host, drag: null });
  }

  down(e, view) {
    const screen = view.at(e);
    const grip = this.grip(screen, view.viewport);
    if (!grip && !this.host.drawing()) return false;
    const at = grip ? [...grip.px] : view.viewport.screenToPlate(...screen);
    this.drag = { grip, screen, begun: screen, moved: false, at, from: [...at] };
    return true;
  }

  move(e, view) {
    const { drag, host } = this;
    if (!drag || !dragOn(drag, e, view)) return;
    if (drag.grip) host.dragged(drag.grip.id, drag.grip.end, drag.at);
    else host.drawn(drag.from, drag.at);
    host.loupe(true);
    magnify(view.loupe, host.picture(), view.viewport, drag.at);
    view.soon();
  }

  up(e, view) {
    const { drag, host } = this;
    this.drag = null;
    host.loupe(false);
    if (!drag?.moved) return;
    if (drag.grip && drag.grip.id !== null) host.moved(drag.grip.id);
    else host.dropped(null);
    view.soon();
  }

  ended() {}

  /** The end under the pointer: of the draft, else of a rail on this frame. */
  grip(screen, viewport) {
    const { host } = this;
    const draft = host.draft();
    const all = [...(draft ? [{ ...draft, id: null }] : []), ...(host.locked() ? [] : host.shown())];
    let best = [GRAB_PX, null];
    for (const rail of all) {
      for (const end of ["a", "b"]) {
        const [x, y] = viewport.plateToScreen(...rail[end]);
        const d = Math.hypot(x - screen[0], y - screen[1]);
        if (d < best[0]) best = [d, { id: rail.id, end, px: rail[end] }];
      }
    }
    return best[1];
  }

  paint(view) {
    const { ctx, viewport } = view;
    for (const edge of this.host.offered()) rods.offer(ctx, viewport, edge);
    for (const rail of this.host.shown()) {
      ctx.globalAlpha = rail.off ? 0.35 : 1;
      if (rail.axis) rods.rail(ctx, viewport, rail);
      else this.hairline(ctx, viewport, rail, "#f5f2ea");
      ctx.globalAlpha = 1;
    }
    const draft = this.host.draft();
    if (draft && this.isLong(draft, viewport)) this.hairline(ctx, viewport, draft, css("--chosen"));
  }

  isLong({ a, b }, viewport) {
    const [p, q] = [viewport.plateToScreen(...a), viewport.plateToScreen(...b)];
    return Math.hypot(p[0] - q[0], p[1] - q[1]) >= SHORTEST_PX;
  }

  /** A rail of no family: a line with ticks across its ends. */
  hairline(ctx, viewport, rail, colour) {
    const { a, b, side } = rods.laidOut(viewport, rail);
    haloed(ctx, 1.3, colour, () => {
      ctx.beginPath();
      ctx.moveTo(...a);
      ctx.lineTo(...b);
      for (const end of [a, b]) {
        ctx.moveTo(end[0] - 7 * side[0], end[1] - 7 * side[1]);
        ctx.lineTo(end[0] + 7 * side[0], end[1] + 7 * side[1]);
      }
    });
  }
}
