// The time strip: frames, cached range, lifelines or px per frame, playhead.
import { css, tint } from "./colour.js";

const LEFT = 64;
const RIGHT = 14;

export class Strip {
  constructor(canvas, data, seek) {
    Object.assign(this, { canvas, data, seek });
    this.ctx = canvas.getContext("2d");
    new ResizeObserver(() => this.draw()).observe(canvas.parentElement);
    const to = (e) => {
      const r = canvas.getBoundingClientRect();
      const { first, last } = this.data();
      const share = (e.clientX - r.left - LEFT) / (r.width - LEFT - RIGHT);
      this.seek(Math.round(first + Math.min(1, Math.max(0, share)) * (last - first)));
    };
    canvas.addEventListener("pointerdown", (e) => (canvas.setPointerCapture(e.pointerId), to(e)));
    canvas.addEventListener("pointermove", (e) => e.buttons & 1 && to(e));
  }

  draw() {
    const { clientWidth: width, clientHeight: height } = this.canvas.parentElement;
    const ratio = window.devicePixelRatio || 1;
    this.canvas.width = Math.max(1, width * ratio);
    this.canvas.height = Math.max(1, height * ratio);
    const { ctx } = this;
    ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
    const d = this.data();
    const x = (frame) => LEFT + ((frame - d.first) / Math.max(1, d.last - d.first)) * (width - LEFT - RIGHT);
    this.ruler(d, x, height);
    if (d.chart === "px" && d.cameras.length) this.errors(d, x, height);
    else if (d.tracks.length) this.lifelines(d, x, height);
    ctx.fillStyle = css("--chosen");
    ctx.fillRect(Math.round(x(d.frame)) - 0.75, 0, 1.5, height);
  }

  ruler(d, x, height) {
    const { ctx } = this;
    const step = [1, 2, 5, 10, 20, 50, 100, 200, 500].find((s) => x(d.first + s) - x(d.first) > 56) ?? 1000;
    ctx.font = '11px "Plex Mono", monospace';
    for (let f = Math.ceil(d.first / step) * step; f <= d.last; f += step) {
      ctx.fillStyle = css("--line");
      ctx.fillRect(Math.round(x(f)), 16, 1, height - 16);
      ctx.fillStyle = css("--faint");
      ctx.fillText(String(f), x(f) - 2, 11);
    }
    ctx.fillStyle = css("--active");
    const wide = Math.max(1.5, x(d.first + 1) - x(d.first));
    for (let f = d.first; f <= d.last; f++) if (d.cached(f)) ctx.fillRect(x(f) - wide / 2, 15, wide, 2.5);
  }

  errors(d, x, height) {
    const { ctx } = this;
    const top = Math.max(0.25, ...d.cameras.map((c) => c.rms)) * 1.15;
    const y = (px) => height - 6 - (px / top) * (height - 34);
    ctx.fillStyle = css("--dim");
    ctx.font = '11px "Atkinson", sans-serif';
    ctx.fillText("px per", 8, 34);
    ctx.fillText("frame", 8, 47);
    ctx.font = '11px "Plex Mono", monospace';
    ctx.fillText(top.toFixed(2), 8, 64);
    ctx.beginPath();
    d.cameras.forEach((c, i) => (i ? ctx.lineTo(x(c.frame), y(c.rms)) : ctx.moveTo(x(c.frame), y(c.rms))));
    ctx.strokeStyle = css("--active");
    ctx.lineWidth = 1.5;
    ctx.stroke();
  }

  lifelines(d, x, height) {
    const { ctx } = this;
    const shown = d.tracks.filter((t) => !t.aside || d.selected.has(t.id));
    const row = (height - 24) / Math.max(1, shown.length);
    ctx.fillStyle = css("--dim");
    ctx.font = '11px "Atkinson", sans-serif';
    ctx.fillText("lifelines", 8, 34);
    shown.forEach((t, i) => {
      ctx.fillStyle = d.selected.has(t.id) ? css("--chosen") : tint(t.rms);
      const [a, b] = [x(t.frames[0]), x(t.frames[t.frames.length - 1])];
      const tall = d.selected.has(t.id) ? Math.max(2.5, row) : Math.max(0.4, row * 0.8);
      ctx.fillRect(a, 22 + i * row, Math.max(1, b - a), tall);
    });
  }
}
