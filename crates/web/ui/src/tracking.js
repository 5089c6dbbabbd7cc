// The Track station: its four panels, what is listed and in which order, what is said of tracks,
// suspects, the preview of features, and the picture held still on a track.
import { get, post, send } from "./api.js";
import { indexAt } from "./track-layers.js";

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

export const tracking = {
  trackPanel: "features",
  trackPanels: [{ key: "features", name: "Features" }, { key: "hands", name: "Hand" }, { key: "mattes", name: "Mattes" }, { key: "tracks", name: "Judge" }],
  looping: false,
  previewing: false,
  previewCount: 0,
  sortBy: "start",
  sorts: SORTS.map(({ key, name }) => ({ key, name })),
  above: "",
  below: "",
  onlySelected: false,
  holding: false,
  tracksSeen: 0,
  importSaid: "",

  goPanel(panel) {
    this.trackPanel = panel;
    this.dropMatte();
    this.redraw();
  },
  /** What takes the pointer at this station. */
  get trackTool() {
    return { hands: this.handTool, mattes: this.matteTool }[this.trackPanel] ?? null;
  },

  // Which lifelines are listed, and in which order.
  sorted() {
    const key = SORTS.find((s) => s.key === this.sortBy);
    const wanted = JSON.stringify([this.sortBy, this.above, this.below, this.onlySelected, this.showAside, this.tracksSeen, this.onlySelected ? [...this.data.selected] : 0]);
    if (this.data.listed?.wanted === wanted) return this.data.listed.tracks;
    const [above, below] = [this.above, this.below].map((t) => (t.trim() === "" ? null : Number.parseFloat(t)));
    const keep = (t) => {
      const value = key.of(t);
      if (this.onlySelected) return this.data.selected.has(t.id);
      if (t.note?.hidden || (t.aside && !this.showAside)) return false;
      return (above === null || (value != null && value > above)) && (below === null || (value != null && value < below));
    };
    const tracks = this.data.tracks.filter(keep);
    // Long lives, and what is worst, on top; births in their order.
    const sign = this.sortBy === "start" ? 1 : -1;
    tracks.sort((a, b) => sign * ((key.of(a) ?? -1e9) - (key.of(b) ?? -1e9)) || a.id - b.id);
    this.data.listed = { wanted, tracks };
    return tracks;
  },
  get listedText() {
    return this.tracksSeen >= 0 ? `${this.sorted().length} listed` : "";
  },
  get sortUnit() {
    return SORTS.find((s) => s.key === this.sortBy).unit;
  },
  setSort(key) {
    this.sortBy = key;
    [this.above, this.below] = ["", ""];
    this.redraw();
  },
  setBound(which, event) {
    this[which] = event.target.value;
    this.redraw();
  },
  selectListed() {
    this.pick(this.sorted().map((t) => t.id), false);
  },
  invertSelection() {
    const chosen = this.data.selected;
    this.pick(this.sorted().filter((t) => !chosen.has(t.id)).map((t) => t.id), false);
  },
  toggleOnlySelected() {
    this.onlySelected = !this.onlySelected;
    this.redraw();
  },

  // One track, or what several have in common.
  get chosenTrack() {
    const chosen = this.selectedTracks;
    return chosen.length === 1 ? chosen[0] : null;
  },
  get chosenFigures() {
    const t = this.chosenTrack;
    if (!t) return [];
    const suspect = t.suspect ? `${WHY[t.suspect.why]}${t.suspect.why === "short" || t.suspect.figure === 0 ? "" : `, ${t.suspect.figure.toFixed(2)} px`}` : "–";
    return [
      ["life", `${t.frames[0]}–${t.frames[t.frames.length - 1]}, ${t.frames.length}`], ["sigma", figure(t.sigma)], ["drift", figure(t.drift)],
      ["jitter", figure(t.jitter)], ["residual", figure(t.rms)], ["suspect", suspect], ["aside", t.aside ? WHY[t.aside] : "no"],
    ].map(([key, value]) => ({ key, value }));
  },
  /** Looked up once for each selection: many fields ask. */
  get selectedTracks() {
    const wanted = `${this.selectionSeen} ${this.tracksSeen}`;
    if (this.data.chosen?.wanted !== wanted) {
      const tracks = this.data.selected.size ? this.data.tracks.filter((t) => this.data.selected.has(t.id)) : [];
      this.data.chosen = { wanted, tracks };
    }
    return this.data.chosen.tracks;
  },
  shared(key, missing) {
    const chosen = this.selectedTracks;
    const value = chosen[0]?.note?.[key] ?? missing;
    return chosen.every((t) => (t.note?.[key] ?? missing) === value) ? value : missing;
  },
  noteTracks(change) {
    return this.act(() => post(`/api/shots/${this.id}/tracks`, { tracks: [...this.data.selected], ...change }));
  },
  promote() {
    const tracks = [...this.data.selected];
    this.trackPanel = "hands";
    return this.handDeed({ do: "promote", tracks });
  },
  toWorst() {
    if (this.chosenTrack?.worst != null) this.seek(this.chosenTrack.worst);
  },

  // Findings with tracks.
  seeAll(finding) {
    this.pick(finding.tracks, false);
    this.onlySelected = true;
    const first = this.data.tracks.find((t) => finding.tracks.includes(t.id));
    if (first && indexAt(first, this.frame) < 0) this.seek(first.worst ?? first.frames[0]);
    this.redraw();
  },
  keepAll(finding) {
    return this.act(() => post(`/api/shots/${this.id}/cull`, { back: finding.tracks }));
  },
  dropAll(finding) {
    return this.act(() => post(`/api/shots/${this.id}/cull`, { aside: finding.tracks }));
  },

  /** Another body is the scene: its tracks take part, those of what was the scene do not; solved at once. */
  async takeAsScene(finding) {
    const taken = await this.act(() => post(`/api/shots/${this.id}/cull`, { back: finding.tracks, aside: finding.instead_of }));
    if (taken) await this.begin("solve");
  },

  // Where features would be placed.
  togglePreview() {
    this.previewing = !this.previewing;
    this.previewShown();
    this.redraw();
  },
  previewShown() {
    if (this.station !== "track" || this.trackPanel !== "features" || !this.previewing || this.playing) return null;
    const wanted = JSON.stringify([this.frame, this.s.state.track, this.s.state.adjust, this.s.state.mattes]);
    if (this.data.preview?.wanted !== wanted) this.askPreview(wanted);
    return this.data.preview?.frame === this.frame ? this.data.preview.places : null;
  },
  async askPreview(wanted) {
    this.data.preview = { ...this.data.preview, wanted };
    const answer = await get(`/api/shots/${this.id}/features?frame=${this.frame}`).catch((e) => ({ error: e.message }));
    if (this.data.preview.wanted !== wanted) return;
    if (answer.error) this.error = answer.error;
    this.data.preview = { wanted, frame: answer.frame, places: answer.places ?? [] };
    this.previewCount = answer.count ?? 0;
    this.redraw();
  },

  // The picture held still.
  toggleHold() {
    this.holding = !this.holding;
    this.data.hold = null;
    this.redraw();
  },
  holdShown() {
    const track = this.holding ? this.chosenTrack : null;
    const k = track ? indexAt(track, this.frame) : -1;
    if (k < 0) return null;
    this.data.hold = { ...(this.data.hold?.id === track.id ? this.data.hold : {}), id: track.id, px: [track.xy[2 * k], track.xy[2 * k + 1]] };
    return this.data.hold;
  },

  // Files.
  tracksLink(kind) {
    return `/api/shots/${this.id}/tracks.${kind}`;
  },
  async importTracks(event) {
    const [file] = event.target.files;
    if (!file) return;
    this.importSaid = "";
    await this.act(async () => {
      this.importSaid = (await send(`/api/shots/${this.id}/tracks/import`, file)).said;
    });
    event.target.value = "";
  },
};
