// One photograph: holds what is laid, asks the server for the camera while it is being dragged.
import { get, post } from "./api.js";
import { edits } from "./edits.js";
import { photoScene } from "./photo-scene.js";
import { PhotoView } from "./photo-view.js";
import { differing } from "./things.js";
import { unwatched } from "./unwatched.js";

const STATIONS = ["plate", "rails", "orient", "proof", "deliver"];
const HINTS = {
  plate: "Photograph",
  rails: "Drag along an edge to lay a rail · Shift lays from an end that is taken · Alt is ten times finer",
  orient: "Drag the origin to the ground; drag along a known length",
  proof: "Pull the box; drag to measure",
  deliver: "Photograph",
};

export const photo = () => ({
  ready: false,
  s: null,
  station: "rails",
  error: "",
  help: false,
  dim: 20,
  axis: "x",
  axes: ["x", "y", "z"],
  lengthAxes: [{ key: "y", name: "Y" }, { key: "x", name: "X" }, { key: "z", name: "Z" }, { key: "ground", name: "ground" }],
  grids: [{ key: "off", name: "none" }, { key: "ground", name: "ground" }, { key: "xy", name: "XY" }, { key: "yz", name: "YZ" }],
  lengthAxis: "y",
  measureAxis: "y",
  metres: "2.04",
  chosen: -1,
  chosenEnd: "",
  settledText: "",
  suggesting: false,
  offered: 0,
  copied: "",
  loupeShown: false,
  live: null,
  ...edits,
  ...photoScene,

  async init() {
    this.id = Number(this.$root.dataset.shot);
    // The draft under the pointer and what the server says of it; drawn, not watched.
    this.now = unwatched({ photo: null, answer: null, offers: [], asking: false, waiting: null });
    await this.follow(await get(`/api/shots/${this.id}`));
    const kept = location.hash.slice(1);
    this.station = STATIONS.includes(kept) ? kept : this.s.state.photo.rails.length ? "rails" : "plate";
    if (this.s.state.photo.known) this.metres = String(this.s.state.photo.known.metres);
    this.ready = true;
    await this.$nextTick();
    this.view = unwatched(new PhotoView(this.$refs.plate, this.$refs.loupe, this.s.width, this.s.height, this.host()));
    window.addEventListener("keydown", (e) => this.key(e));
    window.addEventListener("keyup", () => this.keepNudge());
    window.addEventListener("blur", () => this.keepNudge());
    await this.show();
  },

  /** Takes what the server keeps as what is shown. */
  follow(next) {
    this.s = next;
    this.now.photo = unwatchedCopy(next.state.photo);
    this.now.answer = unwatchedCopy(next.solved);
    this.live = next.solved;
    if (this.chosen >= this.now.photo.rails.length) this.chosen = -1;
    this.redraw();
    if (this.busy && !this.polling) this.poll();
  },
  refused() {
    this.follow(this.s);
  },

  async show() {
    for (let tries = 0; tries < 200; tries++) {
      const response = await fetch(`/api/shots/${this.id}/frames/${this.s.plate.first}`);
      if (response.ok) {
        this.view.picture = await createImageBitmap(await response.blob());
        this.redraw();
        return;
      }
      await new Promise((done) => setTimeout(done, 150));
    }
    this.error = "The photograph cannot be shown. Look at the messages of the server.";
  },

  get f() {
    return this.live?.figures ?? null;
  },
  get placed() {
    return this.live?.placed ?? null;
  },
  get findings() {
    const out = [...this.s.findings];
    const laid = this.s.state.photo.rails.length;
    if (!laid) out.push({ level: "warn", text: "Nothing is laid yet. Drag along edges that run with two axes of the scene, two or more on each, or take what the picture suggests." });
    else if (this.live?.error) out.push({ level: "bad", text: this.live.error });
    if (this.live?.place_error) out.push({ level: "bad", text: this.live.place_error });
    return [...out, ...(this.live?.findings ?? [])];
  },
  get focalFact() {
    const f = this.f;
    return this.s.state.focal === "unknown" && f ? f.focal_text : this.s.facts.focal;
  },
  get worstText() {
    const worst = this.live?.worst ?? 0;
    const rail = this.s.state.photo.rails[worst];
    return rail ? `${worst + 1} of ${rail.axis.toUpperCase()}, ${Math.abs(this.live.miss_px[worst] ?? 0).toFixed(2)} px` : "–";
  },
  get chosenText() {
    const rail = this.s.state.photo.rails[this.chosen];
    const miss = this.live?.miss_px?.[this.chosen];
    return rail ? `Rail ${this.chosen + 1} of ${rail.axis.toUpperCase()}${miss === undefined ? "" : `, ${miss.toFixed(2)} px`}` : "";
  },
  get chosenAxis() {
    return this.s.state.photo.rails[this.chosen]?.axis ?? "";
  },
  get unitName() {
    return this.placed?.scaled ? "m" : "units";
  },
  get measureText() {
    const m = this.placed?.measured;
    if (!m) return "Drag from a foot on the ground.";
    return m.error ?? m.text;
  },
  get hint() {
    return HINTS[this.station];
  },
  get busy() {
    return this.s.jobs.some((j) => j.state === "queued" || j.state === "running");
  },
  get lastJob() {
    const job = this.s.jobs.find((j) => j.kind === "deliver");
    return job && ["failed", "cancelled", "done"].includes(job.state) ? job : null;
  },
  countOf(axis) {
    return String(this.s.state.photo.rails.filter((r) => r.axis === axis).length);
  },
  axisTitle(axis) {
    return `Rails laid from now on run with ${axis.toUpperCase()} (key ${axis.toUpperCase()})`;
  },

  /** Changes what is laid; rails, where they are given, one by one. */
  change(label, { rails, ...photo }) {
    const things = rails ? { "photo.rails": differing(this.s.state.photo.rails, rails) } : {};
    return this.edit(label, { photo }, things);
  },

  /** Asks for the camera of the draft; of several waiting requests only the last is sent. */
  async ask(pull = null) {
    const { now } = this;
    now.waiting = { photo: now.photo, pull };
    if (now.asking) return;
    now.asking = true;
    while (now.waiting) {
      const body = now.waiting;
      now.waiting = null;
      const answer = await post(`/api/shots/${this.id}/photo`, body).catch((e) => ({ error: e.message }));
      // What cannot be solved keeps the last drawing, so that the picture does not jump.
      now.answer = answer.figures ? answer : { ...now.answer, error: answer.error };
      this.live = now.answer;
      this.redraw();
    }
    now.asking = false;
  },

  setGrid(event) {
    return this.edit("set the grid", { grid_m: Number(event.target.value) });
  },
  setMetres() {
    const known = this.s.state.photo.known;
    if (known) return this.change("state a length", { known: { ...known, metres: Number.parseFloat(this.metres) } });
  },
  chooseAxis(axis) {
    this.axis = axis;
  },
  moveChosen(axis) {
    if (this.chosen < 0) return;
    const rails = this.s.state.photo.rails.map((r, i) => (i === this.chosen ? { ...r, axis } : r));
    return this.change(`move a rail to ${axis.toUpperCase()}`, { rails });
  },
  flip(axis) {
    return this.change(`turn ${axis.toUpperCase()} round`, { flips: { [axis]: !this.s.state.photo.flips[axis] } });
  },
  chooseLengthAxis(key) {
    this.lengthAxis = key;
    const known = this.s.state.photo.known;
    if (known) return this.change("state a length", { known: { ...known, axis: key === "ground" ? null : key } });
  },
  chooseMeasureAxis(key) {
    this.measureAxis = key;
    const measure = this.s.state.photo.measure;
    if (measure) return this.change("measure", { measure: { ...measure, axis: key === "ground" ? null : key } });
  },
  toggleBox() {
    const size = (this.placed?.scaled ? 0.5 : (this.placed?.distance ?? 10) * 0.12);
    return this.change("stand a box", { corner_box: this.s.state.photo.corner_box ? null : { at: null, size: [size, size, size] } });
  },
  removeChosen() {
    const rails = this.s.state.photo.rails.filter((_, i) => i !== this.chosen);
    this.chosen = -1;
    return this.change("remove a rail", { rails });
  },
  async settle() {
    const { rails } = this.s.state.photo;
    const index = this.chosen;
    if (!rails[index]) return;
    this.error = "";
    try {
      const { rail, moved_px, rms_px } = await post(`/api/shots/${this.id}/photo/settle`, { rail: rails[index] });
      await this.change("settle a rail", { rails: rails.map((r, i) => (i === index ? { ...r, ...rail } : r)) });
      this.settledText = `Moved by ${moved_px.toFixed(2)} px; the edge is straight to ${rms_px.toFixed(2)} px.`;
    } catch (e) {
      this.error = e.message;
    }
  },
  async suggest() {
    if (this.offered) {
      this.offer([]);
      return;
    }
    this.suggesting = true;
    try {
      const { rails, free_centre, said } = await get(`/api/shots/${this.id}/photo/suggested`);
      this.error = said;
      this.offer(rails);
      this.now.frees = free_centre;
    } catch (e) {
      this.error = e.message;
    }
    this.suggesting = false;
  },
  offer(rails) {
    this.now.offers = rails;
    this.offered = rails.length;
    this.redraw();
  },
  takeAll(axis) {
    const taken = this.now.offers.filter((r) => !axis || r.axis === axis);
    this.offer(this.now.offers.filter((r) => axis && r.axis !== axis));
    if (taken.length) return this.change(`take ${taken.length} rails`, { rails: [...this.s.state.photo.rails, ...taken], ...(this.now.frees && !axis ? { solve_centre: true } : {}) });
  },
  copyFigures() {
    return this.copy("all", [...this.f.rows, ...(this.placed?.rows ?? [])].map((r) => `${r.key} ${r.copy}`).join("\n"));
  },
  async copy(key, text) {
    try {
      await navigator.clipboard.writeText(text);
      this.copied = key;
      setTimeout(() => (this.copied = ""), 1500);
    } catch {
      this.error = `The browser does not let the page copy. The figure is ${text}`;
    }
  },
  boxSide(index) {
    return (this.placed?.box?.size?.[index] ?? 0).toFixed(3);
  },
  setBoxSide(index, event) {
    const box = this.s.state.photo.corner_box;
    const size = box.size.map((v, i) => (i === index ? Number.parseFloat(event.target.value) : v));
    return this.change("size the box", { corner_box: { ...box, size } });
  },
  async poll() {
    this.polling = true;
    while (this.busy) {
      await new Promise((done) => setTimeout(done, 200));
      // While something is under the pointer its drawing stays.
      if (!this.view?.drag) await this.refresh().catch(() => {});
    }
    this.polling = false;
  },
});

/** A plain copy of what Alpine watches. */
const unwatchedCopy = (value) => JSON.parse(JSON.stringify(value ?? null));
