// Marking straights on the plate: a click adds a mark to the straight that is being drawn,
// a mark can be dragged, Enter or a double click ends. Alt makes the pointer ten times finer.
import { css, tint } from "../layers/colour.js";
import { dragOn } from "./fine-drag.js";
import { haloed, polylines } from "../layers/plate.js";
import { magnify } from "../views/loupe.js";

const GRAB_PX = 9;
const NEEDLE_TIMES = 20;
const distance = (p, q) => Math.hypot(p[0] - q[0], p[1] - q[1]);

function besideLine(at, line, viewport) {
  let best = Infinity;
  for (let k = 0; k + 3 < line.length; k += 2) {
    const [a, b] = [viewport.plateToScreen(line[k], line[k + 1]), viewport.plateToScreen(line[k + 2], line[k + 3])];
    const d = [b[0] - a[0], b[1] - a[1]];
    const t = Math.min(1, Math.max(0, ((at[0] - a[0]) * d[0] + (at[1] - a[1]) * d[1]) / (d[0] ** 2 + d[1] ** 2 || 1)));
    best = Math.min(best, distance(at, [a[0] + t * d[0], a[1] + t * d[1]]));
  }
  return best;
}

export class StraightsTool {
  /** `host` has the marks (`straights`, `drawing`, `chosen`), the server's `answer`, and hears of changes. */
  constructor(host) {
    Object.assign(this, { host, drag: null });
  }

  down(e, view) {
    const { host } = this;
    const screen = view.at(e);
    const grip = e.shiftKey ? null : this.grip(screen, view.viewport);
    this.drag = { grip, screen, begun: screen, moved: false, at: grip ? [...grip.px] : view.viewport.screenToPlate(...screen) };
    if (grip) {
      host.choose(grip.straight, grip.mark);
      return;
    }
    const line = host.drawing || e.shiftKey ? -1 : this.line(screen, view.viewport);
    if (line >= 0) {
      host.choose(line, -1);
      this.drag = null;
      return;
    }
    host.added(this.drag.at);
  }

  move(e, view) {
    const { drag, host } = this;
    if (!drag || !dragOn(drag, e, view)) return;
    if (drag.grip) host.dragged(drag.grip, drag.at);
    else host.adjusted(drag.at);
    host.loupe(true);
    magnify(view.loupe, host.picture(), view.viewport, drag.at);
    view.soon();
  }

  up() {
    const { drag, host } = this;
    this.drag = null;
    host.loupe(false);
    if (drag?.moved && drag.grip) host.dropped(drag.grip);
  }

  ended() {
    this.host.ended();
  }

  /** The mark under the pointer, on this frame. */
  grip(screen, viewport) {
    let best = [GRAB_PX, null];
    this.host.shown().forEach(({ marks, index }) => {
      // Marks that lie close together hide one another: only those of the chosen straight, and ends, are grabbed.
      marks.forEach((px, mark) => {
        const end = mark === 0 || mark === marks.length - 1;
        if (!end && index !== this.host.chosen.straight) return;
        const d = distance(viewport.plateToScreen(...px), screen);
        if (d < best[0]) best = [d, { straight: index, mark, px }];
      });
    });
    return best[1];
  }

  line(screen, viewport) {
    const near = this.host.shown().map(({ marks, index, curve }) => [besideLine(screen, curve ?? marks.flat(), viewport), index]);
    const [best, index] = near.reduce((a, b) => (b[0] < a[0] ? b : a), [Infinity, -1]);
    return best < GRAB_PX ? index : -1;
  }

  paint(view) {
    const { ctx, viewport } = view;
    const { chosen, drawing } = this.host;
    for (const { marks, index, curve, after, misses } of this.host.shown()) {
      const own = index === chosen.straight;
      const colour = own ? css("--chosen") : after === null || after === undefined ? css("--active") : tint(after);
      haloed(ctx, own ? 1.8 : 1.3, colour, () => polylines(ctx, viewport, [curve ?? marks.flat()]));
      this.marks(ctx, viewport, marks, colour, own ? chosen.mark : -1);
      if (own && misses) this.needles(ctx, viewport, marks, misses);
      this.number(ctx, viewport, marks[0], index);
    }
    if (drawing?.length) {
      haloed(ctx, 1.5, css("--chosen"), () => polylines(ctx, viewport, [drawing.flat()]));
      this.marks(ctx, viewport, drawing, css("--chosen"), drawing.length - 1);
    }
  }

  marks(ctx, viewport, marks, colour, chosen) {
    marks.forEach((px, k) => {
      const [x, y] = viewport.plateToScreen(...px);
      const half = k === chosen ? 5 : 2.5;
      haloed(ctx, k === chosen ? 2 : 1.2, colour, () => {
        ctx.beginPath();
        ctx.moveTo(x - half, y - half);
        ctx.lineTo(x + half, y + half);
        ctx.moveTo(x + half, y - half);
        ctx.lineTo(x - half, y + half);
      });
    });
  }

  /** How far each mark of the chosen straight lies from the solved curve, magnified. */
  needles(ctx, viewport, marks, misses) {
    haloed(ctx, 1, css("--wrong"), () => {
      ctx.beginPath();
      marks.forEach((px, k) => {
        const [x, y] = viewport.plateToScreen(...px);
        const [dx, dy] = misses[k] ?? [0, 0];
        ctx.moveTo(x, y);
        ctx.lineTo(x + NEEDLE_TIMES * dx, y + NEEDLE_TIMES * dy);
      });
    });
  }

  number(ctx, viewport, px, index) {
    const [x, y] = viewport.plateToScreen(...px);
    ctx.font = '11px "Plex Mono", monospace';
    ctx.textAlign = "center";
    ctx.textBaseline = "middle";
    ctx.lineWidth = 3;
    ctx.strokeStyle = "rgba(0,0,0,.7)";
    ctx.strokeText(String(index + 1), x, y - 12);
    ctx.fillStyle = "#f5f2ea";
    ctx.fillText(String(index + 1), x, y - 12);
  }
}
