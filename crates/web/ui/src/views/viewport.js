// Between plate px and screen px. The only place where coordinates change.
export class Viewport {
  constructor(width, height) {
    this.source = [width, height];
    this.plate = [width, height];
    this.size = [1, 1];
    this.scale = 1;
    this.offset = [0, 0];
    this.fitted = true;
    this.bend = null;
  }

  /** Shows the undistorted picture of a bend, or the plate as shot for null. */
  through(bend) {
    this.bend = bend;
    const [width, height] = bend?.size ?? this.source;
    if (width === this.plate[0] && height === this.plate[1]) return;
    this.plate = [width, height];
    if (this.fitted) this.fit();
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

  /** Keeps a place of the plate where it was on the screen when holding began. */
  hold(hold) {
    const [x, y] = this.plateToScreen(...hold.px);
    hold.at ??= [x, y];
    if (hold.scale !== undefined && hold.scale !== this.scale) hold.at = [x, y];
    hold.scale = this.scale;
    this.pan(hold.at[0] - x, hold.at[1] - y);
  }

  /** A position of the picture that is shown, undistorted or not. */
  shownToScreen(x, y) {
    return [x * this.scale + this.offset[0], y * this.scale + this.offset[1]];
  }

  plateToScreen(x, y) {
    return this.bend ? this.shownToScreen(...this.bend.toStraight(x, y)) : this.shownToScreen(x, y);
  }

  screenToPlate(x, y) {
    const shown = [(x - this.offset[0]) / this.scale, (y - this.offset[1]) / this.scale];
    return this.bend ? this.bend.toPlate(...shown) : shown;
  }
}
