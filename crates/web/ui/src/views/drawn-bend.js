// The undistorted picture drawn by the graphics card, or by what stands in for one.
import { ENOUGH } from "./bend.js";

const VERTEX = `#version 300 es
in vec2 place; in vec2 source; uniform vec4 map; out vec2 from;
void main() { from = source; gl_Position = vec4(place * map.xy + map.zw, 0.0, 1.0); }`;
const FRAGMENT = `#version 300 es
precision highp float; in vec2 from; uniform sampler2D plate; out vec4 colour;
void main() { bool inside = all(greaterThanEqual(from, vec2(0.0))) && all(lessThanEqual(from, vec2(1.0))); colour = inside ? vec4(texture(plate, from).rgb, 1.0) : vec4(0.0); }`;

/** Names of what stands in for a graphics card; browsers do not always say so otherwise. */
const PROCESSOR = /swiftshader|llvmpipe|softpipe|software|basic render/i;

/** Whether a processor draws in the place of a graphics card. */
export function isByProcessor(gl) {
  const named = gl.getExtension("WEBGL_debug_renderer_info");
  return PROCESSOR.test(String(gl.getParameter(named ? named.UNMASKED_RENDERER_WEBGL : gl.RENDERER)));
}

/**
 * The picture at about the size in which it is shown, so that no more is handed on than is seen and
 * nothing is sampled between px far apart. Smoothly, which takes five times as long, unless it `plays`.
 */
function smaller(surface, picture, scale, plays) {
  if (scale >= ENOUGH) return picture;
  surface.width = Math.ceil((picture.width * scale) / ENOUGH);
  surface.height = Math.ceil((picture.height * scale) / ENOUGH);
  // Kept in memory: without a graphics card handing it on from anywhere else takes longer than all the rest.
  const ctx = surface.getContext("2d", { alpha: false, willReadFrequently: true });
  ctx.imageSmoothingQuality = plays ? "low" : "medium";
  ctx.drawImage(picture, 0, 0, surface.width, surface.height);
  return surface;
}

/** Draws a plate through a bend on a surface. */
export class DrawnBend {
  /** On a surface, or null where nothing draws in this way. */
  static on(surface) {
    const gl = surface.getContext("webgl2", { alpha: true, premultipliedAlpha: true, antialias: false });
    return gl ? new DrawnBend(surface, gl) : null;
  }

  constructor(surface, gl) {
    Object.assign(this, { surface, gl, byProcessor: isByProcessor(gl) });
    this.program = gl.createProgram();
    for (const [kind, text] of [[gl.VERTEX_SHADER, VERTEX], [gl.FRAGMENT_SHADER, FRAGMENT]]) {
      const shader = gl.createShader(kind);
      gl.shaderSource(shader, text);
      gl.compileShader(shader);
      gl.attachShader(this.program, shader);
    }
    gl.linkProgram(this.program);
    // Asking for it anew with every picture would wait for all that was drawn before.
    this.map = gl.getUniformLocation(this.program, "map");
    this.buffers = { place: gl.createBuffer(), source: gl.createBuffer(), index: gl.createBuffer() };
    gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
    for (const side of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D, side, gl.CLAMP_TO_EDGE);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR);
    this.smaller = document.createElement("canvas");
  }

  /** Takes over the vertices of a bend. */
  bend(bend) {
    if (this.of === bend) return;
    this.of = bend;
    const { gl, buffers } = this;
    const { columns, rows, places } = bend.mesh;
    const [place, source, index] = [[], [], []];
    for (let j = 0; j <= rows; j++) {
      for (let i = 0; i <= columns; i++) {
        const k = j * (columns + 1) + i;
        place.push((i / columns) * bend.size[0], (j / rows) * bend.size[1]);
        source.push(places[2 * k] / bend.plate[0], places[2 * k + 1] / bend.plate[1]);
        if (i < columns && j < rows) index.push(k, k + 1, k + columns + 1, k + 1, k + columns + 2, k + columns + 1);
      }
    }
    for (const [name, values] of [["place", place], ["source", source]]) {
      const slot = gl.getAttribLocation(this.program, name);
      gl.bindBuffer(gl.ARRAY_BUFFER, buffers[name]);
      gl.bufferData(gl.ARRAY_BUFFER, new Float32Array(values), gl.STATIC_DRAW);
      gl.enableVertexAttribArray(slot);
      gl.vertexAttribPointer(slot, 2, gl.FLOAT, false, 0, 0);
    }
    gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, buffers.index);
    gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, new Uint32Array(index), gl.STATIC_DRAW);
    this.count = index.length;
  }

  /** The picture on a surface of `width` x `height` device px, placed by scale and offset. */
  draw(picture, bend, [width, height], scale, offset, plays) {
    const { gl, surface } = this;
    if (surface.width !== width) surface.width = width;
    if (surface.height !== height) surface.height = height;
    gl.useProgram(this.program);
    this.bend(bend);
    const shown = Math.min(scale, ENOUGH);
    if (this.picture !== picture || this.shown !== shown || this.plays !== plays) {
      gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, smaller(this.smaller, picture, scale, plays));
      Object.assign(this, { picture, shown, plays });
    }
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, scale < 2 ? gl.LINEAR : gl.NEAREST);
    gl.viewport(0, 0, width, height);
    gl.clearColor(0, 0, 0, 0);
    gl.clear(gl.COLOR_BUFFER_BIT);
    gl.uniform4f(this.map, (2 * scale) / width, (-2 * scale) / height, (2 * offset[0]) / width - 1, 1 - (2 * offset[1]) / height);
    gl.drawElements(gl.TRIANGLES, this.count, gl.UNSIGNED_INT, 0);
  }
}
