// The Orient station: ground, origin and scale out of landmarks.
import { numberOr } from "../page/numbers.js";

export class Orient {
  constructor(page) {
    Object.assign(this, { page, metres: "" });
  }
  get shot() {
    return this.page.shot;
  }
  pick(label, picks) {
    return this.shot.edit(label, { picks });
  }
  makeGround() {
    return this.pick("make the ground", { ground: [...this.page.selection.ids] });
  }
  makeOrigin() {
    return this.pick("set the origin", { origin: this.page.selection.first });
  }
  makeDistance() {
    const [a, b] = [...this.page.selection.ids];
    return this.pick("state a distance", { distance: [a, b, numberOr(this.metres, "m")] });
  }
  startOver() {
    return this.pick("clear the orientation", { ground: [], origin: null, distance: null });
  }
  setGrid(event) {
    return this.shot.edit("set the grid", { grid_m: numberOr(event.target.value, "m") });
  }
}
