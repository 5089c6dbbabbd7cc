// One shot: holds what the interface shows, asks the server for everything that is computed.
import { get, post } from "./api.js";
import { adjusting } from "./adjusting.js";
import { edits } from "./edits.js";
import { hands } from "./hands.js";
import { mattes } from "./mattes.js";
import { groupTints } from "./track-layers.js";
import { tracking } from "./tracking.js";
import { unwatched } from "./unwatched.js";
import { Frames } from "./frames.js";
import { lens } from "./lens.js";
import { PlateView } from "./plate-view.js";
import { player } from "./player.js";
import { numberOr, solving } from "./solving.js";
import { Strip } from "./strip.js";
import { workRow } from "./working.js";

const POLL_MS = 350;
const OVERLAY_FRAMES = 24;

/** What is drawn over the plate at each station. */
const SHOWN = {
  plate: {}, lens: {}, track: { tracks: true }, solve: { tracks: true },
  orient: { landmarks: true, grid: true }, proof: { landmarks: true, grid: true, boxes: true }, deliver: { boxes: true, grid: true },
};

/** Takes in members with their getters, which spreading would read. */
const joined = (...parts) => parts.reduce((all, part) => Object.defineProperties(all, Object.getOwnPropertyDescriptors(part)), {});

export const shot = () => joined(lens, adjusting, tracking, hands, mattes, solving, {
  ready: false,
  s: null,
  station: "plate",
  frame: 0,
  playing: false,
  loop: true,
  rateShown: 0,
  error: "",
  help: false,
  showAside: false,
  spaceMode: "third",
  selectedCount: 0,
  selectionSeen: 0,
  cachedCount: 0,
  metres: "",
  curve: "residual",
  box: { w: "0.5", h: "0.5", d: "0.5", name: "box" },
  ...edits,
  ...player,

  async init() {
    this.id = Number(this.$root.dataset.shot);
    this.data = unwatched({ tracks: [], world: { cameras: [], points: [] }, overlay: new Map(), selected: new Set(), tints: new Map() });
    this.versions = {};
    this.beginLens();
    this.beginHands();
    this.beginMattes();
    // Most of what scripts weigh is the view of space, which no other page needs.
    const loading = import("./space-view.js").catch(() => null);
    this.s = await get(`/api/shots/${this.id}`);
    const kept = location.hash.slice(1);
    this.station = SHOWN[kept] ? kept : "plate";
    this.frame = this.first;
    // Until there is a world to see, the plate has all the room.
    if (!this.s.solve) this.spaceMode = "off";
    this.beginSolving();
    this.ready = true;
    await this.$nextTick();
    this.frames = unwatched(new Frames(this.id, this.s.width, this.s.height, Number(this.memory) * 1e6, (f) => this.arrived(f)));
    this.plateView = unwatched(new PlateView(this.$refs.plate, this.$refs.loupe, this.s.width, this.s.height, () => this.drawn(), (ids, adding) => this.pick(ids, adding)));
    this.strip = unwatched(new Strip(this.$refs.strip, () => this.stripData(), { seek: (f) => this.seek(f), setRange: (a, b) => this.keepRange(a, b), pick: (ids, adding) => this.pick(ids, adding) }));
    const space = await loading;
    try {
      this.spaceView = unwatched(new space.SpaceView(this.$refs.space, (ids, adding) => this.pick(ids, adding)));
    } catch {
      this.spaceMode = "off";
    }
    window.addEventListener("keydown", (e) => this.key(e));
    window.addEventListener("keyup", () => (this.keepNudge(), this.keepHandNudge()));
    window.addEventListener("blur", () => this.keepNudge());
    await this.follow(this.s);
    this.frames.fill(this.first, this.last);
  },

  get first() {
    return this.s.state.range ? this.s.state.range[0] : this.s.plate.first;
  },
  get last() {
    return this.s.state.range ? this.s.state.range[1] : this.s.plate.last;
  },
  get findings() {
    if (this.station === "lens") return this.lensLive?.findings ?? [];
    return this.s.findings.filter((f) => f.station === this.station);
  },
  get work() {
    return this.s.jobs.filter((j) => j.state === "queued" || j.state === "running").map(workRow);
  },
  get busy() {
    return this.work.length > 0;
  },
  get lastJob() {
    const kinds = { plate: ["ingest"], track: ["track", "hand", "judge"], solve: ["solve", "solve_again"], deliver: ["deliver", "deliver_stale", "undistort"] }[this.station] ?? [];
    const job = this.s.jobs.find((j) => kinds.includes(j.kind));
    return job && ["failed", "cancelled", "done"].includes(job.state) ? job : null;
  },
  get attempts() {
    return this.s.attempts.map((a) => ({ ...a, px: `${a.rms_px.toFixed(2)} px`, current: a.id === this.s.state.attempt }));
  },

  /** Takes a new view of the shot and fetches what it changed. */
  async follow(next) {
    this.s = next;
    this.followLens();
    this.lookAnew();
    const { run, attempt, culled, kept_movers, picks, stand_ins, grid_m, hands, notes, range, film_back } = next.state;
    const drawn = next.state.mattes.filter((m) => m.source.kind === "drawn");
    // Legs of hand tracks arrive, and suspects change, when their work ends.
    const ended = next.jobs.find((j) => (j.kind === "hand" || j.kind === "judge") && j.state === "done");
    const world = JSON.stringify([attempt, picks, stand_ins, grid_m, film_back]);
    const tracks = JSON.stringify([run, attempt, culled, kept_movers, hands, notes, drawn, range, ended?.id]);
    if (this.versions.tracks !== tracks) {
      this.versions.tracks = tracks;
      this.data.tracks = (await get(`/api/shots/${this.id}/tracks`)).tracks;
      this.data.tints = groupTints(this.data.tracks);
      this.tracksSeen += 1;
      this.askCompared();
    }
    if (this.versions.world !== world) {
      this.versions.world = world;
      // What was drawn stays until the new drawing is here.
      this.data.before = this.data.overlay;
      this.data.overlay = new Map();
      [this.data.world, this.data.curves] = await Promise.all([get(`/api/shots/${this.id}/world`), get(`/api/shots/${this.id}/curves`)]);
      if (this.data.world.points.length && !this.hadWorld && this.spaceView) this.spaceMode = "third";
      this.hadWorld = this.data.world.points.length > 0;
      this.spaceView?.show(this.data.world, this.frame, this.data.selected);
      this.askPlaced();
      this.drawBeside();
      this.askMisses();
      this.askEllipsoids();
    }
    this.redraw();
    if (this.work.length && !this.polling) this.poll();
  },

  async poll() {
    this.polling = true;
    while (this.work.length) {
      await new Promise((done) => setTimeout(done, POLL_MS));
      try {
        await this.refresh();
      } catch {
        // The server may be restarting; the work goes on when it is back.
      }
    }
    this.polling = false;
  },

  cancel(job) {
    return this.act(() => post(`/api/jobs/${job}/cancel`));
  },

  // Facts and controls. What does not parse is refused by the server with a sentence.
  setRate(event) {
    const text = event.target.value.trim();
    return this.edit("state the rate", { rate: text === "" || text === "unknown" ? null : text });
  },
  setRange(event) {
    const [a, b] = event.target.value.split(/[–-]/).map((t) => Number.parseInt(t, 10));
    return this.edit("set in and out", { range: Number.isFinite(a) && Number.isFinite(b) ? [a, b] : null });
  },
  keepRange(a, b) {
    const whole = a === this.s.plate.first && b === this.s.plate.last;
    return this.edit("set in and out", { range: whole ? null : [a, b] });
  },
  setFirstDelivered(event) {
    const text = event.target.value.trim();
    return this.edit("number the delivery", { first_delivered: text === "" ? null : Number(text) });
  },
  setIn() {
    return this.keepRange(Math.min(this.frame, this.last), this.last);
  },
  setOut() {
    return this.keepRange(this.first, Math.max(this.frame, this.first));
  },
  setNumber(section, key, event) {
    const value = Number(event.target.value);
    return this.edit(`set ${key.replaceAll("_", " ")}`, section ? { [section]: { [key]: value } } : { [key]: value });
  },
  setLimit(event) {
    this.limitSaid = "";
    // What is no number is refused by the server with a sentence.
    return this.edit("set the limit", { limit_px: numberOr(event.target.value.replace(/ *px$/, "")) });
  },
  setReadout(event) {
    return this.edit("state the read-out time", { readout_ms: numberOr(event.target.value.replace(/ *ms$/, "")) });
  },
  toggle(key) {
    return this.edit(`switch ${key.replaceAll("_", " ")}`, { [key]: !this.s.state[key] });
  },
  chooseAttempt(id) {
    return this.act(() => post(`/api/shots/${this.id}/attempts/${id}`));
  },

  // Selection, shared by all views.
  pick(ids, adding) {
    const chosen = this.data.selected;
    if (!adding) chosen.clear();
    for (const id of ids) {
      if (adding && chosen.has(id) && ids.length === 1) chosen.delete(id);
      else chosen.add(id);
    }
    this.selectedCount = chosen.size;
    this.selectionSeen += 1;
    this.askCompared();
    if (this.hadWorld) this.spaceView?.show(this.data.world, this.frame, chosen);
    this.redraw();
  },
  get selectedNames() {
    const named = (id) => this.data.tracks.find((t) => t.id === id)?.name ?? `t${String(id).padStart(4, "0")}`;
    return this.selectedCount === 0 || !this.selectionSeen ? "nothing selected" : [...this.data.selected].slice(0, 4).map(named).join(", ") + (this.selectedCount > 4 ? ` and ${this.selectedCount - 4} more` : "");
  },
  setAside() {
    return this.act(() => post(`/api/shots/${this.id}/cull`, { aside: [...this.data.selected] }));
  },
  bringBack() {
    return this.act(() => post(`/api/shots/${this.id}/cull`, { back: [...this.data.selected] }));
  },
  toggleAside() {
    this.showAside = !this.showAside;
    this.redraw();
  },

  // Orient and proof.
  makeGround() {
    return this.edit("make the ground", { picks: { ground: [...this.data.selected] } });
  },
  makeOrigin() {
    return this.edit("set the origin", { picks: { origin: [...this.data.selected][0] } });
  },
  makeDistance() {
    const [a, b] = [...this.data.selected];
    return this.edit("state a distance", { picks: { distance: [a, b, Number.parseFloat(this.metres)] } });
  },
  startOverOrienting() {
    return this.edit("clear the orientation", { picks: { ground: [], origin: null, distance: null } });
  },
  standBox() {
    const at = [...this.data.selected][0];
    const size_m = [this.box.w, this.box.h, this.box.d].map(Number.parseFloat);
    const box = { name: this.box.name || "box", at, size_m, turn_deg: 0 };
    return this.edit("stand a box", {}, { stand_ins: { add: [box] } });
  },
  removeBox(id) {
    return this.edit("remove a box", {}, { stand_ins: { remove: [id] } });
  },

  // Drawing.
  drawn() {
    return {
      picture: this.frames?.at(this.frame) ?? this.lastPicture,
      frame: this.frame, tracks: this.data.tracks, selected: this.data.selected,
      overlay: this.overlayAt(this.frame), show: { ...SHOWN[this.station], aside: this.showAside, lensGrid: this.lensGrid },
      bend: this.bendShown, predicted: ["track", "solve"].includes(this.station) ? this.placed?.path : null, lens: this.marking.answer, tool: { lens: this.tool, track: this.trackTool }[this.station] ?? null,
      playing: this.playing, tints: this.data.tints, looping: this.looping, preview: this.previewShown(), mask: this.maskShown(), hold: this.holdShown(),
    };
  },
  overlayAt(frame) {
    if (!this.s.state.attempt) return null;
    const found = this.data.overlay.get(frame);
    if (found === undefined) this.askOverlay(frame);
    return found === undefined ? this.data.before?.get(frame) : found;
  },
  async askOverlay(frame) {
    const version = this.versions.world;
    if (this.asking === version + frame) return;
    this.asking = version + frame;
    const answer = await get(`/api/shots/${this.id}/overlay?from=${frame}&to=${frame + OVERLAY_FRAMES}`).catch(() => ({}));
    if (version !== this.versions.world) return;
    for (let f = frame; f <= frame + OVERLAY_FRAMES; f++) this.data.overlay.set(f, answer[f] ?? null);
    this.redraw();
  },
  chooseCurve(event) {
    this.curve = event.target.value;
    this.strip.draw();
  },
  stripData() {
    return {
      first: this.s.plate.first, last: this.s.plate.last, from: this.first, to: this.last, frame: this.frame, cached: (f) => this.frames?.has(f),
      tracks: this.sorted(), cameras: this.data.world.cameras, selected: this.data.selected, keys: this.hand?.keys.map((k) => k.frame) ?? [],
      version: `${this.data.listed?.wanted} ${this.s.plate.first} ${this.s.plate.last}`,
      curve: this.curve, curves: this.data.curves, beside: this.beside?.curves ?? null, unit: this.s.facts.unit === "metre" ? "m" : "units",
      chart: ["solve", "orient", "proof", "deliver"].includes(this.station) ? "px" : "lifelines",
    };
  },
  arrived(frame) {
    this.cachedCount = this.frames.pictures.size;
    if (frame === this.frame) this.redraw();
    else this.strip.draw();
  },
  redraw() {
    if (!this.plateView) return;
    this.plateView.draw();
    this.strip.draw();
  },
  fit() {
    this.plateView.viewport.fit();
    this.redraw();
  },
  oneToOne() {
    this.plateView.viewport.oneToOne();
    this.redraw();
  },
  async swapSpace() {
    this.spaceMode = { off: "third", third: "whole", whole: "off" }[this.spaceMode];
  },
  look(name) {
    this.spaceView?.look(name);
  },
});
