// The Proof station: boxes that stand on landmarks, and how far CG is expected to slip.
import { get } from "../page/api.js";
import { numberOr } from "../page/numbers.js";
import { unwatched } from "../page/reactive.js";

const NOTHING = { said: "", none: "", advice: [], frames: [] };

export class Proof {
  constructor(page) {
    Object.assign(this, { page, box: { w: "0.5", h: "0.5", d: "0.5", name: "box" }, slip: unwatched(NOTHING), over: false, overSaid: "", distance: "" });
    this.data = unwatched({ wanted: "", field: null, wantedField: "" });
  }
  get shot() {
    return this.page.shot;
  }
  get rows() {
    return this.shot.state.stand_ins.map((b) => ({ id: b.id, name: b.name, at: b.at, size: `${b.size_m.join(" × ")} m` }));
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
  pick(row) {
    this.page.selection.pick([row.at], false);
  }

  // Slip at the selected feature.
  get slipHint() {
    const { selection } = this.page;
    if (selection.count !== 1) return "Select one feature where CG will stand.";
    return this.slip.none || this.slip.said || "Looking …";
  }
  async ask() {
    const { page, data } = this;
    const { selection, route, shot } = page;
    if (!route.at("proof") || !shot.solve) return;
    this.askField();
    const track = selection.count === 1 ? selection.first : null;
    const wanted = `${track} ${shot.version}`;
    if (data.wanted === wanted) return;
    data.wanted = wanted;
    this.slip = unwatched(NOTHING);
    if (track === null) return page.redraw();
    const answer = await get(`${shot.address}/slip?track=${track}`).catch((e) => ({ ...NOTHING, none: e.message }));
    if (data.wanted !== wanted) return;
    this.slip = unwatched({ ...NOTHING, ...answer });
    page.redraw();
  }
  /** The forecast as a curve of the strip; none where nothing is asked. */
  get curves() {
    const { frames } = this.slip;
    if (!frames.length) return null;
    return { frames: frames.map((f) => f[0]), slip: { values: frames.map((f) => f[3]), sigma: [], spikes: [] } };
  }

  get pathAddress() {
    return `${this.shot.address}/path?track=${this.page.selection.first}`;
  }

  // Slip over the picture.
  toggleOver() {
    this.over = !this.over;
    this.overSaid = "";
    this.data.wantedField = "";
    this.data.field = null;
    this.askField();
    this.page.redraw();
  }
  setDistance() {
    this.data.wantedField = "";
    return this.askField();
  }
  async askField() {
    const { page, data } = this;
    const { selection, playback, shot } = page;
    if (!this.over || playback.playing) return;
    const distance = numberOr(this.distance, "m");
    const track = selection.count === 1 ? `&track=${selection.first}` : "";
    const where = typeof distance === "number" ? `&distance=${distance}` : track;
    const wanted = `${playback.frame}${where} ${shot.version}`;
    if (data.wantedField === wanted) return;
    data.wantedField = wanted;
    const answer = await get(`${shot.address}/slip/field?frame=${playback.frame}${where}`).catch((e) => ({ none: e.message }));
    if (data.wantedField !== wanted) return;
    this.overSaid = answer.none ?? "";
    data.field = answer.px ? { ...answer, frame: playback.frame } : null;
    page.redraw();
  }
  fieldShown() {
    const { field } = this.data;
    return this.over && this.page.route.at("proof") && field?.frame === this.page.playback.frame ? field : null;
  }
}
