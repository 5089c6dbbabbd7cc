// The Plate station: how the plate is looked at, how it is adjusted for following, how deliveries are numbered.
import { numberOr } from "../page/numbers.js";

const MIXES = { luma: [0.2126, 0.7152, 0.0722], red: [1, 0, 0], green: [0, 1, 0], blue: [0, 0, 1] };
const NUMBERS = { exposure_stops: "exposure", contrast: "contrast", gamma: "gamma" };
const same = (a, b) => a.every((v, k) => Math.abs(v - b[k]) < 1e-9);

export class Plate {
  constructor(page) {
    Object.assign(this, { page, showAdjusted: false, stops: "0" });
    this.mixes = [{ key: "luma", name: "all" }, { key: "red", name: "R" }, { key: "green", name: "G" }, { key: "blue", name: "B" }];
  }
  get shot() {
    return this.page.shot;
  }
  get codingText() {
    const c = this.shot.plate.coding;
    return c ? `${c.is_float ? "float" : `${c.bits} bits`}${c.has_alpha ? ", with alpha" : ""}` : "–";
  }
  setFirstDelivered(event) {
    return this.shot.edit("number the delivery", { first_delivered: numberOr(event.target.value) });
  }

  /** What is asked of the server beside the frame. */
  get query() {
    if (this.showAdjusted) return `?adjust=${encodeURIComponent(JSON.stringify(this.shot.state.adjust))}`;
    const stops = numberOr(this.stops);
    return Number.isFinite(stops) && stops !== 0 ? `?stops=${stops}` : "";
  }
  /** Looks anew when what is asked for has changed. */
  look() {
    const { playback } = this.page;
    if (!playback.frames?.look(this.query)) return;
    this.page.redraw();
    playback.fill();
  }
  toggleAdjusted() {
    this.showAdjusted = !this.showAdjusted;
    this.look();
  }
  setStops(event) {
    this.stops = event.target.value.trim() || "0";
    this.look();
  }
  setAdjust(key, event) {
    this.showAdjusted = true;
    return this.shot.edit(`set ${NUMBERS[key]} for following`, { adjust: { [key]: numberOr(event.target.value) } });
  }
  setMix(key) {
    this.showAdjusted = true;
    return this.shot.edit("mix the channels for following", { adjust: { mix: MIXES[key] } });
  }
  isMix(key) {
    return same(this.shot.state.adjust.mix, MIXES[key]);
  }
  toggleDenoise() {
    this.showAdjusted = true;
    return this.shot.edit("switch smoothing for following", { adjust: { denoise: !this.shot.state.adjust.denoise } });
  }
  clearAdjust() {
    return this.shot.edit("follow in the plate as it is", { adjust: { exposure_stops: 0, contrast: 1, gamma: 1, mix: MIXES.luma, denoise: false } });
  }
}
