// A handle in space, at the world's origin or a guest: ranging rods that shift along, up and across, graduated arcs that
// turn about them, and a knob that makes larger. Alt makes the pointer ten times finer. Its shape comes with the world.
import * as THREE from "three";
import { css } from "../layers/colour.js";
import { bandInk, dragBy, inkOf, nearestKnob, stepsOf } from "../tools/handle-drag.js";

/** Length of an arm, share of the distance that it is seen from. */
const SIZE = 0.2;
/** A knob that a drag would take no farther than so, px a step, points at the eye and is not to be dragged. */
const SHORTEST_PX = 10;
/** A way is measured over so much of a step. */
const LATER = 0.05;

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

const vector = (v) => new THREE.Vector3(...v);

export class Handle {
  /** `host` says where it is, if anywhere, and hears what is dragged. */
  constructor(view, host) {
    Object.assign(this, { view, host, drag: null, parts: [] });
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
    const at = view.world?.handle ? this.host.at() : null;
    group.visible = at !== null;
    if (!group.visible) return;
    const theme = document.documentElement.dataset.theme;
    if (theme !== this.theme || view.world.handle !== this.parts) this.make(theme, view.world.handle);
    group.position.set(...at);
    this.length = SIZE * view.camera.position.distanceTo(group.position);
    group.scale.setScalar(this.length);
  }

  make(theme, parts) {
    const { group } = this;
    Object.assign(this, { theme, parts });
    group.traverse((o) => (o.geometry?.dispose(), o.material?.dispose()));
    group.clear();
    for (const { what, axis, at, lines } of parts) {
      lines.forEach((ends, k) => {
        const material = new THREE.LineBasicMaterial({ color: css(bandInk(what, axis, k)), depthTest: false });
        group.add(new THREE.Line(new THREE.BufferGeometry().setFromPoints(ends.map(vector)), material));
      });
      const material = new THREE.PointsMaterial({ color: css(inkOf(what, axis)), size: what === "shift" ? 12 : 10, sizeAttenuation: false, depthTest: false, map: this.disc, alphaTest: 0.5 });
      group.add(new THREE.Points(new THREE.BufferGeometry().setFromPoints([vector(at)]), material));
    }
    for (const part of group.children) part.renderOrder = 10;
  }

  /** Where a place of the handle is on the screen, px of the canvas. */
  screen(place) {
    const { clientWidth, clientHeight } = this.view.canvas;
    const v = place.clone().multiplyScalar(this.length).add(this.group.position).project(this.view.camera);
    return [(v.x * 0.5 + 0.5) * clientWidth, (0.5 - v.y * 0.5) * clientHeight, v.z];
  }

  pointer(e) {
    const r = this.view.canvas.getBoundingClientRect();
    return [e.clientX - r.left, e.clientY - r.top];
  }

  /** The part whose knob is under the pointer. */
  under(pointer) {
    const seen = this.parts.map((part) => [part, this.screen(vector(part.at))]);
    return nearestKnob(seen.filter(([, [, , z]]) => z < 1), pointer);
  }

  down(e) {
    if (e.button !== 0 || !this.group.visible || this.host.at() === null) return;
    const part = this.under(this.pointer(e));
    if (!part) return;
    e.stopImmediatePropagation();
    const [from, to] = [0, LATER].map((by) => this.screen(vector(part.at).addScaledVector(vector(part.step), by)));
    const way = [0, 1].map((k) => (to[k] - from[k]) / LATER);
    if (Math.hypot(...way) < SHORTEST_PX) return;
    this.view.canvas.setPointerCapture(e.pointerId);
    this.drag = { part, way, last: this.pointer(e), steps: 0 };
    this.host.begun();
  }

  move(e) {
    const { drag } = this;
    if (!drag) return;
    e.stopImmediatePropagation();
    const at = this.pointer(e);
    drag.steps += (e.altKey ? 0.1 : 1) * stepsOf(drag.way, drag.last, at);
    drag.last = at;
    this.host.moved(dragBy(drag.part, drag.steps, this.length));
  }

  up(e) {
    if (!this.drag) return;
    e.stopImmediatePropagation();
    this.drag = null;
    this.host.done();
  }
}
