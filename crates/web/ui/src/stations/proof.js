// The Proof station: how far CG is expected to slip, and the picture held still on a place.
import { get } from "../page/api.js";
import { numberOr } from "../page/numbers.js";
import { unwatched } from "../page/reactive.js";

const NOTHING = { said: "", none: "", advice: [], frames: [] };

export class Proof {
  constructor(page) {
    Object.assign(this, { page, holding: false, slip: unwatched(NOTHING), over: false, overSaid: "", distance: "" });
    this.data = unwatched({ wanted: "", field: null, wantedField: "", hold: null, path: null });
  }
  get shot() {
    return this.page.shot;
  }

  // Held still: the picture moves so that a place in space stays where it is on the screen.
  get canHold() {
    return this.where !== null;
  }
  async toggleHold() {
    this.holding = !this.holding && this.canHold;
    this.data.hold = null;
    this.data.path = null;
    if (this.holding) await this.askPath();
    this.page.redraw();
  }
  async askPath() {
    const answer = await get(`${this.pathAddress}&kind=json`).catch(() => null);
    this.data.path = new Map((answer?.frames ?? []).map((f) => [f.frame, f.px]));
  }
  holdShown() {
    const px = this.holding ? this.data.path?.get(this.page.playback.frame) : null;
    if (!px) return null;
    this.data.hold = { ...this.data.hold, px };
    return this.data.hold;
  }
  /** So many px of the screen for one of the plate, about what is held. */
  enlarge(times) {
    const { plateView, playback } = this.page;
    const { viewport } = plateView;
    const px = this.data.path?.get(playback.frame);
    const at = px ? viewport.plateToScreen(...px) : viewport.size.map((side) => side / 2);
    viewport.zoom(times / viewport.scale, ...at);
    if (px) viewport.pan(viewport.size[0] / 2 - at[0], viewport.size[1] / 2 - at[1]);
    this.data.hold = null;
    this.page.redraw();
  }

  /** What slip, reel and path are asked about: where the chosen guest stands on this frame, else the selected feature. */
  get where() {
    const { guests, selection } = this.page;
    const place = guests.guest ? guests.standsAt : null;
    if (place) return `x=${place[0]}&y=${place[1]}&z=${place[2]}`;
    return selection.count === 1 ? `track=${selection.first}` : null;
  }
  get whereText() {
    const { guests, selection } = this.page;
    if (guests.guest) return `At ${guests.guest.name}`;
    return selection.count === 1 ? `At ${selection.names}` : "";
  }

  // Slip there.
  get slipHint() {
    if (this.where === null) return "Choose a guest, or select one feature where CG will stand.";
    return this.slip.none || this.slip.said || "Looking …";
  }
  async ask() {
    const { page, data } = this;
    const { route, shot } = page;
    if (!route.at("proof") || !shot.solve) return;
    this.askField();
    const { where } = this;
    const wanted = `${where} ${shot.version}`;
    if (data.wanted === wanted) return;
    data.wanted = wanted;
    this.slip = unwatched(NOTHING);
    if (where === null) return page.redraw();
    const answer = await get(`${shot.address}/slip?${where}`).catch((e) => ({ ...NOTHING, none: e.message }));
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
    return `${this.shot.address}/path?${this.where}`;
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
