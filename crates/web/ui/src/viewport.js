// Between plate px and screen px. The only place where coordinates change.
export class Viewport {
  constructor(width, height) {
    this.plate = [width, height];
    this.size = [1, 1];
    this.scale = 1;
    this.offset = [0, 0];
    this.fitted = true;
  }

  resize(width, height) {
    this.size = [width, height];
    if (this.fitted) this.fit();
  }

  fit() {
    this.scale = Math.min(this.size[0] / this.plate[0], this.size[1] / this.plate[1]);
    this.offset = [0, 1].map((i) => (this.size[i] - this.plate[i] * this.scale) / 2);
    this.fitted = true;
  }

  oneToOne() {
    this.zoom(1 / this.scale, this.size[0] / 2, this.size[1] / 2);
  }

  zoom(factor, x, y) {
    const next = Math.min(40, Math.max(0.05, this.scale * factor));
    const real = next / this.scale;
    this.offset = [x - (x - this.offset[0]) * real, y - (y - this.offset[1]) * real];
    this.scale = next;
    this.fitted = false;
  }

  pan(dx, dy) {
    this.offset = [this.offset[0] + dx, this.offset[1] + dy];
    this.fitted = false;
  }

  plateToScreen(x, y) {
    return [x * this.scale + this.offset[0], y * this.scale + this.offset[1]];
  }

  screenToPlate(x, y) {
    return [(x - this.offset[0]) / this.scale, (y - this.offset[1]) / this.scale];
  }
}
