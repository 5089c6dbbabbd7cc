// Lengths between features and planes that features lie on.
import { errorIn, numberOr } from "../page/numbers.js";

/// Three always lie on a plane.
const FEWEST_ON_A_PLANE = 4;

export class Constraints {
  constructor(page) {
    Object.assign(this, { page, metres: "", sigma: "" });
  }
  get canLength() {
    return this.page.selection.count === 2 && this.metres.trim() !== "";
  }
  get canPlane() {
    return this.page.selection.count >= FEWEST_ON_A_PLANE;
  }
  get hint() {
    const { count } = this.page.selection;
    if (count === 2) return "The two selected features are so many metres apart.";
    if (count >= FEWEST_ON_A_PLANE) return `The ${count} selected features lie on one plane, as on a wall.`;
    return "Select two features that are a known length apart, or four and more on one wall or floor: the solve is pulled to them. One length alone pulls nothing, but lengths say how large the world is.";
  }
  get sigma_m() {
    return errorIn(this.sigma);
  }
  get chosen() {
    return [...this.page.selection.ids];
  }
  addLength() {
    return this.add("add a known length", { kind: "length", between: this.chosen, length_m: numberOr(this.metres, "m"), sigma_m: this.sigma_m });
  }
  addPlane() {
    return this.add("add a known plane", { kind: "plane", tracks: this.chosen, sigma_m: this.sigma_m });
  }
  async add(label, constraint) {
    if (await this.page.shot.edit(label, {}, { constraints: { add: [constraint] } })) this.metres = "";
  }
  remove(id) {
    return this.page.shot.edit("remove a known length or plane", {}, { constraints: { remove: [id] } });
  }
  pick(constraint) {
    this.page.selection.pick(constraint.tracks, false);
  }
}
