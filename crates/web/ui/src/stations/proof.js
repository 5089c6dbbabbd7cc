// The Proof station: boxes that stand on landmarks.
import { numberOr } from "../page/numbers.js";

export class Proof {
  constructor(page) {
    Object.assign(this, { page, box: { w: "0.5", h: "0.5", d: "0.5", name: "box" } });
  }
  get shot() {
    return this.page.shot;
  }
  get rows() {
    return this.shot.state.stand_ins.map((b) => ({ id: b.id, name: b.name, size: `${b.size_m.join(" × ")} m` }));
  }
  stand() {
    const { box } = this;
    const size_m = [box.w, box.h, box.d].map((side) => numberOr(side, "m"));
    const added = { name: box.name || "box", at: this.page.selection.first, size_m, turn_deg: 0 };
    return this.shot.edit("stand a box", {}, { stand_ins: { add: [added] } });
  }
  remove(id) {
    return this.shot.edit("remove a box", {}, { stand_ins: { remove: [id] } });
  }
}
