// Points that were measured on the set.
import { send } from "../page/api.js";
import { errorIn, numberOr } from "../page/numbers.js";

export class Survey {
  constructor(page) {
    Object.assign(this, { page, up: "y", point: { name: "", at: "", sigma: "" } });
    this.ups = ["y", "z"];
  }
  get shot() {
    return this.page.shot;
  }
  get addText() {
    return this.page.selection.count === 1 ? "Add for selection" : "Add";
  }
  async importFile(event) {
    const [file] = event.target.files;
    event.target.value = "";
    const { shot } = this;
    if (file) await shot.act(() => send(`${shot.address}/survey?up=${this.up}&on=${shot.version}`, file, shot.seen));
  }
  async add() {
    const { name, at, sigma } = this.point;
    const at_m = at.trim().split(/[\s;]+/).map((c) => (c === "-" || c === "–" ? null : numberOr(c, "m")));
    const metres = errorIn(sigma);
    const { selection } = this.page;
    const added = { name, track: selection.count === 1 ? selection.first : null, at_m, sigma_m: [metres, metres, metres] };
    if (await this.shot.edit("add a surveyed point", {}, { survey: { add: [added] } })) this.point = { name: "", at: "", sigma };
  }
  give(id) {
    const track = this.page.selection.first;
    return this.shot.alter("match a surveyed point", "survey", id, (point) => ({ ...point, track }));
  }
  remove(id) {
    return this.shot.edit("remove a surveyed point", {}, { survey: { remove: [id] } });
  }
  pick(point) {
    if (point.track !== null) this.page.selection.pick([point.track], false);
  }
  offText(point) {
    return point.off_mm ? `X ${point.off_mm[0]}, Y ${point.off_mm[1]}, Z ${point.off_mm[2]} mm` : "";
  }
}
