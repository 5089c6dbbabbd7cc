// What both pages do to a shot: edits, undo, work, facts. A page that takes these in has
// `id`, `s`, `error`, `follow(view)`, and `refused()` where a refusal has to be drawn.
import { get, post } from "./api.js";
import { bodies } from "./bodies.js";

// What is done to the shot is done one after the other, so that answers come in order.
let turn = Promise.resolve();
let acts = 0;

// `35`, or `35 ± 1` where it is known to one standard error; what is no number is for the server to refuse.
function focalOf(text) {
  const [value, sigma] = text.replace(/,/g, ".").split(/±|\+-|\+\/-/);
  const mm = Number.parseFloat(value);
  return sigma === undefined ? { mm } : { about: { mm, sigma_mm: Number.parseFloat(sigma) } };
}

export const edits = {
  ...bodies,
  act(work) {
    acts += 1;
    turn = turn.then(async () => {
      this.error = "";
      try {
        const next = await work();
        await this.follow(next?.stations ? next : await get(`/api/shots/${this.id}`));
        return true;
      } catch (e) {
        this.error = e.message;
        this.refused?.();
        return false;
      }
    });
    return turn;
  },
  /** Shows the shot as it is now; dropped when something was done meanwhile, whose answer is newer. */
  async refresh() {
    await turn;
    const before = acts;
    const next = await get(`/api/shots/${this.id}`);
    if (before === acts) await this.follow(next);
  },
  /** Changes members, and things of lists by their ids. */
  edit(label, patch, things = {}) {
    // Read when its turn comes: after the edits before it.
    return this.act(() => post(`/api/shots/${this.id}/edits`, { label, patch, things, on: this.s.version }));
  },
  begin(kind) {
    return this.act(() => post(`/api/shots/${this.id}/jobs`, { kind }));
  },
  /** What a finding offers that is done to the shot as a whole. */
  attend(finding) {
    return this.act(() => post(`/api/shots/${this.id}`, finding.deed.body));
  },
  async mend(finding) {
    const { label, edit, things, work } = finding.remedy;
    if ((await this.edit(label.toLowerCase(), edit, things)) && work) await this.begin(work);
  },
  undo() {
    return this.act(() => post(`/api/shots/${this.id}/undo`));
  },
  redo() {
    return this.act(() => post(`/api/shots/${this.id}/redo`));
  },

  // Facts. What does not parse is refused by the server with a sentence.
  setFilmBack(event) {
    const [w, h] = event.target.value.replace(/mm.*/, "").split(/[x×]/).map(Number);
    return this.edit("state the film back", { film_back: { width_mm: w, height_mm: h } });
  },
  setFocal(event) {
    const text = event.target.value.trim();
    const word = ["unknown", "stays", "zooms"].find((w) => text.toLowerCase().startsWith(w.slice(0, 4)));
    return this.edit("state the focal length", { focal: text === "" ? "unknown" : (word ?? focalOf(text)) });
  },
  moveFact() {
    return this.s.state.moves ?? "";
  },
  setMove(event) {
    return this.edit("state the move", { moves: event.target.value || null });
  },
  setReceiver(fact, value) {
    return this.edit("state the receiver's axes", { receiver: { [fact]: value } });
  },
  packageLink() {
    return this.s.state.delivery ? `/api/shots/${this.id}/deliveries/${this.s.state.delivery}` : "#";
  },
  // Two statements that are not one: whether files agree with the solve, whether the camera is good.
  filesSaid() {
    return this.s.receipt.files_agree ? "The files agree with the solve." : "The files differ from the solve. Do not use them.";
  },
  cameraSaid() {
    const camera = this.s.receipt.camera;
    if (!camera) return "Whether the camera is good was not kept with this delivery. Deliver again.";
    return camera.good ? "The camera is good." : `The camera needs a look: ${camera.reasons.join("; ")}.`;
  },
  cameraLevel() {
    return this.s.receipt.camera?.good ? "ok" : "warn";
  },
  assumptionsSaid() {
    const { assumptions } = this.s.receipt;
    return assumptions?.length ? `Assumed: ${assumptions.join("; ")}.` : "";
  },
  staleSaid() {
    const { stale } = this.s.receipt;
    return stale?.length ? `Delivered as stale: ${stale.join("; ")}.` : "";
  },
  lacking() {
    return this.s.receipt.files.flatMap((f) => (f.lacks ?? []).map((lack) => `${f.file} lacks ${lack}.`));
  },
  go(station) {
    this.station = station;
    location.hash = station;
    this.askPlaced?.();
    this.redraw();
  },
  swapTheme() {
    const next = document.documentElement.dataset.theme === "dusk" ? "daybook" : "dusk";
    document.documentElement.dataset.theme = next;
    localStorage.setItem("theme", next);
    this.redraw();
  },
};
