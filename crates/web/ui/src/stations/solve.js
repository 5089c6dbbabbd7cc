// The Solve station: what is known beforehand, what a limit or smoothing would do.
import { get } from "../page/api.js";
import { numberOr, spanOr } from "../page/numbers.js";
import { unwatched } from "../page/reactive.js";

const LIMIT_MS = 250;

export class Solve {
  constructor(page) {
    Object.assign(this, { page, limitSaid: "", smooth: { place: "", turn: "" }, smoothing: false, smoothSaid: "" });
    this.moreTerms = [
      { key: "k3", name: "k3", title: "A third radial term, for strongly bending lenses" },
      { key: "tangential", name: "p1 p2", title: "Tangential terms, for lenses whose parts are not centred" },
      { key: "centre", name: "centre", title: "The centre of the lens, for pictures that were cropped off it" },
    ];
    this.data = unwatched({ timer: 0 });
  }
  open() {
    const { place_mm, turn_deg } = this.shot.state.steady;
    this.smooth = { place: place_mm ?? "", turn: turn_deg ?? "" };
  }
  get shot() {
    return this.page.shot;
  }
  get figures() {
    return this.shot.solve;
  }
  get rmsText() {
    return `${this.figures.rms_px.toFixed(3)} px`;
  }
  toggleTerm(key) {
    return this.shot.edit("choose lens terms", { lens_terms: { [key]: !this.shot.state.lens_terms[key] } });
  }
  setReadout(event) {
    return this.shot.edit("state the read-out time", { readout_ms: numberOr(event.target.value, "ms") });
  }

  // A limit, before it is taken. What is said of it stands below the buttons: it comes and goes while one of them is
  // on its way to be pressed.
  setLimit(event) {
    clearTimeout(this.data.timer);
    this.data.asked = null;
    this.limitSaid = "";
    return this.shot.edit("set the limit", { limit_px: numberOr(event.target.value, "px") });
  }
  askLimit(event) {
    clearTimeout(this.data.timer);
    const px = numberOr(event.target.value, "px");
    this.data.asked = px;
    if (!(px > 0) || !this.figures) return (this.limitSaid = "");
    this.data.timer = setTimeout(async () => {
      const answer = await get(`${this.shot.address}/limit?px=${px}`).catch(() => null);
      if (this.data.asked === px) this.limitSaid = answer ? `Limit ${px} px. ${answer.said}` : "";
    }, LIMIT_MS);
  }

  // Frames from which a solve starts.
  get startFound() {
    return this.figures ? this.figures.started_from.join("–") : "find out";
  }
  get startStated() {
    return this.shot.state.start_from ? this.shot.state.start_from.join("–") : "";
  }
  setStart(event) {
    return this.shot.edit("choose the frames to start from", { start_from: spanOr(event.target.value.replace(/[, ]+/, "–")) });
  }

  // A steadier camera.
  async trySmoothing() {
    const { place, turn } = this.smooth;
    const asked = [["place_mm", numberOr(place, "mm")], ["turn_deg", numberOr(turn, "°")]].filter(([, v]) => v !== null).map((pair) => pair.join("="));
    this.smoothing = true;
    const answer = await get(`${this.shot.address}/smoothing?${asked.join("&")}`).catch((e) => ({ said: e.message }));
    this.smoothSaid = answer.said;
    this.smoothing = false;
  }
  async takeSmoothing() {
    const steady = { place_mm: numberOr(this.smooth.place, "mm"), turn_deg: numberOr(this.smooth.turn, "°") };
    if (await this.shot.edit("smooth the camera", { steady })) await this.shot.begin(this.shot.state.attempt ? "solve_again" : "solve");
  }
}
