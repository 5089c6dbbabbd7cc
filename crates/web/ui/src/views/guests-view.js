// Guests over the plate, quickly: the same cameras and lens as the server's, one sun with soft-edged shadows, planes
// that catch them, solid ones that hide. Pictures and movies are drawn by the server.
import * as THREE from "three";
import { lensUniforms, lensed, setLens } from "./lensed.js";
import { isByProcessor } from "./drawn-bend.js";
import { Surfaces } from "./surfaces.js";

const SHADOW_PX = 1024;
/** Share of the size at which guests are drawn while they play without a graphics card. */
const COARSE = 0.5;
/** Squares of a catcher each way, so that the lens bends it, and how far it reaches about what stands on it. */
const SQUARES = 64;
const ABOUT = 6;

/** Whether a processor would draw, asked of a context that is thrown away. */
function hasNoCard() {
  const probe = document.createElement("canvas").getContext("webgl2");
  const answer = !probe || isByProcessor(probe);
  probe?.getExtension("WEBGL_lose_context")?.loseContext();
  return answer;
}

/** A place, turns about up, along and across, degrees, and a size as a matrix. */
export function lying({ place, turn_deg: [up, along, across], scale }) {
  const turn = new THREE.Euler(...[along, up, across].map(THREE.MathUtils.degToRad), "YXZ");
  return new THREE.Matrix4().compose(new THREE.Vector3(...place), new THREE.Quaternion().setFromEuler(turn), new THREE.Vector3(scale, scale, scale));
}

/** Light as a screen shows it. */
const shown = (light) => Math.max(0, light) ** (1 / 2.2);

const row = (m) => new THREE.Matrix4().set(...m);

export class GuestsView {
  /** `drawn` hears when a surface has come. */
  constructor(canvas, drawn) {
    Object.assign(this, { canvas, drawn, given: null, surfaces: new Surfaces(), uniforms: lensUniforms(), bodies: new Map() });
    const context = canvas.getContext("webgl2", { antialias: !hasNoCard(), alpha: true, premultipliedAlpha: true });
    this.renderer = new THREE.WebGLRenderer({ canvas, context });
    this.byProcessor = isByProcessor(context);
    this.renderer.shadowMap.enabled = true;
    // Shadows change with guests and light, not with the camera.
    this.renderer.shadowMap.autoUpdate = false;
    this.renderer.shadowMap.type = this.byProcessor ? THREE.BasicShadowMap : THREE.PCFShadowMap;
    this.scene = new THREE.Scene();
    this.camera = new THREE.PerspectiveCamera();
    this.camera.matrixAutoUpdate = false;
    this.sun = new THREE.DirectionalLight(0xffffff, 1);
    this.sun.castShadow = true;
    this.sun.shadow.mapSize.set(SHADOW_PX, SHADOW_PX);
    this.sun.shadow.bias = -0.0005;
    this.sky = new THREE.HemisphereLight(0xffffff, 0x888888, 1);
    this.set = new THREE.Group();
    this.scene.add(this.sun, this.sun.target, this.sky, this.set);
  }

  /** Takes the solved cameras. */
  through(cameras) {
    this.cameras = new Map(cameras.map((c) => [c.frame, c]));
  }

  /** Takes what the server says of guests, set and light. */
  async show(given) {
    this.given = given;
    const kept = new Set(given.guests.map((g) => g.id));
    for (const id of [...this.bodies.keys()]) if (!kept.has(id)) this.drop(id);
    const dressed = given.guests.map((guest) => this.dress(guest));
    this.light(given.sun);
    this.stand();
    await Promise.all(dressed);
    if (this.given !== given) return;
    this.layout();
    this.drawn();
  }

  drop(id) {
    this.scene.remove(this.bodies.get(id)?.group);
    this.bodies.delete(id);
  }

  /** Gives a guest its surface, anew only where it is another. */
  async dress(guest) {
    const key = JSON.stringify(guest.what);
    const known = this.bodies.get(guest.id);
    if (known?.key === key) return Object.assign(known, { guest });
    this.drop(guest.id);
    const group = new THREE.Group();
    group.matrixAutoUpdate = false;
    this.bodies.set(guest.id, { key, guest, group });
    this.scene.add(group);
    const parts = await this.surfaces.of(guest.what).catch(() => []);
    for (const { geometry, paint } of parts) {
      const [r, g, b, a] = paint.colour;
      // Without surroundings to mirror a bare metal would be black.
      const all = { color: new THREE.Color(r, g, b), map: paint.map, side: THREE.DoubleSide, transparent: a < 1, opacity: a };
      const material = this.byProcessor ? new THREE.MeshLambertMaterial(all) : new THREE.MeshStandardMaterial({ ...all, metalness: 0.45 * paint.metal, roughness: Math.max(0.25, paint.rough) });
      const mesh = new THREE.Mesh(geometry, lensed(material, this.uniforms));
      mesh.castShadow = mesh.receiveShadow = true;
      mesh.frustumCulled = false;
      group.add(mesh);
    }
  }

  light({ towards, strength, sky, ground }) {
    this.towards = new THREE.Vector3(...towards);
    this.sun.intensity = Math.PI * strength;
    this.sky.intensity = Math.PI * Math.max(sky, ground);
    const share = (light) => this.grey(light / (Math.max(sky, ground) || 1));
    this.sky.color.copy(share(sky));
    this.sky.groundColor.copy(share(ground));
  }
  grey(light) {
    return new THREE.Color().setRGB(light, light, light, THREE.LinearSRGBColorSpace);
  }

  /** Planes of the set. */
  stand() {
    this.set.traverse((o) => (o.geometry?.dispose(), o.material?.dispose()));
    this.set.clear();
    for (const piece of this.given.set) {
      if (piece.solid) this.set.add(this.plane(piece, new THREE.MeshBasicMaterial({ colorWrite: false, side: THREE.DoubleSide }), -1));
      if (piece.catches) this.set.add(this.plane(piece, new THREE.ShadowMaterial({ opacity: 1 - shown(piece.left), side: THREE.DoubleSide, depthWrite: false }), 1));
    }
  }

  plane(piece, material, order) {
    const geometry = new THREE.PlaneGeometry(1, 1, SQUARES, SQUARES);
    const mesh = new THREE.Mesh(geometry, lensed(material, this.uniforms));
    mesh.matrixAutoUpdate = false;
    mesh.receiveShadow = piece.catches;
    mesh.frustumCulled = false;
    mesh.renderOrder = order;
    mesh.userData.piece = piece;
    return mesh;
  }

  /** Where guests are on a frame, and what is moved by hand before it is kept. */
  layout(frame = this.frame, held = this.held) {
    Object.assign(this, { frame, held });
    const box = new THREE.Box3();
    for (const { guest, group } of this.bodies.values()) {
      const matrix = guest.frames.find(([f]) => f === frame)?.[1] ?? guest.matrix;
      group.visible = Boolean(matrix) && !guest.hidden && !guest.empty;
      if (!group.visible) continue;
      if (held?.id === guest.id) group.matrix.copy(lying(held));
      else group.matrix.copy(row(matrix));
      const own = new THREE.Box3(new THREE.Vector3(...guest.low), new THREE.Vector3(...guest.high));
      box.union(own.applyMatrix4(group.matrix));
    }
    this.any = !box.isEmpty();
    if (!this.any) return;
    const ball = box.getBoundingSphere(new THREE.Sphere());
    const reach = Math.max(ball.radius, 1e-3);
    this.sun.position.copy(ball.center).addScaledVector(this.towards, 4 * reach);
    this.sun.target.position.copy(ball.center);
    const { camera } = this.sun.shadow;
    Object.assign(camera, { left: -reach, right: reach, top: reach, bottom: -reach, near: 0.5 * reach, far: 40 * reach });
    camera.updateProjectionMatrix();
    this.sun.shadow.normalBias = (2 * reach) / SHADOW_PX;
    this.renderer.shadowMap.needsUpdate = true;
    for (const mesh of this.set.children) this.reach(mesh, ball.center, reach);
  }

  /** Another frame: shadows and places stay as they are where nothing moves by itself. */
  goTo(frame) {
    this.frame = frame;
    if ([...this.bodies.values()].some(({ guest }) => guest.frames.length)) this.layout(frame);
  }

  /** A plane without end reaches as far as shadows do. */
  reach(mesh, about, radius) {
    const { at, normal, right, up, half } = mesh.userData.piece;
    const [middle, square] = [new THREE.Vector3(...at), new THREE.Vector3(...normal)];
    const long = (2 * ABOUT * radius) / Math.max(0.15, this.towards.dot(square));
    const sides = half.map((h) => (h === null ? long : 2 * h));
    if (half[0] === null) middle.copy(about.clone().addScaledVector(square, square.dot(middle) - square.dot(about)));
    mesh.matrix.makeBasis(new THREE.Vector3(...right), new THREE.Vector3(...up), square).scale(new THREE.Vector3(sides[0], sides[1], 1)).setPosition(middle);
  }

  /** Draws a frame where the viewport has the plate; nothing where the frame has no camera. */
  draw(frame, viewport, ratio, clip, plays = false) {
    const { canvas, renderer } = this;
    const camera = this.cameras?.get(frame);
    const is = Boolean(camera) && this.bodies.size > 0;
    canvas.hidden = !is;
    if (!is) return;
    if (frame !== this.frame) this.goTo(frame);
    // Without a graphics card what plays is drawn more coarsely.
    this.coarse = plays && this.byProcessor;
    if (this.coarse) ratio *= COARSE;
    const [width, height] = viewport.size.map((side) => Math.max(1, Math.round(side * ratio)));
    if (canvas.width !== width || canvas.height !== height) {
      renderer.setPixelRatio(1);
      renderer.setSize(width, height, false);
    }
    this.camera.matrix.fromArray(camera.matrix);
    this.camera.matrixWorldNeedsUpdate = true;
    const away = this.camera.matrix.elements;
    const far = new THREE.Vector3(away[12], away[13], away[14]).distanceTo(this.sun.target.position);
    this.camera.near = Math.max(0.005 * far, 1e-3);
    this.camera.far = 100 * Math.max(far, 1);
    this.camera.updateProjectionMatrix();
    setLens(this.uniforms, camera, viewport);
    // Nothing beyond the picture's border.
    renderer.setScissorTest(true);
    const [left, top, wide, high] = clip.map((v) => v * ratio);
    renderer.setScissor(Math.max(0, left), Math.max(0, height - top - high), Math.min(width, wide), Math.min(height, high));
    renderer.setClearColor(0x000000, 0);
    renderer.render(this.scene, this.camera);
  }
}
