// Surfaces of guests: GLB files as this server writes them (one mesh, its parts by material) as geometry to be drawn.
import * as THREE from "three";
import { bytes } from "../page/api.js";

const JSON_AT = 20;

/** The two chunks of a GLB. */
function chunks(buffer) {
  const view = new DataView(buffer);
  const long = view.getUint32(12, true);
  const text = new TextDecoder().decode(new Uint8Array(buffer, JSON_AT, long));
  return { root: JSON.parse(text), from: JSON_AT + long + 8 };
}

async function texture(buffer, from, root, index) {
  const image = root.images[root.textures[index].source];
  const view = root.bufferViews[image.bufferView];
  const blob = new Blob([new Uint8Array(buffer, from + view.byteOffset, view.byteLength)], { type: image.mimeType });
  const made = new THREE.Texture(await createImageBitmap(blob));
  made.flipY = false;
  made.colorSpace = THREE.SRGBColorSpace;
  made.wrapS = made.wrapT = THREE.RepeatWrapping;
  made.anisotropy = 4;
  made.needsUpdate = true;
  return made;
}

async function read(what) {
  const buffer = await bytes(`/api/surface?what=${encodeURIComponent(what)}`);
  const { root, from } = chunks(buffer);
  const piece = (index, Kind) => {
    const accessor = root.accessors[index];
    const count = accessor.count * { SCALAR: 1, VEC2: 2, VEC3: 3 }[accessor.type];
    return new Kind(buffer, from + root.bufferViews[accessor.bufferView].byteOffset, count);
  };
  const textures = await Promise.all((root.textures ?? []).map((_, k) => texture(buffer, from, root, k)));
  return root.meshes[0].primitives.map((primitive) => {
    const geometry = new THREE.BufferGeometry();
    for (const [name, of, size] of [["position", "POSITION", 3], ["normal", "NORMAL", 3], ["uv", "TEXCOORD_0", 2]]) {
      // Without pictures there are no places on them.
      if (of in primitive.attributes) geometry.setAttribute(name, new THREE.BufferAttribute(piece(primitive.attributes[of], Float32Array), size));
    }
    geometry.setIndex(new THREE.BufferAttribute(piece(primitive.indices, Uint32Array), 1));
    const { baseColorFactor: colour, baseColorTexture, metallicFactor, roughnessFactor } = root.materials[primitive.material].pbrMetallicRoughness;
    return { geometry, paint: { colour, map: baseColorTexture ? textures[baseColorTexture.index] : null, metal: metallicFactor, rough: roughnessFactor } };
  });
}

/** Surfaces by what guests are, each fetched once. */
export class Surfaces {
  constructor() {
    this.kept = new Map();
  }

  /** The parts of a surface. */
  of(what) {
    const key = JSON.stringify(what);
    if (!this.kept.has(key)) {
      const reading = read(key);
      // Asked for again after a failure.
      reading.catch(() => this.kept.delete(key));
      this.kept.set(key, reading);
    }
    return this.kept.get(key);
  }
}
