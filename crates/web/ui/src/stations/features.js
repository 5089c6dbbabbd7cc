// Features of the solve in a table, linked with everything else that is selected.
import { get } from "../page/api.js";
import { unwatched } from "../page/reactive.js";

/** Rows of the table. */
const MOST_ROWS = 60;
const WHY = { against: "none", body: "another", limit: "limit", parallel: "no place", culled: "aside", mover: "moves" };
const ORDERS = {
  rms: (t) => -(t.rms ?? -1),
  here: (t, here) => -(here.get(t.id) ?? -1),
  short: (t) => t.frames.length,
  weight: (t) => -Math.abs(Math.log((t.note?.weight || 1e-6) / 1)),
  aside: (t) => (t.aside ? 0 : 1),
};

export class Features {
  constructor(page) {
    Object.assign(this, { page, order: "rms", seen: 0 });
    this.data = unwatched({ wanted: "", here: new Map() });
  }
  sort(event) {
    this.order = event.target.value;
    this.ask();
  }
  /** What is missed most on this frame, where that is looked at. */
  async ask() {
    const { page, data } = this;
    const { shot, playback, route } = page;
    if (this.order !== "here" || !route.at("solve") || !shot.solve || playback.playing) return;
    const wanted = `${playback.frame} ${shot.state.attempt}`;
    if (data.wanted === wanted) return;
    Object.assign(data, { wanted, here: new Map() });
    const answer = await get(`${shot.address}/misses?frame=${playback.frame}`).catch(() => ({ worst: [] }));
    if (data.wanted !== wanted) return;
    data.here = new Map(answer.worst);
    this.seen += 1;
  }
  get rows() {
    const { tracks, selection, route } = this.page;
    if (!route.at("solve") || tracks.seen + this.seen + selection.seen < 0) return [];
    const { here } = this.data;
    const order = ORDERS[this.order];
    const isHere = this.order === "here";
    const listed = isHere ? tracks.list.filter((t) => here.has(t.id)) : tracks.list;
    const keyed = listed.map((t) => [order(t, here), t]).sort((a, b) => a[0] - b[0]);
    return keyed.slice(0, MOST_ROWS).map(([, t]) => {
      const px = isHere ? here.get(t.id) : t.rms;
      return {
        id: t.id, name: tracks.nameOf(t.id), px: px == null ? "–" : px.toFixed(2),
        span: t.frames.length, weight: t.note?.weight ?? 1, body: t.aside ? WHY[t.aside] ?? "aside" : "scene", chosen: selection.has(t.id),
      };
    });
  }
  get said() {
    const all = this.page.tracks.seen >= 0 ? this.page.tracks.list.length : 0;
    const shown = this.rows.length;
    return shown < all ? `${shown} of ${all} are listed.` : "";
  }
}
