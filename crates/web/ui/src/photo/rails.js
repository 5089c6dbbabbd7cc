// The Rails station: which way the next rail runs, which is chosen, settling on edges, what the picture offers.
import { get, post } from "../page/api.js";
import { several } from "../page/numbers.js";
import { unwatched } from "../page/reactive.js";
import { FAMILIES, familyOf } from "./families.js";

const PICK_PX = 9;
const BY = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

function besideSegment(p, a, b) {
  const d = [b[0] - a[0], b[1] - a[1]];
  const t = Math.min(1, Math.max(0, ((p[0] - a[0]) * d[0] + (p[1] - a[1]) * d[1]) / (d[0] ** 2 + d[1] ** 2 || 1)));
  return Math.hypot(p[0] - a[0] - t * d[0], p[1] - a[1] - t * d[1]);
}

export class Rails {
  constructor(page) {
    Object.assign(this, { page, axis: "y", index: -1, end: "", said: "", suggesting: false, offered: 0, otherCount: 0, nudged: false });
    this.families = FAMILIES;
    // Edges on offer: of the picture as a whole, or beside the rail that was settled.
    this.data = unwatched({ offers: [], others: [], frees: false });
  }
  get shot() {
    return this.page.shot;
  }
  get list() {
    return this.page.laid.kept.rails;
  }
  get rail() {
    return this.list[this.index] ?? null;
  }
  get chosenAxis() {
    return this.rail?.axis ?? "";
  }
  countOf(axis) {
    return String(this.list.filter((r) => r.axis === axis).length);
  }
  /** What a rail is called: its direction, and its number among those. */
  nameOf(index) {
    const rail = this.list[index];
    if (!rail) return "";
    const number = 1 + this.list.slice(0, index).filter((r) => r.axis === rail.axis).length;
    return `${familyOf(rail.axis).name} rail ${number}`;
  }
  missText(index) {
    const miss = this.page.laid.live?.miss_px?.[index];
    return Number.isFinite(miss) ? `misses ${Math.abs(miss).toFixed(2)} px` : "not held against others yet";
  }
  get chosenText() {
    return this.rail ? `${this.nameOf(this.index)}, ${this.missText(this.index)}` : "";
  }
  get spoken() {
    return this.rail ? `chosen: ${this.chosenText}` : `${several(this.list.length, "rail")}, none chosen`;
  }
  get worstText() {
    const worst = this.page.laid.live?.worst ?? -1;
    return this.list[worst] ? `${this.nameOf(worst)}, ${this.missText(worst)}` : "–";
  }
  title(family) {
    return `Rails laid from now on run ${family.name}`;
  }
  setAxis(axis) {
    this.axis = axis;
    this.page.redraw();
  }
  follow() {
    if (this.index >= this.list.length) this.choose(-1, "");
  }

  choose(index, end) {
    if (this.index !== index) [this.said, this.otherCount, this.data.others] = ["", 0, []];
    Object.assign(this, { index, end });
  }
  step(by) {
    const count = this.list.length;
    if (count) this.choose((Math.max(this.index, by > 0 ? -1 : 0) + by + count) % count, "");
    this.page.redraw();
  }
  show(index) {
    this.choose(index, "");
    this.page.redraw();
  }
  change(label, rails, more = {}) {
    return this.page.laid.change(label, { rails, ...more });
  }
  runs(axis) {
    if (!this.rail || this.rail.axis === axis) return;
    return this.change(`let a rail run ${familyOf(axis).name}`, this.list.map((r, i) => (i === this.index ? { ...r, axis } : r)));
  }
  flip(axis) {
    const { flips } = this.page.laid.kept;
    return this.page.laid.change(`turn ${familyOf(axis).name} round`, { flips: { [axis]: !flips[axis] } });
  }
  toggleCentre() {
    const { solve_centre } = this.page.laid.kept;
    return this.page.laid.change(solve_centre ? "put the centre into the middle" : "free the centre", { solve_centre: !solve_centre });
  }
  remove() {
    if (!this.rail) return;
    const rails = this.list.filter((_, i) => i !== this.index);
    this.choose(-1, "");
    return this.change("remove a rail", rails);
  }

  /** On to the edge nearest in place and angle; others within reach are shown. */
  async settle() {
    const { index, rail } = this;
    if (!rail) return;
    try {
      const { rail: on, moved_px, rms_px, others } = await post(`${this.shot.address}/photo/settle`, { rail });
      await this.change("settle a rail", this.list.map((r, i) => (i === index ? { ...r, ...on } : r)));
      this.data.others = others.map((o) => ({ ...o.rail, moved_px: o.moved_px }));
      this.otherCount = others.length;
      const more = others.length ? ` ${several(others.length, "other edge")} within reach: click one to take it instead.` : "";
      this.said = `Moved by ${moved_px.toFixed(2)} px; the edge is straight to ${rms_px.toFixed(2)} px.${more}`;
    } catch (e) {
      this.shot.refuse(e.message);
    }
    this.page.redraw();
  }

  // What the picture offers.
  async suggest() {
    if (this.offered) return this.offer([]);
    this.suggesting = true;
    try {
      const { rails, free_centre, said } = await get(`${this.shot.address}/photo/suggested`);
      if (said) this.shot.refuse(said);
      this.offer(rails);
      this.data.frees = free_centre;
    } catch (e) {
      this.shot.refuse(e.message);
    }
    this.suggesting = false;
  }
  get suggestText() {
    if (this.suggesting) return "Looking …";
    return this.offered ? "Hide" : "Find straight edges";
  }
  get offeredText() {
    return this.offered ? `The picture offers ${several(this.offered, "edge")}` : "What the picture offers";
  }
  offer(rails) {
    this.data.offers = rails;
    this.offered = rails.length;
    this.page.redraw();
  }
  takeAll(axis) {
    const { offers, frees } = this.data;
    const taken = offers.filter((r) => !axis || r.axis === axis);
    this.offer(offers.filter((r) => axis && r.axis !== axis));
    if (taken.length) return this.change(`take ${several(taken.length, "rail")}`, [...this.list, ...taken], frees && !axis ? { solve_centre: true } : {});
  }

  // The pointer.
  clicked(px, scale) {
    const near = PICK_PX / scale;
    const isNear = (r) => besideSegment(px, r.a, r.b) < near;
    const other = this.data.others.find(isNear);
    if (other) {
      const { moved_px, ...on } = other;
      [this.data.others, this.otherCount] = [[], 0];
      return this.change("settle on another edge", this.list.map((r, i) => (i === this.index ? { ...r, ...on } : r)));
    }
    const taken = this.data.offers.find(isNear);
    if (taken) {
      this.offer(this.data.offers.filter((r) => r !== taken));
      return this.change("take a rail", [...this.list, taken]);
    }
    const { rails } = this.page.laid.now.photo;
    // Of several on one place the one whose direction is chosen.
    const own = rails.findIndex((r) => r.axis === this.axis && isNear(r));
    this.choose(own >= 0 ? own : rails.findIndex(isNear), "");
    this.page.redraw();
  }
  nudge(event) {
    const { laid, route } = this.page;
    const rail = laid.now.photo.rails[this.index];
    if (!route.at("rails") || !rail) return false;
    const step = event.shiftKey ? 1 : 0.1;
    const by = BY[event.key].map((v) => v * step);
    for (const end of this.end ? [this.end] : ["a", "b"]) rail[end] = [rail[end][0] + by[0], rail[end][1] + by[1]];
    // Kept when the key is let go: a held key is one step of undo.
    this.nudged = true;
    laid.ask();
    return true;
  }
  keepNudge() {
    if (!this.nudged) return;
    this.nudged = false;
    return this.change("nudge a rail", this.page.laid.now.photo.rails);
  }
}
