// What is drawn and what can be grabbed on a photograph, by station; and the keys.
import { css } from "./colour.js";
import { grid } from "./layers.js";
import * as layers from "./photo-layers.js";

const STATIONS = ["plate", "rails", "orient", "proof", "deliver"];
const PICK_PX = 7;

function besideSegment(p, a, b) {
  const d = [b[0] - a[0], b[1] - a[1]];
  const t = Math.min(1, Math.max(0, ((p[0] - a[0]) * d[0] + (p[1] - a[1]) * d[1]) / (d[0] ** 2 + d[1] ** 2 || 1)));
  return Math.hypot(p[0] - a[0] - t * d[0], p[1] - a[1] - t * d[1]);
}

export const photoScene = {
  redraw() {
    this.view?.draw();
  },
  fit() {
    this.view.viewport.fit();
    this.redraw();
  },
  oneToOne() {
    this.view.viewport.oneToOne();
    this.redraw();
  },

  paint(view) {
    const { ctx, viewport } = view;
    const { photo, answer, offers } = this.now;
    ctx.fillStyle = `rgba(0,0,0,${Number(this.dim) / 100})`;
    ctx.fillRect(...view.frame());
    const at = this.station;
    const placed = answer?.placed;
    if (at === "rails") {
      layers.horizon(ctx, viewport, answer?.horizon);
      layers.offers(ctx, viewport, offers);
      layers.rails(ctx, viewport, { list: photo.rails, chosen: { index: this.chosen, end: this.chosenEnd }, vanishing: answer?.vanishing, miss: answer?.miss_px, worst: answer?.worst, withEnds: true });
    }
    if (placed && at !== "plate" && at !== "rails") {
      view.inside(() => grid(ctx, viewport, placed.grid));
      layers.horizon(ctx, viewport, answer.horizon);
      layers.axes(ctx, viewport, placed);
      if (at === "orient" && photo.known) layers.length(ctx, viewport, photo.known, css("--chosen"), `${photo.known.metres} m`);
      if (at !== "orient" && placed.box?.lines) layers.standing(ctx, viewport, placed.box);
      if (at === "proof" && photo.measure) layers.length(ctx, viewport, photo.measure, css("--active"), placed.measured?.error ? "–" : `${(placed.measured?.length ?? 0).toFixed(3)} ${placed.scaled ? "m" : "units"}`);
    }
  },

  /** Points that can be dragged, nearest wins. */
  grips() {
    const { photo, answer } = this.now;
    const placed = answer?.placed;
    const ends = (what, length) => (length ? [{ what, end: "from", px: length.from }, { what, end: "to", px: length.to }] : []);
    switch (this.station) {
      case "rails":
        return photo.rails.flatMap((r, index) => [{ what: "rail", index, end: "a", px: r.a }, { what: "rail", index, end: "b", px: r.b }]);
      case "orient":
        return [...ends("known", photo.known), ...(placed ? [{ what: "origin", px: photo.origin ?? placed.origin }] : [])];
      case "proof": {
        const corner = photo.corner_box && placed ? [{ what: "corner", px: photo.corner_box.at ?? placed.origin }] : [];
        return [...ends("measure", photo.measure), ...(placed?.box?.handles ?? []).map((h) => ({ what: "pull", axis: h.axis, px: h.px })), ...corner];
      }
      default:
        return [];
    }
  },

  /** What the view tells of pointers. */
  host() {
    const lengthOf = (key, from, to) => {
      const axis = key === "known" ? this.lengthAxis : this.measureAxis;
      return { axis: axis === "ground" ? null : axis, from, to, metres: key === "known" ? Number.parseFloat(this.metres) || 1 : 1 };
    };
    const layingKey = () => ({ orient: "known", proof: "measure" })[this.station];
    const keep = {
      rail: () => this.change("move a rail", { rails: this.now.photo.rails }),
      known: () => this.change("state a length", { known: this.now.photo.known }),
      measure: () => this.change("measure", { measure: this.now.photo.measure }),
      origin: () => this.change("set the origin", { origin: this.now.photo.origin }),
      corner: () => this.change("move the box", { corner_box: this.now.photo.corner_box }),
      pull: () => this.change("pull the box", { corner_box: { ...this.now.photo.corner_box, size: this.now.answer?.placed?.box?.size ?? this.now.photo.corner_box.size } }),
    };
    return {
      paint: (view) => this.paint(view),
      grips: () => this.grips(),
      loupe: (shown) => (this.loupeShown = shown),
      grabbed: (grip) => {
        if (grip.what === "rail") this.choose(grip.index, grip.end);
      },
      dragged: (grip, px) => {
        const { photo } = this.now;
        if (grip.what === "rail") photo.rails[grip.index][grip.end] = px;
        else if (grip.what === "origin") photo.origin = px;
        else if (grip.what === "corner") photo.corner_box.at = px;
        else if (grip.what !== "pull") photo[grip.what][grip.end] = px;
        this.ask(grip.what === "pull" ? { axis: grip.axis, to: px } : null);
      },
      dropped: async (grip) => {
        while (this.now.asking) await new Promise((done) => setTimeout(done, 5));
        await keep[grip.what]();
      },
      laying: (from, to) => {
        const { photo } = this.now;
        if (this.station === "rails") {
          const kept = this.s.state.photo.rails.length;
          photo.rails[kept] = { axis: this.axis, a: from, b: to };
          this.choose(kept, "b");
        } else if (layingKey()) photo[layingKey()] = lengthOf(layingKey(), from, to);
        else return;
        this.ask();
      },
      laid: () => {
        if (this.station === "rails") return this.change(`lay a rail along ${this.axis.toUpperCase()}`, { rails: this.now.photo.rails });
        if (layingKey()) return keep[layingKey()]();
      },
      abandoned: () => this.follow(this.s),
      clicked: (px) => this.clicked(px),
    };
  },

  choose(index, end) {
    if (this.chosen !== index) this.settledText = "";
    this.chosen = index;
    this.chosenEnd = end;
  },

  clicked(px) {
    if (this.station !== "rails") return;
    const near = PICK_PX / this.view.viewport.scale;
    const taken = this.now.offers.find((r) => besideSegment(px, r.a, r.b) < near);
    if (taken) {
      this.offer(this.now.offers.filter((r) => r !== taken));
      this.change("take a rail", { rails: [...this.s.state.photo.rails, taken] });
      return;
    }
    this.choose(this.now.photo.rails.findIndex((r) => besideSegment(px, r.a, r.b) < near), "");
    this.redraw();
  },

  nudge(event) {
    const rail = this.now.photo.rails[this.chosen];
    if (this.station !== "rails" || !rail) return false;
    const step = event.shiftKey ? 1 : 0.1;
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[event.key];
    const moved = (p) => [p[0] + by[0], p[1] + by[1]];
    for (const end of this.chosenEnd ? [this.chosenEnd] : ["a", "b"]) rail[end] = moved(rail[end]);
    // Kept when the key is let go: a held key is one step of undo.
    this.nudged = true;
    this.ask();
    return true;
  },

  keepNudge() {
    if (!this.nudged) return;
    this.nudged = false;
    return this.change("nudge a rail", { rails: this.now.photo.rails });
  },

  key(event) {
    if (event.target.matches("input, select, textarea")) return;
    const command = event.ctrlKey || event.metaKey;
    const keys = {
      Delete: () => this.chosen >= 0 && this.removeChosen(),
      "?": () => (this.help = !this.help),
      Escape: () => ((this.help = false), (this.error = ""), this.offer([]), this.choose(-1, ""), this.redraw()),
      0: () => this.fit(),
      9: () => this.oneToOne(),
      s: () => this.settle(),
      X: () => this.moveChosen("x"),
      Y: () => this.moveChosen("y"),
      Z: () => this.moveChosen("z"),
      x: () => this.chooseAxis("x"),
      y: () => this.chooseAxis("y"),
      z: () => this.chooseAxis("z"),
    };
    for (const arrow of ["ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown"]) keys[arrow] = () => this.nudge(event);
    STATIONS.forEach((name, i) => (keys[String(i + 1)] = () => this.go(name)));
    const action = command ? { z: () => (event.shiftKey ? this.redo() : this.undo()), y: () => this.redo() }[event.key.toLowerCase()] : keys[event.key];
    if (!action) return;
    event.preventDefault();
    action();
  },
};
