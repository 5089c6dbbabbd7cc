// The photograph under the pointer: what can be grabbed, dragged and laid at each station.
// Positions are plate px; Alt makes the pointer ten times finer.
import { CanvasView } from "./canvas-view.js";
import { magnify } from "./loupe.js";

const GRAB_PX = 11;
const LEAST_PX = 6;
const SAME_PX = 3;

const distance = (p, q) => Math.hypot(p[0] - q[0], p[1] - q[1]);

export class PhotoView extends CanvasView {
  /** `host` draws (`paint`), says what can be grabbed (`grips`), and hears of what happens. */
  constructor(canvas, loupe, width, height, host) {
    super(canvas, width, height);
    Object.assign(this, { loupe, host, drag: null, hover: null });
    canvas.addEventListener("pointerdown", (e) => this.down(e));
    canvas.addEventListener("pointermove", (e) => this.move(e));
    canvas.addEventListener("pointerup", () => this.up());
    canvas.addEventListener("pointercancel", () => this.cancel());
    canvas.addEventListener("pointerleave", () => ((this.hover = null), this.soon()));
    this.observe();
  }

  draw() {
    this.begin(this.host.picture() ?? this.picture);
    this.host.paint(this);
    if (this.drag?.at && this.drag.kind !== "pan") magnify(this.loupe, this.picture, this.viewport, this.drag.at);
  }

  down(e) {
    this.canvas.focus();
    this.canvas.setPointerCapture(e.pointerId);
    const screen = this.at(e);
    if (e.button !== 0) {
      this.drag = { kind: "pan", screen };
      return;
    }
    const grip = e.shiftKey ? null : this.nearest(screen);
    const from = this.viewport.screenToPlate(...screen);
    // A grabbed point keeps its distance from the pointer, so that grabbing moves nothing.
    const at = grip?.px ?? from;
    this.drag = { kind: grip ? "grip" : "lay", grip, from, at: [...at], screen, begun: screen, moved: false };
    if (grip) this.host.grabbed(grip);
  }

  move(e) {
    const { drag } = this;
    const screen = this.at(e);
    if (!drag) {
      this.hover = screen;
      this.soon();
      return;
    }
    const by = [screen[0] - drag.screen[0], screen[1] - drag.screen[1]];
    drag.screen = screen;
    if (drag.kind === "pan") {
      this.viewport.pan(...by);
      this.draw();
      return;
    }
    const fine = (e.altKey ? 0.1 : 1) / this.viewport.scale;
    drag.at = [drag.at[0] + by[0] * fine, drag.at[1] + by[1] * fine];
    if (!drag.moved && distance(screen, drag.begun) < 3) return;
    drag.moved = true;
    if (drag.kind === "grip") this.host.dragged(drag.grip, drag.at);
    else this.host.laying(drag.from, drag.at);
    this.host.loupe(true);
    this.draw();
  }

  up() {
    const { drag } = this;
    this.drag = null;
    this.host.loupe(false);
    if (!drag || drag.kind === "pan") return;
    if (drag.kind === "grip") {
      if (drag.moved) this.host.dropped(drag.grip);
    } else if (drag.moved && distance(drag.screen, drag.begun) >= LEAST_PX) this.host.laid();
    else this.host.clicked(drag.from);
    this.draw();
  }

  cancel() {
    if (this.drag) this.host.abandoned();
    this.drag = null;
    this.host.loupe(false);
  }

  nearest(screen) {
    let best = [GRAB_PX, null];
    for (const grip of this.host.grips()) {
      const away = distance(this.viewport.plateToScreen(...grip.px), screen);
      // Of several on one place the one that comes first.
      const d = away < GRAB_PX && grip.first ? away - SAME_PX : away;
      if (d < best[0]) best = [d, grip];
    }
    return best[1];
  }
}
