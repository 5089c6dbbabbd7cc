// Materials that are drawn through the solved camera: places in camera space go through the lens's own terms on to
// the plate's px, and from there to where the view shows these. Corners lie where the server projects them.
import * as THREE from "three";

/** What all materials of a view share. */
export const lensUniforms = () => ({
  radial: { value: new THREE.Vector3() }, tangential: { value: new THREE.Vector2() }, reach: { value: 1e6 },
  focal: { value: 1 }, centre: { value: new THREE.Vector2() }, toView: { value: new THREE.Vector4(1, 1, 0, 0) },
});

const DECLARED = `
uniform vec3 radial; uniform vec2 tangential; uniform float reach; uniform float focal; uniform vec2 centre; uniform vec4 toView;
vec4 throughLens(vec4 seen, mat4 projection) {
  float depth = -seen.z;
  vec2 at = vec2(seen.x, -seen.y);
  if (depth > 1e-4) {
    vec2 n = at / depth;
    // Beyond its reach a lens would fold back: what is there stays at the border of it.
    float far = length(n);
    if (far > reach) n *= reach / far;
    float r2 = dot(n, n);
    float bent = 1.0 + r2 * (radial.x + r2 * (radial.y + r2 * radial.z));
    vec2 skew = vec2(2.0 * tangential.x * n.x * n.y + tangential.y * (r2 + 2.0 * n.x * n.x), tangential.x * (r2 + 2.0 * n.y * n.y) + 2.0 * tangential.y * n.x * n.y);
    at = (n * bent + skew) * depth;
  }
  // Homogeneous all the way, so that what reaches behind the camera is cut and not turned inside out.
  vec2 px = at * focal + centre * depth;
  return vec4(px * toView.xy + toView.zw * depth, projection[2][2] * seen.z + projection[3][2], depth);
}
`;

/** A material that is drawn so. */
export function lensed(material, uniforms) {
  material.onBeforeCompile = (shader) => {
    Object.assign(shader.uniforms, uniforms);
    shader.vertexShader = shader.vertexShader
      .replace("#include <common>", `#include <common>\n${DECLARED}`)
      .replace("#include <project_vertex>", "vec4 mvPosition = modelViewMatrix * vec4(transformed, 1.0);\ngl_Position = throughLens(mvPosition, projectionMatrix);");
  };
  return material;
}

/** Sets the lens of a frame; `bend` where the undistorted picture is shown, `viewport` where it lies. */
export function setLens(uniforms, camera, viewport) {
  const { bend, scale, offset, size } = viewport;
  const straight = Boolean(bend);
  const [k1, k2, k3, p1, p2] = straight ? [0, 0, 0, 0, 0] : camera.terms;
  uniforms.radial.value.set(k1, k2, k3);
  uniforms.tangential.value.set(p1, p2);
  uniforms.reach.value = straight || camera.radius === null ? 1e6 : camera.radius;
  uniforms.focal.value = camera.focal_px;
  uniforms.centre.value.set(...(straight ? bend.toStraight(...camera.centre) : camera.centre));
  uniforms.toView.value.set((2 * scale) / size[0], (-2 * scale) / size[1], (2 * offset[0]) / size[0] - 1, 1 - (2 * offset[1]) / size[1]);
}
