// The handle of the world over the plate: what is dragged is the world's own frame, against the picture. Alt makes the
// pointer ten times finer.
import { css } from "../layers/colour.js";
import { haloed } from "../layers/plate.js";
import { dragOn } from "./fine-drag.js";
import { bandInk, dragBy, inkOf, nearestKnob, stepsOf, undone } from "./handle-drag.js";

/** A knob that a drag would take no farther than so, px a step, points at the eye and is not to be dragged. */
const SHORTEST_PX = 10;

export class HandleTool {
  /** `host` says whether it is there and hears what is dragged. */
  constructor(host) {
    Object.assign(this, { host, drag: null });
  }

  /** The handle as it lies on the plate, if it does. */
  drawn(view) {
    return (this.host.at() && view.scene().overlay?.handle) || null;
  }

  down(e, view) {
    const drawn = this.drawn(view);
    if (!drawn) return false;
    const { viewport } = view;
    const [screen, seen] = [view.at(e), drawn.parts.map((part) => [part, viewport.plateToScreen(...part.at)])];
    const part = nearestKnob(seen, screen);
    if (!part) return false;
    const [from, to] = [part.at, part.later].map((px) => viewport.plateToScreen(...px));
    const way = [0, 1].map((k) => (to[k] - from[k]) / drawn.later);
    if (Math.hypot(...way) < SHORTEST_PX) return false;
    this.drag = { part, way, arm: drawn.arm, screen, begun: screen, at: [...part.at], from: part.at, moved: false };
    this.host.begun();
  }

  move(e, view) {
    const { drag } = this;
    if (!drag || !dragOn(drag, e, view)) return;
    const [from, to] = [drag.from, drag.at].map((px) => view.viewport.plateToScreen(...px));
    // The picture stays and the frame goes with the pointer: the world goes the other way.
    this.host.moved(undone(dragBy(drag.part, stepsOf(drag.way, from, to), drag.arm)));
  }

  up() {
    if (!this.drag) return;
    this.drag = null;
    this.host.done();
  }

  ended() {}

  paint(view) {
    const drawn = this.drawn(view);
    if (!drawn) return;
    const { ctx, viewport } = view;
    for (const { what, axis, at, lines } of drawn.parts) {
      lines.forEach((ends, k) => {
        haloed(ctx, what === "shift" ? 3 : 1.2, css(bandInk(what, axis, k)), () => {
          ctx.beginPath();
          ctx.moveTo(...viewport.plateToScreen(ends[0], ends[1]));
          ctx.lineTo(...viewport.plateToScreen(ends[2], ends[3]));
        });
      });
      ctx.beginPath();
      ctx.arc(...viewport.plateToScreen(...at), what === "shift" ? 6 : 5, 0, 2 * Math.PI);
      ctx.fillStyle = css(inkOf(what, axis));
      ctx.fill();
      ctx.lineWidth = 1;
      ctx.strokeStyle = "rgba(0,0,0,.7)";
      ctx.stroke();
    }
  }
}
