// The facts row. What does not parse goes to the server as it is and is refused there with a sentence.
import { numberOr, spanOr } from "./numbers.js";

/** Rates that are often met: as they are exactly. */
export const RATES = ["24000/1001", "24", "25", "30000/1001", "30", "48", "50", "60000/1001", "60"];
/** Rates as they are often rounded, and what is meant. */
const ROUNDED = { 23.976: "24000/1001", 23.98: "24000/1001", 29.97: "30000/1001", 47.952: "48000/1001", 47.95: "48000/1001", 59.94: "60000/1001", 119.88: "120000/1001" };

/** `35 mm`, or `35 ± 1` where it is known to one standard error; `zooms from 35` where that holds on the first frame. */
export function focalOf(text) {
  const from = text.match(/^zooms\s+from\s+(.*)$/i);
  const parts = (from ? from[1] : text).split(/±|\+-|\+\/-/);
  if (parts.length > 2) return { mm: text };
  const [mm, sigma_mm] = parts.map((part) => numberOr(part, "mm") ?? part);
  if (from) return { zooms_from: sigma_mm === undefined ? { mm } : { mm, sigma_mm } };
  return sigma_mm === undefined ? { mm } : { about: { mm, sigma_mm } };
}

/** `36 x 24 mm`; its sides as numbers, or as the texts that are none. */
export function backOf(text) {
  const sides = text.replace(/,\s*assumed$/, "").split(/[x×]/);
  if (sides.length !== 2) return { width_mm: text, height_mm: text };
  const [width_mm, height_mm] = sides.map((side) => numberOr(side, "mm") ?? side);
  return { width_mm, height_mm };
}

export class Facts {
  constructor(page) {
    Object.assign(this, { page, rates: RATES });
  }
  get shot() {
    return this.page.shot;
  }
  setRate(event) {
    const text = event.target.value.trim().replace(/\s*fps$/i, "");
    if (text === this.shot.facts.rate) return;
    const meant = ROUNDED[text.replace(",", ".")];
    if (meant) {
      this.shot.refuse(`${text} is rounded; rates are kept exactly. ${meant} is what is meant by it.`);
      this.shot.offer = { label: `Take ${meant}`, take: () => this.stateRate(meant) };
      return;
    }
    return this.stateRate(text === "" || text === "unknown" ? null : text);
  }
  stateRate(rate) {
    return this.shot.edit("state the rate", { rate });
  }
  setRange(event) {
    if (event.target.value.trim() !== this.shot.facts.range) return this.shot.edit("set in and out", { range: spanOr(event.target.value) });
  }
  setFilmBack(event) {
    const text = event.target.value.trim();
    if (text !== this.shot.facts.film_back) return this.shot.edit("state the film back", { film_back: text === "" ? null : backOf(text) });
  }
  setFocal(event) {
    const text = event.target.value.trim();
    if (text === event.target.dataset.shown) return;
    const word = ["unknown", "stays", "zooms"].find((w) => w === text.toLowerCase());
    return this.shot.edit("state the focal length", { focal: text === "" ? "unknown" : (word ?? focalOf(text.replace(/, stated$/, ""))) });
  }
  get move() {
    return this.shot.state.moves ?? "";
  }
  setMove(event) {
    return this.shot.edit("state the move", { moves: event.target.value || null });
  }
}
