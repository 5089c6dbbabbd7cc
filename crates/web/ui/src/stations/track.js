// The Track station: its panels, what is listed and in which order, what is said of tracks, suspects, the
// preview of features, and the picture held still on a track.
import { get, send } from "../page/api.js";
import { numberOr, several } from "../page/numbers.js";
import { unwatched } from "../page/reactive.js";
import { indexAt } from "../layers/tracks.js";

const SORTS = [
  { key: "start", name: "birth", of: (t) => t.frames[0], unit: "frame" },
  { key: "life", name: "life", of: (t) => t.frames.length, unit: "frames" },
  { key: "sigma", name: "sigma", of: (t) => t.sigma, unit: "px" },
  { key: "rms", name: "residual", of: (t) => t.rms, unit: "px" },
  { key: "drift", name: "drift", of: (t) => t.drift, unit: "px" },
  { key: "jitter", name: "jitter", of: (t) => t.jitter, unit: "px" },
];
const WHY = {
  culled: "set aside by you", mover: "moves by itself", false_corner: "false corner", drifts: "drifts", jitters: "shakes", duplicate: "doubles another",
  short: "too short", against: "against the scene", body: "with another body", limit: "above the limit", parallel: "too little parallax",
};
const figure = (v) => (v == null ? "–" : `${v.toFixed(3)} px`);

export class Track {
  constructor(page) {
    Object.assign(this, {
      page, panel: "features", previewing: false, previewCount: 0, showAside: false, sortBy: "start", above: "", below: "",
      onlySelected: false, seeing: 0, holding: false, importSaid: "", importing: null, same: null,
    });
    this.panels = [{ key: "features", name: "Features" }, { key: "hands", name: "Hand" }, { key: "mattes", name: "Mattes" }, { key: "tracks", name: "Judge" }];
    this.sorts = SORTS.map(({ key, name }) => ({ key, name }));
    this.data = unwatched({ wanted: "", tracks: [], seeing: null, preview: null, hold: null });
  }
  get shot() {
    return this.page.shot;
  }
  goPanel(panel) {
    this.panel = panel;
    this.page.mattes.drop();
    this.page.redraw();
  }
  /** What takes the pointer at this station. */
  get tool() {
    return { hands: this.page.hands.tool, mattes: this.page.mattes.tool }[this.panel] ?? null;
  }
  setOption(key, event) {
    return this.shot.edit(`set ${key.replaceAll("_", " ")}`, { track: { [key]: numberOr(event.target.value, "px") } });
  }

  // Which lifelines are listed, and in which order.
  sorted() {
    const { data, page } = this;
    const { selection, tracks } = page;
    const key = SORTS.find((s) => s.key === this.sortBy);
    const wanted = JSON.stringify([this.sortBy, this.above, this.below, this.onlySelected, this.showAside, tracks.seen, this.seeing, this.onlySelected ? [...selection.ids] : 0]);
    if (data.wanted === wanted) return data.tracks;
    const [above, below] = [this.above, this.below].map((text) => numberOr(text, "px"));
    const keep = (t) => {
      const value = key.of(t);
      if (data.seeing) return data.seeing.has(t.id);
      if (this.onlySelected) return selection.has(t.id);
      if (t.note?.hidden || (t.aside && !this.showAside)) return false;
      return (above === null || (value != null && value > above)) && (below === null || (value != null && value < below));
    };
    // Groups lie together; long lives, and what is worst, on top; births in their order.
    const sign = this.sortBy === "start" ? 1 : -1;
    const group = (t) => t.note?.group || "";
    const list = tracks.list.filter(keep);
    list.sort((a, b) => group(a).localeCompare(group(b)) || sign * ((key.of(a) ?? -1e9) - (key.of(b) ?? -1e9)) || a.id - b.id);
    Object.assign(data, { wanted, tracks: list });
    return list;
  }
  get listedText() {
    return this.page.tracks.seen >= 0 ? `${this.sorted().length} listed` : "";
  }
  get sortUnit() {
    return SORTS.find((s) => s.key === this.sortBy).unit;
  }
  setSort(key) {
    this.sortBy = key;
    [this.above, this.below] = ["", ""];
    this.page.redraw();
  }
  setBound(which, event) {
    this[which] = event.target.value;
    this.page.redraw();
  }
  selectListed() {
    this.page.selection.pick(this.sorted().map((t) => t.id), false);
  }
  invert() {
    const { selection } = this.page;
    selection.pick(this.sorted().filter((t) => !selection.has(t.id)).map((t) => t.id), false);
  }
  toggleOnlySelected() {
    this.onlySelected = !this.onlySelected;
    this.page.redraw();
  }
  toggleAside() {
    this.showAside = !this.showAside;
    this.page.redraw();
  }

  // One track, or what several have in common.
  get figures() {
    const t = this.page.selection.track;
    if (!t) return [];
    const suspect = t.suspect ? `${WHY[t.suspect.why]}${t.suspect.why === "short" || t.suspect.figure === 0 ? "" : `, ${t.suspect.figure.toFixed(2)} px`}` : "–";
    return [
      ["life", `${t.frames[0]}–${t.frames[t.frames.length - 1]}, ${several(t.frames.length, "frame")}`], ["sigma", figure(t.sigma)], ["drift", figure(t.drift)],
      ["jitter", figure(t.jitter)], ["residual", figure(t.rms)], ["suspect", suspect], ["aside", t.aside ? WHY[t.aside] : "no"],
    ].map(([key, value]) => ({ key, value }));
  }
  shared(key, missing) {
    const chosen = this.page.selection.tracks;
    const value = chosen[0]?.note?.[key] ?? missing;
    return chosen.every((t) => (t.note?.[key] ?? missing) === value) ? value : missing;
  }
  note(change) {
    return this.shot.act(() => this.shot.post("/tracks", { tracks: [...this.page.selection.ids], ...change }));
  }
  setWeight(event) {
    return this.note({ weight: numberOr(event.target.value) });
  }
  promote() {
    const tracks = [...this.page.selection.ids];
    this.panel = "hands";
    return this.page.hands.deed({ do: "promote", tracks });
  }
  toWorst() {
    const { selection, playback } = this.page;
    if (selection.track?.worst != null) playback.seek(selection.track.worst);
  }
  /** One word for one thing: set aside, bring back. What is set aside is seen to be so at once; where the server
   *  refuses, it comes back. */
  async cull(deed) {
    const { page, shot } = this;
    const foreseen = page.tracks.setAside(deed.aside ?? []);
    if (foreseen.length) page.redraw();
    const done = await shot.act(() => shot.post("/cull", deed));
    if (done || !foreseen.length) return done;
    page.tracks.bringBack(foreseen);
    page.redraw();
    return done;
  }
  setAside() {
    return this.cull({ aside: [...this.page.selection.ids] });
  }
  bringBack() {
    return this.cull({ back: [...this.page.selection.ids] });
  }

  // Findings with tracks.
  seeAll(finding) {
    const { tracks, selection, playback } = this.page;
    this.data.seeing = unwatched(new Set(finding.tracks));
    this.seeing = finding.tracks.length;
    selection.pick(finding.tracks, false);
    const first = tracks.list.find((t) => this.data.seeing.has(t.id));
    if (first && indexAt(first, playback.frame) < 0) playback.seek(first.worst ?? first.frames[0]);
    this.page.redraw();
  }
  /** All are listed again. */
  seeAgain() {
    this.data.seeing = null;
    this.seeing = 0;
    this.page.redraw();
  }
  get seeingText() {
    return `${several(this.seeing, "track")} of a finding`;
  }
  keepAll(finding) {
    return this.cull({ back: finding.tracks });
  }
  dropAll(finding) {
    return this.cull({ aside: finding.tracks });
  }
  /** Another body is the scene: its tracks take part, those of what was the scene do not; solved at once. */
  async takeAsScene(finding) {
    if (await this.cull({ back: finding.tracks, aside: finding.instead_of })) await this.shot.begin("solve");
  }

  // Where features would be placed.
  togglePreview() {
    this.previewing = !this.previewing;
    this.previewShown();
    this.page.redraw();
  }
  get previewText() {
    return `${several(this.previewCount, "feature")} would be placed on this frame`;
  }
  previewShown() {
    const { route, playback, shot } = this.page;
    if (!route.at("track") || this.panel !== "features" || !this.previewing || playback.playing) return null;
    const { track, adjust, mattes } = shot.state;
    const wanted = JSON.stringify([playback.frame, track, adjust, mattes]);
    if (this.data.preview?.wanted !== wanted) this.askPreview(wanted);
    return this.data.preview?.frame === playback.frame ? this.data.preview.places : null;
  }
  async askPreview(wanted) {
    const { data } = this;
    data.preview = { ...data.preview, wanted };
    const answer = await get(`${this.shot.address}/features?frame=${this.page.playback.frame}`).catch((e) => ({ error: e.message }));
    if (data.preview.wanted !== wanted) return;
    if (answer.error) this.shot.refuse(answer.error);
    data.preview = { wanted, frame: answer.frame, places: answer.places ?? [] };
    this.previewCount = answer.count ?? 0;
    this.page.redraw();
  }

  // The picture held still.
  toggleHold() {
    this.holding = !this.holding;
    this.data.hold = null;
    this.page.redraw();
  }
  holdShown() {
    const { selection, playback } = this.page;
    const track = this.holding ? selection.track : null;
    const k = track ? indexAt(track, playback.frame) : -1;
    if (k < 0) return null;
    const { hold } = this.data;
    this.data.hold = { ...(hold?.id === track.id ? hold : {}), id: track.id, px: [track.xy[2 * k], track.xy[2 * k + 1]] };
    return this.data.hold;
  }

  // Files.
  link(kind) {
    return `${this.shot.address}/tracks.${kind}`;
  }
  async importFile(event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (file) await this.importAs(file, "");
  }
  /** `same` says what becomes of tracks that have the names of some that there are; asked for where there are any. */
  async importAs(file, same) {
    this.importSaid = "";
    this.same = null;
    try {
      const answer = await send(`${this.shot.address}/tracks/import${same ? `?same=${same}` : ""}`, file);
      this.importSaid = answer.said;
      await this.shot.refresh();
    } catch (e) {
      if (!e.body?.same) return this.shot.refuse(e.message);
      this.importing = unwatched({ file });
      this.same = e.message;
    }
  }
  answerSame(same) {
    if (same) return this.importAs(this.importing.file, same);
    this.same = null;
  }
}
