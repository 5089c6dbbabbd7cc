// The photograph under the pointer: what can be grabbed, dragged and laid at each station.
// Positions are plate px; Alt makes the pointer ten times finer.
import { CanvasView } from "./canvas-view.js";

const GRAB_PX = 11;
const LEAST_PX = 6;
const LOUPE_TIMES = 8;

const distance = (p, q) => Math.hypot(p[0] - q[0], p[1] - q[1]);

export class PhotoView extends CanvasView {
  /** `host` draws (`paint`), says what can be grabbed (`grips`), and hears of what happens. */
  constructor(canvas, loupe, width, height, host) {
    super(canvas, width, height);
    Object.assign(this, { loupe, host, drag: null });
    canvas.addEventListener("pointerdown", (e) => this.down(e));
    canvas.addEventListener("pointermove", (e) => this.move(e));
    canvas.addEventListener("pointerup", () => this.up());
    canvas.addEventListener("pointercancel", () => this.cancel());
    this.observe();
  }

  draw() {
    this.begin(this.picture);
    this.host.paint(this);
    if (this.drag?.at && this.drag.kind !== "pan") this.magnify(this.drag.at);
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
    if (!drag) return;
    const screen = this.at(e);
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
      const d = distance(this.viewport.plateToScreen(...grip.px), screen);
      if (d < best[0]) best = [d, grip];
    }
    return best[1];
  }

  /** The picture around a point, enlarged, beside the pointer. */
  magnify(px) {
    const { loupe, picture } = this;
    if (!picture) return;
    const ctx = loupe.getContext("2d");
    const size = loupe.width;
    const share = picture.width / this.viewport.plate[0];
    const half = size / 2 / LOUPE_TIMES;
    ctx.imageSmoothingEnabled = false;
    ctx.fillStyle = "#333";
    ctx.fillRect(0, 0, size, size);
    ctx.drawImage(picture, (px[0] - half) * share, (px[1] - half) * share, 2 * half * share, 2 * half * share, 0, 0, size, size);
    const middle = size / 2;
    for (const [width, colour] of [[3, "rgba(0,0,0,.6)"], [1, "#ece8de"]]) {
      ctx.lineWidth = width;
      ctx.strokeStyle = colour;
      ctx.beginPath();
      for (const [dx, dy] of [[1, 0], [-1, 0], [0, 1], [0, -1]]) {
        ctx.moveTo(middle + 7 * dx, middle + 7 * dy);
        ctx.lineTo(middle + 26 * dx, middle + 26 * dy);
      }
      ctx.stroke();
    }
    const [x, y] = this.viewport.plateToScreen(...px);
    const [width, height] = this.viewport.size;
    const left = x + 28 + size > width ? x - 28 - size : x + 28;
    const top = Math.min(Math.max(8, y - size - 12), height - size - 8);
    loupe.style.transform = `translate(${Math.round(left)}px, ${Math.round(top)}px)`;
  }
}
