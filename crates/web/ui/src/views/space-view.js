// The solved world in space: landmarks, path, camera, grid and guests; orbit, pan, zoom.
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { css, quality } from "../layers/colour.js";
import { lying } from "./guests-view.js";

// Comes with the same library.
export { GuestsView } from "./guests-view.js";
export { Handle } from "./handle.js";

const VIEWS = { front: [0, 0.02, 1], side: [1, 0.02, 0], top: [0, 1, 0.001], free: [0.7, 0.6, 1] };

/** A colour of the theme. */
const ink = (name) => new THREE.Color(css(name));
/** On paper the lighter end of the ramp is darkened. */
const shade = () => (document.documentElement.dataset.theme === "daybook" ? 0.6 : 1);

function lines(positions, colour) {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.Float32BufferAttribute(positions, 3));
  return new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: colour }));
}

/** Most cameras of a path that are drawn, and most ellipsoids. */
const MOST_CAMERAS = 60;
const MOST_ELLIPSOIDS = 600;
const RING = 20;

/** Edges of what a camera sees, in its own space, so deep. */
function outline(world, camera, depth) {
  const [w, h] = world.size.map((side) => (side / (2 * camera.focal_px)) * depth);
  const corners = [[-w, h], [w, h], [w, -h], [-w, -h]].map(([x, y]) => [x, y, -depth]);
  return corners.flatMap((c, i) => [[0, 0, 0], c, c, corners[(i + 1) % 4]].map((v) => new THREE.Vector3(...v)));
}

/** An ellipse about a place, as short lines. */
function ring(edges, [x, y, z], a, b) {
  const at = (k) => {
    const [c, s] = [Math.cos((2 * Math.PI * k) / RING), Math.sin((2 * Math.PI * k) / RING)];
    return [x + c * a[0] + s * b[0], y + c * a[1] + s * b[1], z + c * a[2] + s * b[2]];
  };
  for (let k = 0; k < RING; k++) edges.push(...at(k), ...at(k + 1));
}

export class SpaceView {
  constructor(canvas, picked) {
    Object.assign(this, { canvas, picked, world: null, selected: new Set(), handles: [] });
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: true, alpha: true });
    this.scene = new THREE.Scene();
    this.camera = new THREE.PerspectiveCamera(45, 1, 0.01, 5000);
    this.camera.position.set(8, 6, 12);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.addEventListener("change", () => this.draw());
    // Whoever has turned it keeps what they see when the view becomes wider or narrower.
    this.controls.addEventListener("start", () => (this.looked = null));
    this.content = new THREE.Group();
    this.ground = new THREE.Group();
    this.scene.add(this.content, this.ground);
    new ResizeObserver(() => this.resize()).observe(canvas.parentElement);
    let from = null;
    canvas.addEventListener("pointerdown", (e) => (from = [e.clientX, e.clientY]));
    canvas.addEventListener("pointerup", (e) => {
      if (from && Math.hypot(e.clientX - from[0], e.clientY - from[1]) < 4) this.pick(e);
    });
  }

  /** In the colours of another theme. */
  repaint() {
    if (this.world) this.show(this.world, this.frame, this.selected);
  }

  resize() {
    const { clientWidth, clientHeight } = this.canvas.parentElement;
    if (!clientWidth || !clientHeight) return;
    this.renderer.setPixelRatio(window.devicePixelRatio || 1);
    this.renderer.setSize(clientWidth, clientHeight, false);
    this.camera.aspect = clientWidth / clientHeight;
    this.camera.updateProjectionMatrix();
    if (this.looked) this.look(this.looked);
    else this.draw();
  }

  /** Takes a new world; looks at it from outside when it is the first or another one. */
  show(world, frame, selected) {
    // Another gauge moves everything: look again from outside.
    const gauge = JSON.stringify(world.cameras[0]?.matrix ?? null);
    const moved = world.points.length && gauge !== this.gauge;
    this.gauge = gauge;
    this.world = world;
    this.selected = selected;
    for (const part of [this.content, this.ground]) {
      part.traverse((o) => (o.geometry?.dispose(), o.material?.dispose()));
      part.clear();
    }
    this.content.matrixAutoUpdate = true;
    this.content.matrix.identity().decompose(this.content.position, this.content.quaternion, this.content.scale);
    this.addGround(world);
    this.addPoints(world);
    this.frustum = new THREE.Group();
    this.content.add(this.frustum);
    this.addPath(world);
    this.addCameras(world);
    this.addEllipsoids();
    this.lay(this.besidePath);
    this.at(frame);
    // Whoever moves it by hand looks from where they are.
    if (moved && this.stays) this.looked = null;
    else if (moved) this.look("free");
    if (moved) this.stays = false;
    this.draw();
  }

  addGround(world) {
    if (!world.levelled) return;
    const grid = new THREE.GridHelper(world.grid_m * 24, 24, ink("--faint"), ink("--line"));
    grid.position.y = world.ground ?? 0;
    this.ground.add(grid);
    // The directions of the scene: along, up, across.
    const axes = [[1, 0, 0, ink("--along")], [0, 1, 0, ink("--up")], [0, 0, 1, ink("--across")]];
    for (const [x, y, z, colour] of axes) this.ground.add(lines([0, 0, 0, x, y, z], colour));
  }

  addPoints(world) {
    const positions = [];
    const colours = [];
    for (const [id, x, y, z, rms] of world.points) {
      positions.push(x, y, z);
      const own = this.selected.has(id) ? ink("--chosen").toArray() : quality(rms).map((v) => (v / 255) * shade());
      colours.push(...own);
    }
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.Float32BufferAttribute(positions, 3));
    geometry.setAttribute("color", new THREE.Float32BufferAttribute(colours, 3));
    this.content.add(new THREE.Points(geometry, new THREE.PointsMaterial({ size: 3, sizeAttenuation: false, vertexColors: true })));
    const chosen = world.points.filter(([id]) => this.selected.has(id)).flatMap(([, x, y, z]) => [x, y, z]);
    if (chosen.length) {
      const marks = new THREE.BufferGeometry();
      marks.setAttribute("position", new THREE.Float32BufferAttribute(chosen, 3));
      this.content.add(new THREE.Points(marks, new THREE.PointsMaterial({ size: 8, sizeAttenuation: false, color: ink("--chosen") })));
    }
  }

  addPath(world) {
    const path = world.cameras.map((c) => new THREE.Vector3(c.matrix[12], c.matrix[13], c.matrix[14]));
    if (path.length < 2) return;
    this.content.add(new THREE.Line(new THREE.BufferGeometry().setFromPoints(path), new THREE.LineBasicMaterial({ color: ink("--chalk") })));
  }

  /** Cameras along the path, small: where they stood and looked. */
  addCameras(world) {
    const stride = Math.ceil(world.cameras.length / MOST_CAMERAS);
    const side = 0.12 * this.spread(world);
    const edges = [];
    for (const camera of world.cameras.filter((_, i) => i % stride === 0)) {
      const m = new THREE.Matrix4().fromArray(camera.matrix);
      for (const v of outline(world, camera, side)) edges.push(...v.applyMatrix4(m).toArray());
    }
    if (edges.length) this.content.add(lines(edges, ink("--faint")));
  }

  /** How far things lie apart that small things are drawn by: a tenth of the nearer landmarks' reach. */
  spread(world) {
    const centre = world.cameras[0]?.matrix.slice(12, 15) ?? [0, 0, 0];
    const far = world.points.map(([, x, y, z]) => Math.hypot(x - centre[0], y - centre[1], z - centre[2])).sort((a, b) => a - b);
    return (far[far.length >> 1] ?? 6) / 10;
  }

  /** Another attempt's path, dashed. */
  lay(path) {
    this.besidePath = path;
    if (this.laid) this.content.remove(this.laid);
    this.laid = null;
    if (path?.length > 1) {
      const geometry = new THREE.BufferGeometry().setFromPoints(path.map((p) => new THREE.Vector3(...p)));
      const unit = this.world ? this.spread(this.world) : 1;
      this.laid = new THREE.Line(geometry, new THREE.LineDashedMaterial({ color: ink("--chosen"), dashSize: 0.2 * unit, gapSize: 0.15 * unit }));
      this.laid.computeLineDistances();
      this.content.add(this.laid);
    }
    this.draw();
  }

  /** How uncertain places are, of what is selected or else of all; `null` hides it. Says how much they are enlarged. */
  uncertain(list) {
    this.ellipsoids = list;
    if (this.world) this.show(this.world, this.frame, this.selected);
    return this.enlarged;
  }

  addEllipsoids() {
    if (!this.ellipsoids) return;
    const chosen = this.ellipsoids.filter(([id]) => !this.selected.size || this.selected.has(id)).slice(0, MOST_ELLIPSOIDS);
    // Enlarged by a round number, so that the usual one can be seen.
    const longest = chosen.map(([, n]) => Math.max(...[3, 6, 9].map((k) => Math.hypot(n[k], n[k + 1], n[k + 2])))).sort((a, b) => a - b);
    const usual = longest[longest.length >> 1] || 1;
    const wanted = (0.5 * this.spread(this.world)) / usual;
    const ten = 10 ** Math.floor(Math.log10(wanted));
    this.enlarged = Math.max(1, ...[1, 2, 5].map((k) => k * ten).filter((by) => by <= wanted));
    const edges = [];
    for (const [, n] of chosen) {
      const axis = (k) => [n[k] * this.enlarged, n[k + 1] * this.enlarged, n[k + 2] * this.enlarged];
      for (const [a, b] of [[3, 6], [6, 9], [9, 3]]) ring(edges, n, axis(a), axis(b));
    }
    if (edges.length) this.content.add(lines(edges, ink("--across")));
  }

  /** What the world holds as it would lie after a change: turned by a vector in degrees, grown, then shifted. */
  preview({ turn_deg, shift_m, scale }) {
    const angle = Math.hypot(...turn_deg);
    const axis = angle ? turn_deg.map((v) => v / angle) : [0, 1, 0];
    this.content.quaternion.setFromAxisAngle(new THREE.Vector3(...axis), (angle * Math.PI) / 180);
    this.content.position.set(...shift_m);
    this.content.scale.setScalar(scale);
    this.draw();
  }

  /** Guests as boxes; the chosen one stands out, and is where it is `held` while it is dragged. */
  host(guests, chosen, held = null) {
    Object.assign(this, { guests, chosenGuest: chosen });
    this.boxes ??= new THREE.Group();
    this.boxes.traverse((o) => (o.geometry?.dispose(), o.material?.dispose()));
    this.boxes.clear();
    for (const { id, matrix, frames, low, high, hidden } of guests) {
      const given = frames.find(([f]) => f === this.frame)?.[1] ?? matrix;
      if (!given || hidden) continue;
      const there = held?.id === id ? lying(held) : new THREE.Matrix4().set(...given);
      const box = new THREE.BoxGeometry(...[0, 1, 2].map((k) => Math.max(1e-4, high[k] - low[k])));
      box.translate(...[0, 1, 2].map((k) => (high[k] + low[k]) / 2)).applyMatrix4(there);
      this.boxes.add(new THREE.LineSegments(new THREE.EdgesGeometry(box), new THREE.LineBasicMaterial({ color: ink(id === chosen ? "--chosen" : "--chalk") })));
    }
    this.scene.add(this.boxes);
    this.draw();
  }

  /** Moves the camera's outline to a frame. */
  at(frame) {
    this.frame = frame;
    if (this.guests?.some((g) => g.frames.length)) this.host(this.guests, this.chosenGuest);
    if (!this.frustum) return;
    this.frustum.clear();
    const camera = this.world?.cameras.find((c) => c.frame === frame);
    if (!camera) return;
    const shape = lines(outline(this.world, camera, 0.6 * this.spread(this.world)).flatMap((v) => v.toArray()), ink("--active"));
    shape.applyMatrix4(new THREE.Matrix4().fromArray(camera.matrix));
    this.frustum.add(shape);
    this.draw();
  }

  /** Orbits about what is selected. */
  about() {
    const chosen = (this.world?.points ?? []).filter(([id]) => this.selected.has(id));
    if (!chosen.length) return;
    this.looked = null;
    const mean = [1, 2, 3].map((k) => chosen.reduce((sum, p) => sum + p[k], 0) / chosen.length);
    this.controls.target.set(...mean);
    this.controls.update();
    this.draw();
  }

  /** From outside, all of it: from the front, a side, the top or obliquely. */
  look(name) {
    this.looked = name;
    const points = this.world?.points ?? [];
    const places = points.map(([, x, y, z]) => new THREE.Vector3(x, y, z));
    for (const c of this.world?.cameras ?? []) places.push(new THREE.Vector3(c.matrix[12], c.matrix[13], c.matrix[14]));
    if (!places.length) return;
    // Far points would push everything else to the middle: the nearer nine tenths decide, and the whole path.
    const middle = new THREE.Vector3(...["x", "y", "z"].map((k) => places.map((p) => p[k]).sort((a, b) => a - b)[places.length >> 1]));
    const near = places.slice(0, points.length).sort((a, b) => a.distanceTo(middle) - b.distanceTo(middle));
    const shown = [...near.slice(0, Math.ceil(near.length * 0.9)), ...places.slice(points.length)];
    const { center: centre, radius } = new THREE.Box3().setFromPoints(shown).getBoundingSphere(new THREE.Sphere());
    const reach = radius || 1;
    this.fit(shown, centre, new THREE.Vector3(...VIEWS[name]).normalize());
    this.camera.near = reach / 200;
    this.camera.far = reach * 400;
    this.camera.updateProjectionMatrix();
    this.controls.update();
    this.draw();
  }

  /** Looks from a direction at the middle of what is shown, from no farther than all of it needs. */
  fit(shown, centre, from) {
    const { camera } = this;
    camera.position.copy(centre).add(from);
    camera.lookAt(centre);
    camera.updateMatrixWorld();
    const [right, up, back] = [0, 1, 2].map((k) => new THREE.Vector3().setFromMatrixColumn(camera.matrixWorld, k));
    const along = (axis) => shown.map((p) => p.clone().sub(centre).dot(axis));
    const [across, high, nearer] = [right, up, back].map(along);
    const most = (list) => list.reduce((a, b) => Math.max(a, b), -Infinity);
    const [x, y] = [across, high].map((list) => (most(list) - most(list.map((v) => -v))) / 2);
    const half = Math.tan((camera.fov * Math.PI) / 360);
    const away = most(shown.map((_, k) => nearer[k] + Math.max(Math.abs(across[k] - x) / camera.aspect, Math.abs(high[k] - y)) / half));
    centre.addScaledVector(right, x).addScaledVector(up, y);
    this.controls.target.copy(centre);
    camera.position.copy(centre).addScaledVector(back, 1.08 * away || 1);
  }

  pick(e) {
    const r = this.canvas.getBoundingClientRect();
    let best = [10, null];
    const v = new THREE.Vector3();
    for (const [id, x, y, z] of this.world?.points ?? []) {
      v.set(x, y, z).project(this.camera);
      if (v.z > 1) continue;
      const d = Math.hypot((v.x * 0.5 + 0.5) * r.width - (e.clientX - r.left), (0.5 - v.y * 0.5) * r.height - (e.clientY - r.top));
      if (d < best[0]) best = [d, id];
    }
    this.picked(best[1] === null ? [] : [best[1]], e.shiftKey);
  }

  draw() {
    // What is not in sight is drawn when it comes into sight.
    if (!this.canvas.offsetParent) return;
    for (const handle of this.handles) handle.follow();
    this.renderer.render(this.scene, this.camera);
  }
}
