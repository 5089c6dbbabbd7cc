// Hand tracks at the Track station: which one is chosen, what is done with it, its patch beside the
// one that it is followed by, and where the solved camera says that it should be.
import { get } from "../page/api.js";
import { numberOr } from "../page/numbers.js";
import { unwatched } from "../page/reactive.js";
import { indexAt } from "../layers/tracks.js";
import { HandTool } from "../tools/hand-tool.js";

const NUDGE_PX = 0.1;
const BY = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

export class Hands {
  constructor(page) {
    Object.assign(this, { page, id: 0, placing: false, name: "", compared: null, place: null });
    this.data = unwatched({ nudgedTo: null, askedPlace: "", askedCompared: "" });
  }
  open() {
    this.tool = unwatched(new HandTool(this.host()));
  }
  get shot() {
    return this.page.shot;
  }
  get frame() {
    return this.page.playback.frame;
  }
  /** Where a hand track is on this frame. */
  on(id) {
    const found = this.page.tracks.of(id);
    const k = found ? indexAt(found, this.frame) : -1;
    return k < 0 ? null : { id, px: [found.xy[2 * k], found.xy[2 * k + 1]] };
  }
  host() {
    const { page } = this;
    return {
      all: () => this.shot.state.hands.map((h) => this.on(h.id)).filter(Boolean),
      on: (id) => this.on(id),
      chosen: () => this.hand,
      placing: () => this.placing,
      nudged: () => this.data.nudgedTo,
      choose: (id) => this.choose(id ?? 0),
      picture: () => page.playback.picture,
      loupe: (shown) => (page.stage.loupe = shown),
      placed: (px) => this.placeAt(px),
      keyed: (id, px) => this.deed({ do: "key", hand: id, frame: this.frame, px }),
      shaped: ({ id, kind }, half) => {
        const odd = 2 * Math.round((2 * Math.max(...half) - 1) / 2) + 1;
        const shape = kind === "pattern" ? { pattern_px: Math.min(61, Math.max(9, odd)) } : { reach_px: half.map((v) => Math.min(1000, Math.max(1, Math.round(v)))) };
        return this.deed({ do: "shape", hand: id, ...shape });
      },
    };
  }

  get hand() {
    return this.shot.state.hands.find((h) => h.id === this.id) ?? null;
  }
  get rows() {
    return this.shot.state.hands.map((h) => {
      const track = this.page.tracks.seen && this.page.tracks.of(h.id);
      return { id: h.id, name: h.name, keys: h.keys.length, frames: track ? track.frames.length : h.keys.length, chosen: h.id === this.id };
    });
  }
  get isKeyed() {
    return this.hand !== null && this.hand.keys.some((k) => k.frame === this.frame);
  }
  get canUnkey() {
    return this.isKeyed && this.hand.keys.length > 1;
  }
  get unkeyTitle() {
    return this.isKeyed && !this.canUnkey ? "Its only key: remove the track instead" : "Remove the key on this frame";
  }
  get hint() {
    if (this.placing || !this.shot.state.hands.length) return "Click a detail to place a hand track. Alt makes the pointer finer.";
    if (!this.hand) return "Click a marker or a row to choose; click a detail to place another.";
    const seen = this.page.tracks.seen && this.on(this.id);
    if (!seen) return "It is not seen on this frame: click where it is to key it.";
    return this.isKeyed ? "A key lies on this frame. Drag the marker to move it; the corners of the boxes set pattern and reach." : "Drag the marker to correct it here: only what depends on it is followed again.";
  }

  choose(id) {
    this.id = id;
    this.placing = false;
    this.page.selection.pick(id ? [id] : [], false);
  }
  step(by) {
    const ids = this.shot.state.hands.map((h) => h.id);
    if (ids.length) this.choose(ids[(ids.indexOf(this.id) + by + ids.length) % ids.length] ?? ids[0]);
  }
  togglePlacing() {
    const placing = !this.placing;
    if (placing) this.choose(0);
    this.placing = placing;
    this.page.redraw();
  }
  /** One deed; the answer is the shot, with the hand track it was about. */
  async deed(deed) {
    let about = null;
    const done = await this.shot.act(async () => {
      const answer = await this.shot.post("/hands", deed);
      about = answer.hand;
      return answer;
    });
    if (done && about) this.choose(about);
    this.page.redraw();
    return done;
  }
  placeAt(px) {
    const name = this.name.trim() || null;
    this.name = "";
    return this.deed({ do: "place", frame: this.frame, px, name });
  }
  follow(way) {
    return this.deed({ do: "follow", hand: this.id, frame: this.frame, way });
  }
  end() {
    return this.deed({ do: "end", hand: this.id, frame: this.frame });
  }
  begin() {
    return this.deed({ do: "begin", hand: this.id, frame: this.frame });
  }
  /** A key where the track is now: the pattern is looked at anew from here. */
  keyHere() {
    const here = this.on(this.id);
    if (here) return this.deed({ do: "key", hand: this.id, frame: this.frame, px: here.px });
  }
  unkey() {
    return this.deed({ do: "unkey", hand: this.id, frame: this.frame });
  }
  async remove(id = this.id) {
    this.choose(0);
    await this.deed({ do: "remove", hand: id });
  }
  shape(key, event) {
    const value = numberOr(event.target.value, "px");
    const [x, y] = this.hand.reach_px;
    const shape = { pattern_px: { pattern_px: value }, reach_x: { reach_px: [value, y] }, reach_y: { reach_px: [x, value] }, strictness: { strictness: value } }[key];
    return this.deed({ do: "shape", hand: this.id, ...shape });
  }
  toKey(step) {
    const frames = this.hand.keys.map((k) => k.frame);
    const next = step > 0 ? frames.find((f) => f > this.frame) : frames.filter((f) => f < this.frame).pop();
    if (next !== undefined) this.page.playback.seek(next);
  }
  /** Alt with arrows moves the chosen hand track a little on this frame; kept when the key is let go. */
  nudge(event) {
    const by = BY[event.key];
    const here = this.on(this.id);
    if (!event.altKey || !by || !here) return false;
    const times = event.shiftKey ? 10 : 1;
    const from = this.data.nudgedTo ?? here.px;
    this.data.nudgedTo = [0, 1].map((i) => from[i] + by[i] * NUDGE_PX * times);
    this.page.redraw();
    return true;
  }
  keepNudge() {
    const px = this.data.nudgedTo;
    if (!px) return;
    this.data.nudgedTo = null;
    this.deed({ do: "key", hand: this.id, frame: this.frame, px });
  }

  /** Where the chosen track is by the solved camera, and where it should be seen; of several requests the last counts. */
  async askPlace() {
    const { page, data } = this;
    const only = page.route.at("track", "solve") && this.shot.state.attempt ? page.selection.track : null;
    const asked = `${only ? only.id : 0} ${page.tracks.seen} ${page.stage.data.wanted}`;
    if (asked === data.askedPlace) return;
    data.askedPlace = asked;
    const answer = only ? await get(`${this.shot.address}/tracks/${only.id}/place`).catch(() => null) : null;
    if (asked !== data.askedPlace) return;
    this.place = answer && unwatched(answer);
    page.redraw();
  }
  get placeText() {
    if (!this.place) return "";
    return this.place.text ?? `No place: ${this.place.none}.`;
  }
  /** Where it should be on this frame: [frame, x, y, standard error]. */
  predictedHere() {
    return this.place?.path.find(([frame]) => frame === this.frame) ?? null;
  }
  get canKeyPredicted() {
    return this.page.route.at("track") && this.page.track.panel === "hands" && Boolean(this.id) && this.predictedHere() !== null;
  }
  keyPredicted() {
    const [, x, y] = this.predictedHere();
    return this.deed({ do: "key", hand: this.id, frame: this.frame, px: [x, y] });
  }
  /** The hand track that is selected, chosen at this station or not. */
  get selected() {
    const { track } = this.page.selection;
    return (track && this.shot.state.hands.find((h) => h.id === track.id)) ?? null;
  }
  get canGuide() {
    return this.page.route.at("track", "solve") && this.selected !== null && Boolean(this.place?.path.length);
  }
  get isGuided() {
    return Boolean(this.selected?.guide);
  }
  guide() {
    return this.deed({ do: "guide", hand: this.selected.id });
  }
  markDetail() {
    this.choose(0);
    this.page.track.panel = "hands";
    this.page.route.go("track");
    this.placing = true;
  }

  // The patch here beside the reference.
  get comparedText() {
    const c = this.compared;
    if (!c) return "";
    const like = c.patches ? c.patches.correlation.toFixed(3) : "–";
    return `correlation ${like} · ±${c.sigma_px.toFixed(3)} px`;
  }
  get referenceText() {
    return this.compared ? `reference, frame ${this.compared.reference_frame}` : "";
  }
  /** Of several requests the last counts. */
  async askCompared() {
    const { page, data } = this;
    const only = page.route.at("track") ? page.selection.track : null;
    const id = only && indexAt(only, this.frame) >= 0 ? only.id : 0;
    const asked = `${id} ${this.frame} ${page.tracks.seen}`;
    if (asked === data.askedCompared) return;
    data.askedCompared = asked;
    const answer = id ? await get(`${this.shot.address}/tracks/${id}/look?frame=${this.frame}`).catch(() => null) : null;
    if (asked !== data.askedCompared) return;
    this.compared = answer;
    if (!answer?.patches) return;
    await page.nextTick();
    for (const which of ["reference", "current"]) paintPatch(document.querySelector(`#${which}`), answer.side, answer.patches[which]);
  }
}

function paintPatch(canvas, side, levels) {
  if (!canvas) return;
  canvas.width = side;
  canvas.height = side;
  const picture = new ImageData(side, side);
  levels.forEach((v, k) => picture.data.set([v, v, v, 255], 4 * k));
  canvas.getContext("2d").putImageData(picture, 0, 0);
}
