// The picture as it is looked at and as it is followed: exposure, contrast, gamma, channels,
// noise. The server makes the pictures; here they are asked for.
const NUMBERS = { exposure_stops: "exposure", contrast: "contrast", gamma: "gamma" };
const MIXES = {
  luma: [0.2126, 0.7152, 0.0722], red: [1, 0, 0], green: [0, 1, 0], blue: [0, 0, 1],
};
const same = (a, b) => a.every((v, k) => Math.abs(v - b[k]) < 1e-9);

export const adjusting = {
  showAdjusted: false,
  stops: "0",
  memory: localStorage.getItem("memory") || "420",
  mixes: [{ key: "luma", name: "all" }, { key: "red", name: "R" }, { key: "green", name: "G" }, { key: "blue", name: "B" }],

  get codingText() {
    const c = this.s.plate.coding;
    return c ? `${c.is_float ? "float" : `${c.bits} bits`}${c.has_alpha ? ", with alpha" : ""}` : "–";
  },
  /** What is asked of the server beside the frame. */
  get lookQuery() {
    if (this.showAdjusted) return `?adjust=${encodeURIComponent(JSON.stringify(this.s.state.adjust))}`;
    const stops = Number.parseFloat(this.stops);
    return Number.isFinite(stops) && stops !== 0 ? `?stops=${stops}` : "";
  },
  /** Looks anew when what is asked for has changed. */
  lookAnew() {
    if (!this.frames || !this.frames.look(this.lookQuery)) return;
    this.redraw();
    this.frames.fill(this.first, this.last);
  },
  toggleAdjusted() {
    this.showAdjusted = !this.showAdjusted;
    this.lookAnew();
  },
  setStops(event) {
    this.stops = event.target.value.trim() || "0";
    this.lookAnew();
  },
  setMemory(event) {
    const wanted = Math.round(Number.parseFloat(event.target.value));
    this.memory = String(Math.min(8000, Math.max(50, Number.isFinite(wanted) ? wanted : 420)));
    localStorage.setItem("memory", this.memory);
    this.frames.budget(Number(this.memory) * 1e6);
    this.frames.fill(this.first, this.last);
  },
  setAdjust(key, event) {
    this.showAdjusted = true;
    return this.edit(`set ${NUMBERS[key]} for following`, { adjust: { [key]: Number(event.target.value) } });
  },
  setMix(key) {
    this.showAdjusted = true;
    return this.edit("mix the channels for following", { adjust: { mix: MIXES[key] } });
  },
  isMix(key) {
    return same(this.s.state.adjust.mix, MIXES[key]);
  },
  toggleDenoise() {
    this.showAdjusted = true;
    return this.edit("switch smoothing for following", { adjust: { denoise: !this.s.state.adjust.denoise } });
  },
  clearAdjust() {
    return this.edit("follow in the plate as it is", { adjust: { exposure_stops: 0, contrast: 1, gamma: 1, mix: MIXES.luma, denoise: false } });
  },
};
