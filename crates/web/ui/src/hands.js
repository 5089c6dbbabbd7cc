// Hand tracks at the Track station: which one is chosen, what is done with it, its patch beside the
// one that it is followed by.
import { get, post } from "./api.js";
import { HandTool } from "./hand-tool.js";
import { indexAt } from "./track-layers.js";
import { unwatched } from "./unwatched.js";

const NUDGE_PX = 0.1;

export const hands = {
  chosenHand: 0,
  placing: false,
  handName: "",
  compared: null,
  placed: null,

  beginHands() {
    this.handTool = unwatched(new HandTool(this.handHost()));
  },
  handHost() {
    const page = this;
    const track = (id) => page.data.tracks.find((t) => t.id === id);
    const on = (id) => {
      const found = track(id);
      const k = found ? indexAt(found, page.frame) : -1;
      return k < 0 ? null : { id, px: [found.xy[2 * k], found.xy[2 * k + 1]] };
    };
    return {
      all: () => page.s.state.hands.map((h) => on(h.id)).filter(Boolean),
      on,
      chosen: () => page.hand,
      placing: () => page.placing,
      nudged: () => page.nudgedTo ?? null,
      choose: (id) => page.chooseHand(id ?? 0),
      picture: () => page.frames.at(page.frame) ?? page.lastPicture,
      loupe: (shown) => (page.loupeShown = shown),
      placed: (px) => page.placeHand(px),
      keyed: (id, px) => page.handDeed({ do: "key", hand: id, frame: page.frame, px }),
      shaped: ({ id, kind }, half) => {
        const odd = 2 * Math.round((2 * Math.max(...half) - 1) / 2) + 1;
        const shape = kind === "pattern" ? { pattern_px: Math.min(61, Math.max(9, odd)) } : { reach_px: half.map((v) => Math.min(1000, Math.max(1, Math.round(v)))) };
        return page.handDeed({ do: "shape", hand: id, ...shape });
      },
    };
  },

  get hand() {
    return this.s.state.hands.find((h) => h.id === this.chosenHand) ?? null;
  },
  get handRows() {
    return this.s.state.hands.map((h) => {
      const track = this.tracksSeen && this.data.tracks.find((t) => t.id === h.id);
      return { id: h.id, name: h.name, keys: h.keys.length, frames: track ? track.frames.length : h.keys.length, chosen: h.id === this.chosenHand };
    });
  },
  get handKeyed() {
    return this.hand !== null && this.hand.keys.some((k) => k.frame === this.frame);
  },
  get handHint() {
    if (this.placing || !this.s.state.hands.length) return "Click a detail to place a hand track. Alt makes the pointer finer.";
    if (!this.hand) return "Click a marker or a row to choose; click a detail to place another.";
    const found = this.data.tracks.find((t) => t.id === this.chosenHand);
    const seen = this.tracksSeen && found && indexAt(found, this.frame) >= 0;
    if (!seen) return "It is not seen on this frame: click where it is to key it.";
    return this.handKeyed ? "A key lies on this frame. Drag the marker to move it; the corners of the boxes set pattern and reach." : "Drag the marker to correct it here: only what depends on it is followed again.";
  },
  get comparedText() {
    const c = this.compared;
    if (!c) return "";
    const like = c.patches ? c.patches.correlation.toFixed(3) : "–";
    return `correlation ${like} · ±${c.sigma_px.toFixed(3)} px`;
  },
  get referenceText() {
    return this.compared ? `reference, frame ${this.compared.reference_frame}` : "";
  },

  chooseHand(id) {
    this.chosenHand = id;
    this.placing = false;
    this.pick(id ? [id] : [], false);
    this.askCompared();
  },
  togglePlacing() {
    this.placing = !this.placing;
    if (this.placing) this.chooseHand(0), (this.placing = true);
    this.redraw();
  },
  /** One deed; the answer is the shot, with the hand track it was about. */
  async handDeed(deed) {
    let about = null;
    const done = await this.act(async () => {
      const answer = await post(`/api/shots/${this.id}/hands`, deed);
      about = answer.hand;
      return answer;
    });
    if (done && about) this.chooseHand(about);
    this.redraw();
    return done;
  },
  placeHand(px) {
    const name = this.handName.trim() || null;
    this.handName = "";
    return this.handDeed({ do: "place", frame: this.frame, px, name });
  },
  followHand(way) {
    return this.handDeed({ do: "follow", hand: this.chosenHand, frame: this.frame, way });
  },
  endHand() {
    return this.handDeed({ do: "end", hand: this.chosenHand, frame: this.frame });
  },
  beginHand() {
    return this.handDeed({ do: "begin", hand: this.chosenHand, frame: this.frame });
  },
  /** A key where the track is now: the pattern is looked at anew from here. */
  keyHere() {
    const here = this.handHost().on(this.chosenHand);
    if (here) return this.handDeed({ do: "key", hand: this.chosenHand, frame: this.frame, px: here.px });
  },
  removeKey() {
    return this.handDeed({ do: "unkey", hand: this.chosenHand, frame: this.frame });
  },
  async removeHand() {
    const hand = this.chosenHand;
    this.chooseHand(0);
    await this.handDeed({ do: "remove", hand });
  },
  shapeHand(key, event) {
    const value = Number(event.target.value);
    const [x, y] = this.hand.reach_px;
    const shape = { pattern_px: { pattern_px: value }, reach_x: { reach_px: [value, y] }, reach_y: { reach_px: [x, value] }, strictness: { strictness: value } }[key];
    return this.handDeed({ do: "shape", hand: this.chosenHand, ...shape });
  },
  toKey(step) {
    const frames = this.hand.keys.map((k) => k.frame);
    const next = step > 0 ? frames.find((f) => f > this.frame) : frames.filter((f) => f < this.frame).pop();
    if (next !== undefined) this.seek(next);
  },
  /** Alt with arrows moves the chosen hand track a little on this frame; kept when the key is let go. */
  nudgeHand(event) {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    const here = this.handHost().on(this.chosenHand);
    if (!event.altKey || !by || !here) return false;
    const times = event.shiftKey ? 10 : 1;
    const from = this.nudgedTo ?? here.px;
    this.nudgedTo = [0, 1].map((i) => from[i] + by[i] * NUDGE_PX * times);
    this.redraw();
    return true;
  },
  keepHandNudge() {
    if (!this.nudgedTo) return;
    const px = this.nudgedTo;
    this.nudgedTo = null;
    this.handDeed({ do: "key", hand: this.chosenHand, frame: this.frame, px });
  },

  /** Where the chosen track is by the solved camera, and where it should be seen; of several requests the last counts. */
  async askPlaced() {
    const only = ["track", "solve"].includes(this.station) && this.s.state.attempt ? this.chosenTrack : null;
    const asked = `${only ? only.id : 0} ${this.versions.tracks} ${this.versions.world}`;
    if (asked === this.versions.placed) return;
    this.versions.placed = asked;
    const answer = only ? await get(`/api/shots/${this.id}/tracks/${only.id}/place`).catch(() => null) : null;
    if (asked !== this.versions.placed) return;
    this.placed = answer;
    this.redraw();
  },
  get placedText() {
    if (!this.placed) return "";
    return this.placed.text ?? `No place: ${this.placed.none}.`;
  },
  /** Where it should be on this frame: [frame, x, y, standard error]. */
  predictedHere() {
    return this.placed?.path.find(([frame]) => frame === this.frame) ?? null;
  },
  get canKeyPredicted() {
    return this.station === "track" && this.trackPanel === "hands" && Boolean(this.chosenHand) && this.predictedHere() !== null;
  },
  keyPredicted() {
    const [, x, y] = this.predictedHere();
    return this.handDeed({ do: "key", hand: this.chosenHand, frame: this.frame, px: [x, y] });
  },
  markDetail() {
    this.chooseHand(0);
    this.trackPanel = "hands";
    this.go("track");
    this.placing = true;
  },

  /** The patch here beside the reference; of several requests the last counts. */
  async askCompared() {
    this.askPlaced();
    const only = this.station === "track" ? this.chosenTrack : null;
    const id = only && indexAt(only, this.frame) >= 0 ? only.id : 0;
    const asked = `${id} ${this.frame} ${this.versions.tracks}`;
    if (asked === this.versions.compared) return;
    this.versions.compared = asked;
    const answer = id ? await get(`/api/shots/${this.id}/tracks/${id}/look?frame=${this.frame}`).catch(() => null) : null;
    if (asked !== this.versions.compared) return;
    this.compared = answer;
    if (!answer?.patches) return;
    await this.$nextTick();
    this.paintPatch(this.$refs.reference, answer.side, answer.patches.reference);
    this.paintPatch(this.$refs.current, answer.side, answer.patches.current);
  },
  paintPatch(canvas, side, levels) {
    canvas.width = side;
    canvas.height = side;
    const picture = new ImageData(side, side);
    levels.forEach((v, k) => picture.data.set([v, v, v, 255], 4 * k));
    canvas.getContext("2d").putImageData(picture, 0, 0);
  },
};
