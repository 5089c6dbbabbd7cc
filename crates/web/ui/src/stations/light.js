// The light on guests at Proof, and what of the set they meet.
import { get } from "../page/api.js";
import { numberOr } from "../page/numbers.js";
import { plain } from "../page/reactive.js";

export class Light {
  constructor(page) {
    Object.assign(this, { page, shadowing: false });
  }
  get shot() {
    return this.page.shot;
  }

  // The light.
  get sun() {
    return this.shot.state.sun;
  }
  setSun(member, event) {
    return this.shot.edit("set the light", { sun: { [member]: numberOr(event.target.value, "°") } });
  }
  startShadow() {
    this.shadowing = !this.shadowing;
    Object.assign(this.page.guests, { placing: false, hint: "" });
    this.page.redraw();
  }
  async shadowAt([x, y]) {
    const corner = this.page.selection.first;
    const { frame } = this.page.playback;
    const found = await get(`${this.shot.address}/sun?corner=${corner}&frame=${frame}&x=${x}&y=${y}`).catch((e) => ({ none: e.message }));
    if (found.none) return (this.page.guests.hint = found.none);
    this.page.guests.stop();
    return this.shot.edit("read the sun from a shadow", { sun: { heading_deg: found.heading_deg, height_deg: found.height_deg } });
  }

  // The set.
  get planes() {
    const met = this.shot.state.met.planes;
    return this.shot.state.statements.filter((s) => s.kind === "plane" && s.faces !== "ground" && !s.off).map((s) => ({ id: s.id, name: s.name, catches: false, solid: false, ...met.find((m) => m.statement === s.id) }));
  }
  toggleGround() {
    return this.shot.edit("set what catches shadows", { met: { ground_catches: !this.shot.state.met.ground_catches } });
  }
  togglePlane(row, member) {
    const others = plain(this.shot.state.met.planes).filter((m) => m.statement !== row.id);
    const next = { statement: row.id, catches: row.catches, solid: row.solid, [member]: !row[member] };
    return this.shot.edit(`set what ${row.name} does`, { met: { planes: [...others, next] } });
  }
}
