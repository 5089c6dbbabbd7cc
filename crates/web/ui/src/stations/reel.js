// The patch reel at Proof: crops about the selected feature's place side by side, flickered and averaged.
import { post } from "../page/api.js";
import { unwatched } from "../page/reactive.js";

const NOTHING = { said: "", none: "", crops: [] };
/** A crop flickers by after so long, ms. */
const FLICKER_MS = 120;

/** Levels as a picture in a canvas. */
function paint(canvas, side, levels) {
  if (!canvas) return;
  canvas.width = canvas.height = side;
  const ctx = canvas.getContext("2d");
  const image = ctx.createImageData(side, side);
  levels.forEach((l, k) => image.data.set([l, l, l, 255], 4 * k));
  ctx.putImageData(image, 0, 0);
}

export class PatchReel {
  constructor(page) {
    Object.assign(this, { page, answer: unwatched(NOTHING), busy: false, order: "frame", shown: null });
    this.data = unwatched({ wanted: "", timer: 0, at: 0 });
  }
  get canMeasure() {
    return this.page.proof.where !== null && !this.busy;
  }
  get rows() {
    const rows = this.answer.crops.map((c) => ({ frame: c.frame, px: c.px, text: c.px === null ? "–" : c.px.toFixed(2), title: c.slip ? `${c.slip[0].toFixed(2)}, ${c.slip[1].toFixed(2)} px ± ${c.sigma_px.toFixed(2)}` : "Not like the others" }));
    return this.order === "slip" ? rows.sort((a, b) => (b.px ?? -1) - (a.px ?? -1)) : rows;
  }
  /** What was measured at another feature, or in another world, says nothing of this one. */
  follow() {
    const { data } = this;
    if (data.wanted === this.wanted) return;
    data.wanted = "";
    clearInterval(data.timer);
    if (this.answer !== NOTHING) this.answer = unwatched(NOTHING);
  }
  get wanted() {
    const { proof, shot } = this.page;
    return proof.where === null ? "" : `${proof.where} ${shot.state.attempt} ${shot.version}`;
  }
  async measure() {
    const { page } = this;
    const { wanted } = this;
    this.data.wanted = wanted;
    this.busy = true;
    const place = Object.fromEntries([...new URLSearchParams(page.proof.where)].map(([name, value]) => [name, Number(value)]));
    const answer = await post(`${page.shot.address}/reel`, { ...place, frame: page.playback.frame }).catch((e) => ({ ...NOTHING, none: e.message }));
    this.busy = false;
    // What was measured stays said among the findings.
    page.shot.refresh();
    // Something else was chosen meanwhile.
    if (this.data.wanted !== wanted) return;
    this.answer = unwatched({ ...NOTHING, ...answer });
    await page.nextTick();
    this.paintAll();
    this.flicker();
    page.redraw();
  }
  paintAll() {
    const { side, crops, mean } = this.answer;
    if (!crops.length) return;
    paint(document.querySelector("#reel-mean"), side, mean);
    for (const c of crops) paint(document.querySelector(`#reel-${c.frame}`), side, c.levels);
  }
  async sort() {
    await this.page.nextTick();
    this.paintAll();
  }
  flicker() {
    clearInterval(this.data.timer);
    const { crops, side } = this.answer;
    if (!crops.length) return;
    this.data.timer = setInterval(() => {
      if (!this.page.route.at("proof")) return;
      this.data.at = (this.data.at + 1) % crops.length;
      paint(document.querySelector("#reel-flicker"), side, crops[this.data.at].levels);
      this.shown = crops[this.data.at].frame;
    }, FLICKER_MS);
  }
  go(row) {
    this.page.playback.seek(row.frame);
  }
  /** What was measured as a curve beside the forecast. */
  get curves() {
    const alike = this.answer.crops.filter((c) => c.px !== null);
    if (alike.length < 2) return null;
    return { frames: alike.map((c) => c.frame), slip: { values: alike.map((c) => c.px), sigma: [], spikes: [] } };
  }
}
