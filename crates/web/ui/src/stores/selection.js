// What is selected: one selection for plate, space, strip and tables.
import { unwatched } from "../page/reactive.js";

export class Selection {
  constructor(page) {
    Object.assign(this, { page, count: 0, seen: 0 });
    this.ids = unwatched(new Set());
    this.chosen = unwatched({ wanted: "", tracks: [] });
  }

  pick(ids, adding) {
    const { ids: chosen, page } = this;
    if (!adding) chosen.clear();
    for (const id of ids) {
      if (adding && chosen.has(id) && ids.length === 1) chosen.delete(id);
      else chosen.add(id);
    }
    this.count = chosen.size;
    this.seen += 1;
    page.selected();
  }
  has(id) {
    return this.ids.has(id);
  }
  /** The next one of a list, or the one before, for whoever has no pointer. */
  step(list, by) {
    if (!list.length) return;
    const at = list.findIndex((id) => this.ids.has(id));
    const next = at < 0 ? (by > 0 ? 0 : list.length - 1) : (at + by + list.length) % list.length;
    this.pick([list[next]], false);
  }

  get first() {
    return this.seen >= 0 ? [...this.ids][0] : undefined;
  }
  /** Looked up once for each selection: many fields ask. */
  get tracks() {
    const { tracks } = this.page;
    const wanted = `${this.seen} ${tracks.seen}`;
    if (this.chosen.wanted !== wanted) Object.assign(this.chosen, { wanted, tracks: unwatched([...this.ids].map((id) => tracks.of(id)).filter(Boolean)) });
    return this.chosen.tracks;
  }
  /** The track, where it is one. */
  get track() {
    const chosen = this.tracks;
    return chosen.length === 1 ? chosen[0] : null;
  }
  get names() {
    const { ids, count, page } = this;
    if (!count || !this.seen || page.tracks.seen < 0) return "nothing selected";
    const named = [...ids].slice(0, 4).map((id) => page.tracks.nameOf(id)).join(", ");
    return count > 4 ? `${named} and ${count - 4} more` : named;
  }
}
