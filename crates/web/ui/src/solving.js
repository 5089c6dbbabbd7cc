// The Solve station: attempts beside each other, features in a table, what a limit or smoothing would do,
// and points that were measured on the set.
import { get, send } from "./api.js";

/** Rows of the table of features. */
const MOST_ROWS = 60;
const LIMIT_MS = 250;
const WHY = { against: "none", body: "another", limit: "limit", parallel: "no place", culled: "aside", mover: "moves" };

// What stands in a field: a number, nothing, or for the server to refuse.
export function numberOr(text) {
  const plain = String(text ?? "").trim();
  const value = Number(plain.replace(",", "."));
  return plain === "" ? null : Number.isFinite(value) ? value : plain;
}

const ORDERS = {
  rms: (t) => -(t.rms ?? -1),
  here: (t, here) => -(here.get(t.id) ?? -1),
  short: (t) => t.frames.length,
  weight: (t) => -Math.abs(Math.log((t.note?.weight || 1e-6) / 1)),
  aside: (t) => (t.aside ? 0 : 1),
};

export const solving = {
  moreTerms: [
    { key: "k3", name: "k3", title: "A third radial term, for strongly bending lenses" },
    { key: "tangential", name: "p1 p2", title: "Tangential terms, for lenses whose parts are not centred" },
    { key: "centre", name: "centre", title: "The centre of the lens, for pictures that were cropped off it" },
  ],
  limitSaid: "",
  beside: null,
  featureSort: "rms",
  missesSeen: 0,
  smooth: { place: "", turn: "" },
  smoothing: false,
  smoothSaid: "",
  surveyUp: "y",
  point: { name: "", at: "", sigma: "" },

  beginSolving() {
    const { place_mm, turn_deg } = this.s.state.steady;
    this.smooth = { place: place_mm ?? "", turn: turn_deg ?? "" };
  },
  toggleTerm(key) {
    return this.edit("choose lens terms", { lens_terms: { [key]: !this.s.state.lens_terms[key] } });
  },

  // A limit, before it is taken.
  askLimit(event) {
    clearTimeout(this.data.limitTimer);
    const px = numberOr(event.target.value);
    if (!(px > 0) || !this.s.solve) return (this.limitSaid = "");
    this.data.limitTimer = setTimeout(async () => {
      const answer = await get(`/api/shots/${this.id}/limit?px=${px}`).catch(() => null);
      this.limitSaid = answer ? answer.said : "";
    }, LIMIT_MS);
  },

  // Frames from which a solve starts.
  get startFound() {
    return this.s.solve ? this.s.solve.started_from.join("–") : "find out";
  },
  get startStated() {
    return this.s.state.start_from ? this.s.state.start_from.join("–") : "";
  },
  setStart(event) {
    const text = event.target.value.trim();
    const two = text.split(/[–, ]+|(?<=\d)-/).map(Number);
    return this.edit("choose the frames to start from", { start_from: text === "" ? null : two });
  },

  // Two attempts.
  async layBeside(id) {
    this.beside = this.beside?.id === id ? null : await get(`/api/shots/${this.id}/attempts/${id}`).catch((e) => ((this.error = e.message), null));
    this.drawBeside();
  },
  drawBeside() {
    // It was said of the attempt before.
    if (this.data.saidOf !== this.s.state.attempt) [this.limitSaid, this.smoothSaid] = ["", ""];
    this.data.saidOf = this.s.state.attempt;
    if (this.beside?.id === this.s.state.attempt) this.beside = null;
    this.spaceView?.lay(this.beside?.path ?? null);
    this.strip?.draw();
  },
  /** The current one goes beside the other. */
  async swapAttempts() {
    const now = this.s.state.attempt;
    const taken = this.beside.id;
    this.beside = null;
    if (await this.chooseAttempt(taken)) await this.layBeside(now);
  },
  get besideRows() {
    if (!this.beside || !this.s.solve) return [];
    const [now, then] = [this.s.solve, this.beside.figures];
    const row = (key, of) => ({ key, now: of(now), then: of(then) });
    return [
      row("residual", (f) => `${f.rms_px.toFixed(3)} px`), row("landmarks", (f) => f.landmarks), row("frames", (f) => f.frames),
      row("focal", (f) => f.focal_text), row("move", (f) => ({ free: "travels", nodal: "turns", locked: "rests" })[f.move]),
      row("verdict", (f) => (f.verdict === "good" ? "good" : "needs a look")),
    ];
  },
  get besideSaid() {
    const differs = this.beside?.differs ?? [];
    return differs.length ? `Other settings: ${differs.join(", ")}.` : "Both were solved from the same settings.";
  },

  // Features in a table.
  sortFeatures(event) {
    this.featureSort = event.target.value;
    this.askMisses();
  },
  async askMisses() {
    if (this.featureSort !== "here" || this.station !== "solve" || !this.s.solve || this.playing) return;
    const wanted = `${this.frame} ${this.s.state.attempt}`;
    if (this.data.misses?.wanted === wanted) return;
    this.data.misses = { wanted, px: new Map() };
    const answer = await get(`/api/shots/${this.id}/misses?frame=${this.frame}`).catch(() => ({ worst: [] }));
    if (this.data.misses.wanted !== wanted) return;
    this.data.misses.px = new Map(answer.worst);
    this.missesSeen += 1;
  },
  get featureRows() {
    if (this.station !== "solve" || this.tracksSeen + this.missesSeen + this.selectionSeen < 0) return [];
    const here = this.data.misses?.px ?? new Map();
    const order = ORDERS[this.featureSort];
    const listed = this.featureSort === "here" ? this.data.tracks.filter((t) => here.has(t.id)) : this.data.tracks;
    const keyed = listed.map((t) => [order(t, here), t]).sort((a, b) => a[0] - b[0]);
    return keyed.slice(0, MOST_ROWS).map(([, t]) => {
      const px = this.featureSort === "here" ? here.get(t.id) : t.rms;
      return {
        id: t.id, name: t.name || `t${String(t.id).padStart(4, "0")}`, px: px == null ? "–" : px.toFixed(2),
        span: t.frames.length, weight: t.note?.weight ?? 1, body: t.aside ? WHY[t.aside] ?? "aside" : "scene", chosen: this.data.selected.has(t.id),
      };
    });
  },
  get featuresSaid() {
    const all = this.tracksSeen >= 0 ? this.data.tracks.length : 0;
    const shown = this.featureRows.length;
    return shown < all ? `${shown} of ${all} are listed.` : "";
  },

  // How uncertain places are, in space.
  ellipsoidsShown: false,
  enlarged: 1,
  async toggleEllipsoids() {
    this.ellipsoidsShown = !this.ellipsoidsShown;
    await this.askEllipsoids();
  },
  async askEllipsoids() {
    const wanted = this.ellipsoidsShown && this.s.solve ? this.versions.world : null;
    if (this.data.ellipsoids === wanted) return;
    this.data.ellipsoids = wanted;
    const answer = wanted && (await get(`/api/shots/${this.id}/ellipsoids`).catch(() => null));
    if (this.data.ellipsoids === wanted) this.enlarged = this.spaceView?.uncertain(answer?.ellipsoids ?? null) ?? 1;
  },
  orbitSelection() {
    this.spaceView?.about();
  },

  // A steadier camera.
  async trySmoothing() {
    const { place, turn } = this.smooth;
    const asked = [["place_mm", numberOr(place)], ["turn_deg", numberOr(turn)]].filter(([, v]) => v !== null).map((pair) => pair.join("="));
    this.smoothing = true;
    const answer = await get(`/api/shots/${this.id}/smoothing?${asked.join("&")}`).catch((e) => ({ said: e.message }));
    this.smoothSaid = answer.said;
    this.smoothing = false;
  },
  async takeSmoothing() {
    const steady = { place_mm: numberOr(this.smooth.place), turn_deg: numberOr(this.smooth.turn) };
    if (await this.edit("smooth the camera", { steady })) await this.begin(this.s.state.attempt ? "solve_again" : "solve");
  },

  // A survey.
  async importSurvey(event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (file) await this.act(() => send(`/api/shots/${this.id}/survey?up=${this.surveyUp}&on=${this.s.version}`, file));
  },
  async addSurveyed() {
    const { name, at, sigma } = this.point;
    const numbers = at.trim().split(/[\s;]+/).map((c) => (c === "-" || c === "–" ? null : numberOr(c)));
    const metres = numberOr(sigma) === null ? 0.005 : Number(sigma.replace(",", ".")) / 1000;
    const track = this.selectedCount === 1 ? [...this.data.selected][0] : null;
    const added = { name, track, at_m: numbers, sigma_m: [metres, metres, metres] };
    if (await this.edit("add a surveyed point", {}, { survey: { add: [added] } })) this.point = { name: "", at: "", sigma };
  },
  giveSurveyed(id) {
    const { id: _, ...kept } = this.s.state.survey.find((p) => p.id === id);
    return this.edit("match a surveyed point", {}, { survey: { change: [{ id, ...kept, track: [...this.data.selected][0] }] } });
  },
  removeSurveyed(id) {
    return this.edit("remove a surveyed point", {}, { survey: { remove: [id] } });
  },
  surveyOff(point) {
    return point.off_mm ? `X ${point.off_mm[0]}, Y ${point.off_mm[1]}, Z ${point.off_mm[2]} mm` : "";
  },
};
