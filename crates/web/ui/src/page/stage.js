// The stage: plate, space and strip beside each other, and what is drawn on them.
import { get } from "../page/api.js";
import { PlateView } from "../views/plate-view.js";
import { Strip } from "../views/strip.js";
import { bare, unwatched } from "./reactive.js";

/** What is drawn over the plate at each station. */
const SHOWN = {
  plate: {}, lens: {}, track: { tracks: true }, solve: { tracks: true },
  orient: { landmarks: true, grid: true, world: true }, proof: { landmarks: true, grid: true, guests: true }, deliver: { guests: true, grid: true },
};
const OVERLAY_FRAMES = 24;
const CURVES = [["residual", "px per frame"], ["position", "position"], ["rotation", "pan, tilt, roll"], ["focal", "focal length"], ["slip", "expected slip"]];
/** Narrower than this there is no room for space beside the plate. */
const NARROW_PX = 760;

export class Stage {
  constructor(page) {
    Object.assign(this, { page, space: "off", loupe: false, curve: "residual", freehand: false, ellipsoids: false, enlarged: 1, hadWorld: false });
    this.curves = CURVES.map(([key, name]) => ({ key, name }));
    this.data = unwatched({ overlay: new Map(), before: new Map(), curves: null, asking: null, ellipsoids: null, wanted: "", onPlate: "", wish: null, drafting: null, draft: null });
  }

  open(refs) {
    const { page } = this;
    const { shot, selection, playback } = page;
    const picked = (ids, adding) => selection.pick(ids, adding);
    page.plateView = unwatched(new PlateView(refs.plate, refs.loupe, shot.width, shot.height, () => this.scene(), picked));
    const host = { seek: (f) => playback.seek(f), setRange: (a, b) => this.keepRange(a, b), pick: picked };
    page.strip = unwatched(new Strip(refs.strip, () => this.stripScene(), host));
  }
  /** The view of space comes with a library of its own, and may not come at all. */
  async openSpace(loading, refs) {
    const { page } = this;
    try {
      const { SpaceView, GuestsView, Handle } = await loading;
      const picked = (ids, adding) => page.mattes.drawing || page.selection.pick(ids, adding);
      page.spaceView = unwatched(new SpaceView(refs.space, picked));
      page.spaceView.handles = [page.orient.handleHost(), page.guests.handleHost()].map((host) => new Handle(page.spaceView, host));
      // Between the picture and the lines.
      const surface = document.createElement("canvas");
      surface.id = "guests";
      surface.setAttribute("aria-hidden", "true");
      refs.plate.before(surface);
      page.guestsView = unwatched(new GuestsView(surface, () => this.redraw()));
      page.plateView.guests = page.guestsView;
    } catch {
      this.space = "none";
    }
  }

  /** What is chosen on the plate, and how the next is. */
  get spoken() {
    const { route, lens, selection } = this.page;
    const next = "N takes the next, Shift N the one before";
    return route.at("lens") ? `${lens.spoken}. ${next}, M the next mark.` : `${selection.names}. ${next}.`;
  }

  // The solved world, and how it lies on the plate.
  async follow() {
    const { page } = this;
    const { shot } = page;
    const { attempt, statements, constraints, guests, grid_m, film_back } = bare(shot.view).state;
    const wanted = JSON.stringify([attempt, statements, constraints, grid_m, film_back]);
    const { data } = this;
    const onPlate = JSON.stringify([wanted, guests, page.orient.byHand]);
    if (data.onPlate !== onPlate) {
      data.onPlate = onPlate;
      // What was drawn stays until the new drawing is here.
      data.before = data.overlay;
      data.draft = data.draft?.leaving ? null : data.draft && { ...data.draft, leaving: true };
      data.overlay = new Map();
    }
    if (data.wanted === wanted) return;
    data.wanted = wanted;
    const views = Promise.all([get(`${shot.address}/world`), get(`${shot.address}/curves`)]);
    const [world, curves] = await views.catch((error) => {
      // Asked for again when next something is heard.
      if (data.wanted === wanted) data.wanted = "";
      throw error;
    });
    // Another solve was asked for meanwhile: its answer is what stands.
    if (data.wanted !== wanted) return;
    page.world = world;
    page.guestsView?.through(world.cameras);
    data.curves = curves;
    const has = page.world.points.length > 0;
    if (has && !this.hadWorld && this.space === "off" && this.hasRoom) this.space = "third";
    this.hadWorld = has;
    page.spaceView?.show(page.world, page.playback.frame, page.selection.ids);
    this.askEllipsoids();
  }
  get hasRoom() {
    return (document.querySelector(".stage")?.clientWidth ?? 0) > NARROW_PX;
  }
  overlayAt(frame) {
    if (!this.page.shot.state.attempt) return null;
    const { draft } = this.data;
    const found = this.data.overlay.get(frame);
    // What is dragged is shown until what was kept of it is here.
    if (draft?.frame === frame && (!draft.leaving || found === undefined)) return draft.drawn;
    if (found === undefined) this.askOverlay(frame);
    return found === undefined ? this.data.before?.get(frame) : found;
  }
  async askOverlay(frame) {
    const { data, page } = this;
    const { onPlate } = data;
    if (data.asking === onPlate + frame) return;
    data.asking = onPlate + frame;
    const answer = await get(`${page.shot.address}/overlay?from=${frame}&to=${frame + OVERLAY_FRAMES}&handle=${page.orient.byHand}`).catch(() => ({}));
    if (onPlate !== data.onPlate) return;
    for (let f = frame; f <= frame + OVERLAY_FRAMES; f++) data.overlay.set(f, answer[f] ?? null);
    this.redraw();
  }

  /** How the world would lie on the plate after a change by hand that is not kept yet; one answer at a time. */
  draft(change) {
    const { data } = this;
    data.wish = change;
    data.drafting ??= this.askDrafts().finally(() => (data.drafting = null));
  }
  async askDrafts() {
    const { data, page } = this;
    const { frame } = page.playback;
    while (data.wish) {
      const { turn_deg, shift_m, scale } = data.wish;
      data.wish = null;
      const query = `from=${frame}&to=${frame}&handle=true&turn=${turn_deg}&shift=${shift_m}&scale=${scale}`;
      const answer = await get(`${page.shot.address}/overlay?${query}`).catch(() => ({}));
      if (answer[frame]) data.draft = { frame, drawn: answer[frame], leaving: false };
      this.redraw();
    }
  }
  /** Resolves when no answer is under way: one that came after the change is kept would have it twice. */
  async drafted() {
    await this.data.drafting;
  }
  dropDraft() {
    this.data.draft = null;
    this.redraw();
  }

  // Drawing.
  scene() {
    const { route, lens, track, orient, hands, mattes, playback, tracks, selection, shot, guests, proof } = this.page;
    const { station } = route;
    const tool = { lens: lens.tool, track: track.tool, orient: orient.tool, proof: guests.tool }[station] ?? null;
    const still = this.page.movie.stillShown;
    return {
      picture: still ?? playback.picture, frame: playback.frame, guests: still ? null : guests.drawn, guest: guests.chosen, playing: playback.playing,
      tracks: tracks.list, selected: selection.ids, tints: tracks.data.tints, looping: this.freehand,
      overlay: this.overlayAt(playback.frame), show: { ...SHOWN[station], ...(station === "proof" ? { landmarks: guests.showsMarks || selection.count > 0, grid: guests.showsMarks } : {}), aside: track.showAside, lensGrid: lens.grid },
      bend: lens.bendShown, lens: lens.marking.answer, tool,
      predicted: route.at("track", "solve") ? hands.place?.path : null,
      preview: track.previewShown(), mask: mattes.maskShown(), hold: route.at("proof") ? proof.holdShown() : track.holdShown(), unit: shot.facts.unit, slip: this.page.proof.fieldShown(), statement: orient.looked,
    };
  }
  stripScene() {
    const { route, track, hands, playback, shot, selection, tracks, world, attempts, proof, reel } = this.page;
    const { first, last } = shot.plate;
    const listed = track.sorted();
    return {
      first, last, from: playback.first, to: playback.last, frame: playback.frame, cached: (f) => playback.frames?.has(f),
      tracks: listed, cameras: world.cameras, selected: selection.ids, keys: hands.hand?.keys.map((k) => k.frame) ?? [],
      version: `${track.data.wanted} ${first} ${last}`, tints: tracks.data.tints,
      curve: this.curve, curves: this.curve === "slip" ? proof.curves : this.data.curves, beside: this.curve === "slip" ? reel.curves : (attempts.beside?.curves ?? null), unit: shot.facts.unit === "metre" ? "m" : "units",
      chart: route.at("solve", "orient", "proof", "deliver") ? "px" : "lifelines",
    };
  }
  arrived(frame) {
    if (frame === this.page.playback.frame) this.redraw();
    else this.page.strip?.draw();
  }
  redraw() {
    this.page.plateView?.draw();
    this.page.strip?.draw();
  }
  chooseCurve(event) {
    this.curve = event.target.value;
    this.page.strip.draw();
  }
  fit() {
    this.page.plateView.viewport.fit();
    this.redraw();
  }
  oneToOne() {
    this.page.plateView.viewport.oneToOne();
    this.redraw();
  }
  toggleFreehand() {
    this.freehand = !this.freehand;
  }

  // In and out.
  keepRange(a, b) {
    const { plate } = this.page.shot;
    const whole = a === plate.first && b === plate.last;
    return this.page.shot.edit("set in and out", { range: whole ? null : [a, b] });
  }
  setIn() {
    const { playback } = this.page;
    return this.keepRange(Math.min(playback.frame, playback.last), playback.last);
  }
  setOut() {
    const { playback } = this.page;
    return this.keepRange(playback.first, Math.max(playback.frame, playback.first));
  }

  // Space.
  swapSpace() {
    if (this.space !== "none") this.space = { off: "third", third: "whole", whole: "off" }[this.space];
  }
  look(name) {
    this.page.spaceView?.look(name);
  }
  orbit() {
    this.page.spaceView?.about();
  }
  async toggleEllipsoids() {
    this.ellipsoids = !this.ellipsoids;
    await this.askEllipsoids();
  }
  async askEllipsoids() {
    const { data, page } = this;
    const wanted = this.ellipsoids && page.shot.solve ? data.wanted : null;
    if (data.ellipsoids === wanted) return;
    data.ellipsoids = wanted;
    const answer = wanted && (await get(`${page.shot.address}/ellipsoids`).catch(() => null));
    if (data.ellipsoids === wanted) this.enlarged = page.spaceView?.uncertain(answer?.ellipsoids ?? null) ?? 1;
  }
}
