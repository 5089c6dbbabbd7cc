// The handle of the world in space, at its origin: ranging rods that shift along, up and across, graduated arcs that turn
// about them, and a knob that makes the world larger. Alt makes the pointer ten times finer.
import * as THREE from "three";
import { css } from "../layers/colour.js";

const INKS = ["--along", "--up", "--across"];
const GRAB_PX = 11;
/** Length of an arm, share of the distance that it is seen from. */
const SIZE = 0.2;
/** An arm that points at the eye, shorter than this, px, is not to be dragged along. */
const SHORTEST_PX = 10;
const STEPS = 18;
/** A rod is painted in so many bands, by turns in its own colour and in chalk. */
const BANDS = 5;
/** Ticks of an arc, every 15 degrees; how far they reach, of an arm. */
const TICKS = 6;
const TICK = 0.05;

const unit = (axis) => new THREE.Vector3(...[0, 1, 2].map((k) => (k === axis ? 1 : 0)));
/** A place on the arc about an axis, a quarter of a turn long. */
function onArc(axis, angle) {
  const [a, b] = [unit((axis + 1) % 3), unit((axis + 2) % 3)];
  return a.multiplyScalar(0.7 * Math.cos(angle)).add(b.multiplyScalar(0.7 * Math.sin(angle)));
}

/** A round knob; points are square by themselves. */
function disc() {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = 32;
  const ctx = canvas.getContext("2d");
  ctx.fillStyle = "#fff";
  ctx.arc(16, 16, 15, 0, 2 * Math.PI);
  ctx.fill();
  return new THREE.CanvasTexture(canvas);
}

/** What can be dragged, in lengths of an arm: where it is, and where it would be a little later. */
const KNOBS = [
  ...[0, 1, 2].map((axis) => ({ what: "shift", axis, at: unit(axis), step: unit(axis), ink: INKS[axis] })),
  ...[0, 1, 2].map((axis) => {
    const at = onArc(axis, Math.PI / 4);
    // The way that a turn by one radian would take it.
    return { what: "turn", axis, at, step: unit(axis).cross(at), ink: INKS[axis] };
  }),
  { what: "scale", axis: 0, at: new THREE.Vector3(0.5, 0.5, 0.5), step: new THREE.Vector3(0.5, 0.5, 0.5), ink: "--chosen" },
];

export class WorldHandle {
  /** `host` says whether it is shown, and hears what is dragged. */
  constructor(view, host) {
    Object.assign(this, { view, host, drag: null });
    this.group = new THREE.Group();
    this.disc = disc();
    view.scene.add(this.group);
    const { canvas } = view;
    // Before the orbit, which would take the pointer.
    canvas.addEventListener("pointerdown", (e) => this.down(e), { capture: true });
    canvas.addEventListener("pointermove", (e) => this.move(e), { capture: true });
    for (const end of ["pointerup", "pointercancel"]) canvas.addEventListener(end, (e) => this.up(e), { capture: true });
  }

  /** Laid out anew, before everything is drawn. */
  follow() {
    const { group, view } = this;
    group.visible = this.host.shown();
    if (!group.visible) return;
    const theme = document.documentElement.dataset.theme;
    if (theme !== this.theme) this.make(theme);
    this.length = SIZE * view.camera.position.length();
    group.scale.setScalar(this.length);
  }

  make(theme) {
    const { group } = this;
    this.theme = theme;
    group.traverse((o) => (o.geometry?.dispose(), o.material?.dispose()));
    group.clear();
    const line = (places, ink) => {
      const material = new THREE.LineBasicMaterial({ color: css(ink), depthTest: false });
      group.add(new THREE.Line(new THREE.BufferGeometry().setFromPoints(places), material));
    };
    for (const { what, axis, at, ink } of KNOBS) {
      const part = (share) => at.clone().multiplyScalar(share);
      if (what === "turn") {
        line(Array.from({ length: STEPS + 1 }, (_, k) => onArc(axis, (k / STEPS) * (Math.PI / 2))), ink);
        for (let k = 0; k <= TICKS; k++) {
          const tick = onArc(axis, (k / TICKS) * (Math.PI / 2));
          line([tick, tick.clone().multiplyScalar(1 + TICK / 0.7)], ink);
        }
      } else if (what === "shift") {
        for (let k = 0; k < BANDS; k++) line([part(k / BANDS), part((k + 1) / BANDS)], k % 2 ? "--chalk" : ink);
      } else line([part(0), at], ink);
      const material = new THREE.PointsMaterial({ color: css(ink), size: what === "shift" ? 12 : 10, sizeAttenuation: false, depthTest: false, map: this.disc, alphaTest: 0.5 });
      group.add(new THREE.Points(new THREE.BufferGeometry().setFromPoints([at]), material));
    }
    for (const part of group.children) part.renderOrder = 10;
  }

  /** Where a place of the handle is on the screen, px of the canvas. */
  screen(place) {
    const { clientWidth, clientHeight } = this.view.canvas;
    const v = place.clone().multiplyScalar(this.length).project(this.view.camera);
    return [(v.x * 0.5 + 0.5) * clientWidth, (0.5 - v.y * 0.5) * clientHeight, v.z];
  }

  pointer(e) {
    const r = this.view.canvas.getBoundingClientRect();
    return [e.clientX - r.left, e.clientY - r.top];
  }

  /** The knob under the pointer. */
  under([x, y]) {
    let best = [GRAB_PX, null];
    for (const knob of KNOBS) {
      const [u, v, z] = this.screen(knob.at);
      const d = Math.hypot(u - x, v - y);
      if (z < 1 && d < best[0]) best = [d, knob];
    }
    return best[1];
  }

  down(e) {
    if (e.button !== 0 || !this.group.visible || !this.host.shown()) return;
    const knob = this.under(this.pointer(e));
    if (!knob) return;
    e.stopImmediatePropagation();
    const [from, to] = [this.screen(knob.at), this.screen(knob.at.clone().addScaledVector(knob.step, 0.05))];
    const way = [(to[0] - from[0]) / 0.05, (to[1] - from[1]) / 0.05];
    if (Math.hypot(...way) < SHORTEST_PX) return;
    this.view.canvas.setPointerCapture(e.pointerId);
    this.drag = { knob, way, last: this.pointer(e), steps: 0 };
    this.host.begun();
  }

  move(e) {
    const { drag } = this;
    if (!drag) return;
    e.stopImmediatePropagation();
    const at = this.pointer(e);
    const [dx, dy] = [at[0] - drag.last[0], at[1] - drag.last[1]];
    drag.last = at;
    const [x, y] = drag.way;
    drag.steps += ((e.altKey ? 0.1 : 1) * (dx * x + dy * y)) / (x * x + y * y);
    const { what, axis } = drag.knob;
    const by = { shift: drag.steps * this.length, turn: (drag.steps * 180) / Math.PI, scale: Math.max(0.05, 1 + drag.steps) }[what];
    this.view.preview(this.host.moved({ what, axis, by }));
  }

  up(e) {
    if (!this.drag) return;
    e.stopImmediatePropagation();
    this.drag = null;
    this.host.done();
  }
}
