// A picture on a canvas that zooms about the pointer and pans.
import { BentPicture } from "./bend.js";
import { Viewport } from "./viewport.js";

export class CanvasView {
  constructor(canvas, width, height) {
    this.canvas = canvas;
    this.viewport = new Viewport(width, height);
    this.ctx = canvas.getContext("2d");
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

  /** Clears the canvas and draws the picture. */
  begin(picture, plays = false) {
    const { ctx, viewport } = this;
    ctx.setTransform(this.ratio || 1, 0, 0, this.ratio || 1, 0, 0);
    ctx.clearRect(0, 0, ...viewport.size);
    if (!picture) return;
    ctx.drawImage(this.scaled(picture, plays), 0, 0, ...viewport.size);
  }

  /** The picture as large as it is seen: scaled once, however often lines over it change. */
  scaled(picture, plays) {
    const { canvas, viewport } = this;
    const frame = this.frame();
    const wanted = [canvas.width, canvas.height, ...frame].join();
    if (viewport.bend) {
      this.bent ??= new BentPicture();
      const ratio = this.ratio || 1;
      this.kept = null;
      return this.bent.draw(picture, viewport.bend, [canvas.width, canvas.height], viewport.scale * ratio, viewport.offset.map((v) => v * ratio), plays);
    }
    if (this.kept?.picture !== picture || this.kept.wanted !== wanted) {
      const surface = this.kept?.surface ?? document.createElement("canvas");
      if (surface.width !== canvas.width) surface.width = canvas.width;
      if (surface.height !== canvas.height) surface.height = canvas.height;
      const ctx = surface.getContext("2d");
      ctx.setTransform(this.ratio || 1, 0, 0, this.ratio || 1, 0, 0);
      ctx.imageSmoothingEnabled = viewport.scale < 2;
      ctx.imageSmoothingQuality = "high";
      ctx.clearRect(0, 0, ...viewport.size);
      ctx.drawImage(picture, ...frame);
      this.kept = { picture, wanted, surface };
    }
    return this.kept.surface;
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
