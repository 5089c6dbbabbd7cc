// The solved world in space: landmarks, path, camera, grid and stand-ins; orbit, pan, zoom.
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { quality } from "./colour.js";

const VIEWS = { front: [0, 0.02, 1], side: [1, 0.02, 0], top: [0, 1, 0.001], free: [0.7, 0.6, 1] };

function lines(positions, colour) {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.Float32BufferAttribute(positions, 3));
  return new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: colour }));
}

export class SpaceView {
  constructor(canvas, picked) {
    Object.assign(this, { canvas, picked, world: null, selected: new Set() });
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: true, alpha: true });
    this.scene = new THREE.Scene();
    this.camera = new THREE.PerspectiveCamera(45, 1, 0.01, 5000);
    this.camera.position.set(8, 6, 12);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.addEventListener("change", () => this.draw());
    this.content = new THREE.Group();
    this.scene.add(this.content);
    new ResizeObserver(() => this.resize()).observe(canvas.parentElement);
    let from = null;
    canvas.addEventListener("pointerdown", (e) => (from = [e.clientX, e.clientY]));
    canvas.addEventListener("pointerup", (e) => {
      if (from && Math.hypot(e.clientX - from[0], e.clientY - from[1]) < 4) this.pick(e);
    });
  }

  resize() {
    const { clientWidth, clientHeight } = this.canvas.parentElement;
    if (!clientWidth || !clientHeight) return;
    this.renderer.setPixelRatio(window.devicePixelRatio || 1);
    this.renderer.setSize(clientWidth, clientHeight, false);
    this.camera.aspect = clientWidth / clientHeight;
    this.camera.updateProjectionMatrix();
    this.draw();
  }

  /** Takes a new world; looks at it from outside when it is the first or another one. */
  show(world, frame, selected) {
    // Another gauge moves everything: look again from outside.
    const gauge = JSON.stringify(world.cameras[0]?.matrix ?? null);
    const moved = world.points.length && gauge !== this.gauge;
    this.gauge = gauge;
    this.world = world;
    this.selected = selected;
    this.content.traverse((o) => (o.geometry?.dispose(), o.material?.dispose()));
    this.content.clear();
    this.addGround(world);
    this.addPoints(world);
    if (world.stand_ins?.length) this.content.add(lines(world.stand_ins.flat(), 0xdfab4c));
    this.frustum = new THREE.Group();
    this.content.add(this.frustum);
    this.addPath(world);
    this.at(frame);
    if (moved) this.look("free");
    this.draw();
  }

  addGround(world) {
    if (!world.levelled) return;
    const grid = new THREE.GridHelper(world.grid_m * 24, 24, 0x6c6d6d, 0x484949);
    this.content.add(grid);
    const axes = [[1, 0, 0, 0xe58263], [0, 1, 0, 0x93bd62], [0, 0, 1, 0x6da2dc]];
    for (const [x, y, z, colour] of axes) this.content.add(lines([0, 0, 0, x, y, z], colour));
  }

  addPoints(world) {
    const positions = [];
    const colours = [];
    for (const [id, x, y, z, rms] of world.points) {
      positions.push(x, y, z);
      const c = this.selected.has(id) ? [223, 171, 76] : quality(rms);
      colours.push(...c.map((v) => v / 255));
    }
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.Float32BufferAttribute(positions, 3));
    geometry.setAttribute("color", new THREE.Float32BufferAttribute(colours, 3));
    this.content.add(new THREE.Points(geometry, new THREE.PointsMaterial({ size: 3, sizeAttenuation: false, vertexColors: true })));
    const chosen = world.points.filter(([id]) => this.selected.has(id)).flatMap(([, x, y, z]) => [x, y, z]);
    if (chosen.length) {
      const marks = new THREE.BufferGeometry();
      marks.setAttribute("position", new THREE.Float32BufferAttribute(chosen, 3));
      this.content.add(new THREE.Points(marks, new THREE.PointsMaterial({ size: 8, sizeAttenuation: false, color: 0xdfab4c })));
    }
  }

  addPath(world) {
    const path = world.cameras.map((c) => new THREE.Vector3(c.matrix[12], c.matrix[13], c.matrix[14]));
    if (path.length < 2) return;
    this.content.add(new THREE.Line(new THREE.BufferGeometry().setFromPoints(path), new THREE.LineBasicMaterial({ color: 0xece8de })));
  }

  /** Moves the camera's outline to a frame. */
  at(frame) {
    if (!this.frustum) return;
    this.frustum.clear();
    const camera = this.world?.cameras.find((c) => c.frame === frame);
    if (!camera) return;
    const [w, h] = this.world.size.map((side) => side / (2 * camera.focal_px));
    const d = 0.6;
    const corners = [[-w, h], [w, h], [w, -h], [-w, -h]].map(([x, y]) => [x * d, y * d, -d]);
    const edges = corners.flatMap((c, i) => [0, 0, 0, ...c, ...c, ...corners[(i + 1) % 4]]);
    const outline = lines(edges, 0x5fb8a5);
    outline.applyMatrix4(new THREE.Matrix4().fromArray(camera.matrix));
    this.frustum.add(outline);
    this.draw();
  }

  look(name) {
    const points = this.world?.points ?? [];
    const places = points.map(([, x, y, z]) => new THREE.Vector3(x, y, z));
    for (const c of this.world?.cameras ?? []) places.push(new THREE.Vector3(c.matrix[12], c.matrix[13], c.matrix[14]));
    if (!places.length) return;
    // Far points would push everything else to the middle: the nearer three quarters decide.
    const centre = new THREE.Vector3(...["x", "y", "z"].map((k) => places.map((p) => p[k]).sort((a, b) => a - b)[places.length >> 1]));
    const reach = places.map((p) => p.distanceTo(centre)).sort((a, b) => a - b)[Math.floor(places.length * 0.75)] || 1;
    this.controls.target.copy(centre);
    this.camera.position.copy(centre).add(new THREE.Vector3(...VIEWS[name]).normalize().multiplyScalar(reach * 2.6));
    this.camera.near = reach / 200;
    this.camera.far = reach * 400;
    this.camera.updateProjectionMatrix();
    this.controls.update();
    this.draw();
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
    this.renderer.render(this.scene, this.camera);
  }
}
