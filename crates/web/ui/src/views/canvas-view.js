// A picture on a canvas that zooms about the pointer and pans.
import { PictureLayer } from "./picture-layer.js";
import { Viewport } from "./viewport.js";

export class CanvasView {
  constructor(canvas, width, height) {
    this.canvas = canvas;
    this.viewport = new Viewport(width, height);
    this.ctx = canvas.getContext("2d");
    this.layer = new PictureLayer(canvas);
    canvas.addEventListener("wheel", (e) => this.wheel(e), { passive: false });
    canvas.addEventListener("contextmenu", (e) => e.preventDefault());
  }

  /** Draws as soon as the size is known, and whenever it changes. */
  observe() {
    new ResizeObserver(() => this.resize()).observe(this.canvas.parentElement);
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

  /** Where the picture lies on the screen: left, top, width, height. */
  frame() {
    const { viewport } = this;
    return [...viewport.shownToScreen(0, 0), viewport.plate[0] * viewport.scale, viewport.plate[1] * viewport.scale];
  }

  /** Draws with the next picture of the screen, once however often it is asked. */
  soon() {
    this.due ??= requestAnimationFrame(() => this.draw());
  }

  /** Clears the lines and shows the picture beneath them. */
  begin(picture, plays = false) {
    if (this.due) cancelAnimationFrame(this.due);
    this.due = null;
    const { ctx, viewport } = this;
    const ratio = this.ratio || 1;
    ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
    ctx.clearRect(0, 0, ...viewport.size);
    this.layer.show(picture ?? null, viewport, ratio, plays);
  }

  /** What `paint` draws ends at the picture's border: there is nothing to hold it against beyond. */
  inside(paint) {
    this.ctx.save();
    this.ctx.beginPath();
    this.ctx.rect(...this.frame());
    this.ctx.clip();
    paint();
    this.ctx.restore();
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
}
