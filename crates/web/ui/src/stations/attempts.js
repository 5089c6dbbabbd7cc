// Attempts at the Solve station: which one is current, and another beside it.
import { get } from "../page/api.js";
import { unwatched } from "../page/reactive.js";

const MOVES = { free: "travels", nodal: "turns", locked: "rests" };

export class Attempts {
  constructor(page) {
    Object.assign(this, { page, beside: null });
    this.data = unwatched({ saidOf: null });
  }
  get shot() {
    return this.page.shot;
  }
  get rows() {
    return this.shot.attempts.map((a) => ({ ...a, px: `${a.rms_px.toFixed(2)} px`, current: a.id === this.shot.state.attempt, beside: a.id === this.beside?.id }));
  }
  take(id) {
    return this.shot.act(() => this.shot.post(`/attempts/${id}`));
  }
  async lay(id) {
    const laid = this.beside?.id === id ? null : await get(`${this.shot.address}/attempts/${id}`).catch((e) => (this.shot.refuse(e.message), null));
    this.beside = laid && unwatched(laid);
    this.draw();
  }
  follow() {
    const { solve } = this.page;
    // It was said of the attempt before.
    if (this.data.saidOf !== this.shot.state.attempt) [solve.limitSaid, solve.smoothSaid] = ["", ""];
    this.data.saidOf = this.shot.state.attempt;
    if (this.beside?.id === this.shot.state.attempt) this.beside = null;
    this.draw();
  }
  draw() {
    this.page.spaceView?.lay(this.beside?.path ?? null);
    this.page.strip?.draw();
  }
  /** The current one goes beside the other. */
  async swap() {
    const now = this.shot.state.attempt;
    const taken = this.beside.id;
    this.beside = null;
    if (await this.take(taken)) await this.lay(now);
  }
  get compared() {
    if (!this.beside || !this.shot.solve) return [];
    const [now, then] = [this.shot.solve, this.beside.figures];
    const row = (key, of) => ({ key, now: of(now), then: of(then) });
    return [
      row("residual", (f) => `${f.rms_px.toFixed(3)} px`), row("landmarks", (f) => f.landmarks), row("frames", (f) => f.frames),
      row("focal", (f) => f.focal_text), row("move", (f) => MOVES[f.move]), row("verdict", (f) => (f.verdict === "good" ? "good" : "needs a look")),
    ];
  }
  get differsText() {
    const differs = this.beside?.differs ?? [];
    return differs.length ? `Other settings: ${differs.join(", ")}.` : "Both were solved from the same settings.";
  }
}
