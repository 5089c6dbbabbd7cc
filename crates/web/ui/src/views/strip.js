// The time strip: frames, cached range, keys, lifelines or curves of the camera, playhead.
import { css } from "../layers/colour.js";
import { behind, drawCurves, jumps } from "./curves.js";
import { Lifelines } from "../layers/tracks.js";

const LEFT = 64;
const RIGHT = 14;
/** The ruler with the handles of in and out, px from the top. */
const RULER = 18;
const HANDLE_PX = 8;
/** Where lifelines begin, px from the top. */
const LIVES = 24;

export class Strip {
  /** `host` hears of the playhead (`seek`) and of in and out (`setRange`). */
  constructor(canvas, data, host) {
    Object.assign(this, { canvas, data, host, held: null, lives: new Lifelines() });
    this.ctx = canvas.getContext("2d");
    new ResizeObserver(() => this.draw()).observe(canvas.parentElement);
    const frameAt = (e) => {
      const r = canvas.getBoundingClientRect();
      const { first, last } = this.data();
      const share = (e.clientX - r.left - LEFT) / (r.width - LEFT - RIGHT);
      return Math.round(first + Math.min(1, Math.max(0, share)) * (last - first));
    };
    const to = (e) => {
      if (!this.held) return this.host.seek(frameAt(e));
      const d = this.data();
      this.held.frame = this.held.end === "in" ? Math.min(frameAt(e), d.to) : Math.max(frameAt(e), d.from);
      this.draw();
    };
    canvas.addEventListener("pointerdown", (e) => {
      // With shift a lifeline is picked, as everywhere.
      const id = e.shiftKey ? this.lifelineAt(e) : null;
      if (id !== null) return this.host.pick([id], true);
      canvas.setPointerCapture(e.pointerId);
      this.held = this.handleAt(e);
      to(e);
    });
    canvas.addEventListener("pointermove", (e) => {
      if (e.buttons & 1 && !e.shiftKey) to(e);
      // Whose lifeline is under the pointer is said beside it.
      else if (!e.buttons) canvas.title = this.titleAt(e);
    });
    canvas.addEventListener("pointerup", () => {
      const { held } = this;
      this.held = null;
      const d = this.data();
      if (held?.end === "in" && held.frame !== d.from) this.host.setRange(held.frame, d.to);
      if (held?.end === "out" && held.frame !== d.to) this.host.setRange(d.from, held.frame);
    });
  }

  x(frame, d) {
    const width = this.canvas.parentElement.clientWidth;
    return LEFT + ((frame - d.first) / Math.max(1, d.last - d.first)) * (width - LEFT - RIGHT);
  }

  /** The handle of in or out under the pointer: they stand in the ruler only. */
  handleAt(e) {
    const r = this.canvas.getBoundingClientRect();
    const d = this.data();
    if (e.clientY - r.top > RULER) return null;
    const [near] = [["in", d.from], ["out", d.to]]
      .map(([end, frame]) => ({ end, frame, off: Math.abs(e.clientX - r.left - this.x(frame, d)) }))
      .sort((a, b) => a.off - b.off);
    return near.off < HANDLE_PX ? near : null;
  }

  handles(d, x, width, height) {
    const { ctx } = this;
    const from = this.held?.end === "in" ? this.held.frame : d.from;
    const to = this.held?.end === "out" ? this.held.frame : d.to;
    ctx.fillStyle = css("--panel");
    ctx.globalAlpha = 0.72;
    if (from > d.first) ctx.fillRect(0, 0, x(from) - 1, height);
    if (to < d.last) ctx.fillRect(x(to) + 1, 0, width, height);
    ctx.globalAlpha = 1;
    ctx.fillStyle = css("--active");
    for (const [frame, side] of [[from, 1], [to, -1]]) {
      const at = Math.round(x(frame));
      ctx.fillRect(at - 0.75, 0, 1.5, RULER);
      ctx.beginPath();
      ctx.moveTo(at, 0);
      ctx.lineTo(at + 6 * side, 0);
      ctx.lineTo(at, 8);
      ctx.fill();
    }
  }

  draw() {
    const { clientWidth: width, clientHeight: height } = this.canvas.parentElement;
    const ratio = window.devicePixelRatio || 1;
    this.canvas.width = Math.max(1, width * ratio);
    this.canvas.height = Math.max(1, height * ratio);
    const { ctx } = this;
    ctx.setTransform(ratio, 0, 0, ratio, 0, 0);
    const d = this.data();
    const x = (frame) => this.x(frame, d);
    this.ruler(d, x, width, height);
    if (d.chart === "px" && d.cameras.length) this.camera(d, x, height);
    else if (d.tracks.length) this.lifelines(d, x, width, height);
    this.handles(d, x, width, height);
    ctx.fillStyle = css("--chosen");
    ctx.fillRect(Math.round(x(d.frame)) - 0.75, 0, 1.5, height);
  }

  ruler(d, x, width, height) {
    const { ctx } = this;
    const step = [1, 2, 5, 10, 20, 50, 100, 200, 500].find((s) => x(d.first + s) - x(d.first) > 56) ?? 1000;
    ctx.font = '11px "Plex Mono", monospace';
    for (let f = Math.ceil(d.first / step) * step; f <= d.last; f += step) {
      ctx.fillStyle = css("--line");
      ctx.fillRect(Math.round(x(f)), 16, 1, height - 16);
      ctx.fillStyle = css("--faint");
      // The last ones end at the border.
      const label = String(f);
      ctx.fillText(label, Math.min(x(f) - 2, width - ctx.measureText(label).width - 1), 11);
    }
    ctx.fillStyle = css("--active");
    const wide = Math.max(1.5, x(d.first + 1) - x(d.first));
    for (let f = d.first; f <= d.last; f++) if (d.cached(f)) ctx.fillRect(x(f) - wide / 2, 15, wide, 2.5);
  }

  /** The curve that was chosen, else px per frame. */
  camera(d, x, height) {
    if (!drawCurves(this.ctx, d, x, height)) this.errors(d, x, height);
  }

  errors(d, x, height) {
    const { ctx } = this;
    const other = d.beside?.residual_px.values ?? [];
    const top = Math.max(0.25, ...d.cameras.map((c) => c.rms), ...other) * 1.15;
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
    if (other.length) behind(ctx, d.beside.frames.map(x), other, y, css("--chalk"));
    if (d.curves?.frames.length) jumps(ctx, d.curves.frames.map(x), d.curves.residual_px, y);
  }

  lifelines(d, x, width, height) {
    const { ctx } = this;
    ctx.fillStyle = css("--dim");
    ctx.font = '11px "Atkinson", sans-serif';
    ctx.fillText("lifelines", 8, 34);
    ctx.font = '11px "Plex Mono", monospace';
    ctx.fillText(String(d.tracks.length), 8, 48);
    const ratio = window.devicePixelRatio || 1;
    ctx.drawImage(this.lives.picture(d, x, width, height - LIVES, ratio), 0, LIVES, width, height - LIVES);
    this.lives.chosen(ctx, d, x, LIVES);
    this.groups(d);
    // Keys of hand tracks that are chosen.
    ctx.fillStyle = css("--chalk");
    for (const frame of d.keys) {
      const at = x(frame);
      ctx.beginPath();
      ctx.moveTo(at, LIVES - 7);
      ctx.lineTo(at + 4, LIVES - 3);
      ctx.lineTo(at, LIVES + 1);
      ctx.lineTo(at - 4, LIVES - 3);
      ctx.fill();
    }
  }

  /** Groups lie together: each has a stripe of its tint before its lifelines. */
  groups(d) {
    const { ctx, lives } = this;
    d.tracks.forEach((t, i) => {
      const tint = d.tints.get(t.note?.group);
      if (!tint) return;
      ctx.fillStyle = tint;
      ctx.fillRect(LEFT - 6, LIVES + Math.floor(i * lives.row), 3, Math.max(1, Math.ceil(lives.row)));
    });
  }

  /** What the lifeline under the pointer is called. */
  titleAt(e) {
    const id = this.lifelineAt(e);
    const track = id === null ? null : this.data().tracks.find((t) => t.id === id);
    if (!track) return "";
    const name = track.name || `t${String(id).padStart(4, "0")}`;
    return track.note?.group ? `${name}, ${track.note.group}` : name;
  }

  /** The track whose lifeline is under the pointer. */
  lifelineAt(e) {
    const d = this.data();
    const r = this.canvas.getBoundingClientRect();
    const row = Math.floor((e.clientY - r.top - LIVES) / (this.lives.row || 1));
    return d.chart === "lifelines" && e.clientY - r.top > LIVES ? d.tracks[row]?.id ?? null : null;
  }
}
