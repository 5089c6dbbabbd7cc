// The Proof station of a photograph: a grid, a box that is pulled, lengths that are measured.
import { numberOr } from "../page/numbers.js";
import { LENGTH_AXES, axisOf } from "./place.js";
import { FAMILIES } from "./families.js";

export class Checks {
  constructor(page) {
    Object.assign(this, { page, measuring: false, measureAxis: "y" });
    this.axes = LENGTH_AXES;
    this.grids = [{ key: "off", name: "none" }, { key: "ground", name: "ground" }, { key: "xy", name: "wall along" }, { key: "yz", name: "wall across" }];
    // In the order of the box's sides in the state.
    this.sides = ["x", "y", "z"].map((key) => ({ key, name: FAMILIES.find((f) => f.key === key).name }));
  }
  get laid() {
    return this.page.laid;
  }
  get kept() {
    return this.laid.kept;
  }
  setGrid(grid) {
    return this.laid.change("choose the grid", { grid });
  }
  setSquare(event) {
    return this.page.shot.edit("set the grid", { grid_m: numberOr(event.target.value, "m") });
  }
  toggleBox() {
    const { placed } = this.laid;
    const side = placed?.scaled ? 0.5 : (placed?.distance ?? 10) * 0.12;
    return this.laid.change(this.kept.corner_box ? "take the box away" : "stand a box", { corner_box: this.kept.corner_box ? null : { at: null, size: [side, side, side] } });
  }
  side(index) {
    return (this.laid.placed?.box?.size?.[index] ?? 0).toFixed(3);
  }
  setSide(index, event) {
    const box = this.kept.corner_box;
    const size = box.size.map((v, i) => (i === index ? numberOr(event.target.value, "m", "units") : v));
    return this.laid.change("size the box", { corner_box: { ...box, size } });
  }
  toggleMeasuring() {
    this.measuring = !this.measuring;
    this.page.redraw();
  }
  setMeasureAxis(key) {
    this.measureAxis = key;
    const { measure } = this.kept;
    if (measure) return this.laid.change("measure", { measure: { ...measure, axis: axisOf(key) } });
  }
  get measureText() {
    const m = this.laid.placed?.measured;
    if (!m) return this.measuring ? "Drag from a foot on the ground to the other end." : "";
    return m.error ?? m.text;
  }
  get canMeasure() {
    return this.laid.placed !== null;
  }
}
