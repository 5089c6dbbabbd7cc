// What is laid on a photograph, kept or under the pointer, and what the server says of it.
import { post } from "../page/api.js";
import { plain, unwatched } from "../page/reactive.js";
import { differing } from "../page/things.js";

export class Laid {
  constructor(page) {
    Object.assign(this, { page, live: null });
    // The draft under the pointer and what is said of it; drawn, not watched.
    this.now = unwatched({ photo: null, answer: null, asking: false, waiting: null });
  }
  get shot() {
    return this.page.shot;
  }
  get kept() {
    return this.shot.state.photo;
  }
  get figures() {
    return this.live?.figures ?? null;
  }
  get placed() {
    return this.live?.placed ?? null;
  }
  get unit() {
    return this.placed?.scaled ? "m" : "units";
  }

  /** Takes what the server keeps as what is shown. */
  follow() {
    this.now.photo = plain(this.kept);
    this.now.answer = plain(this.shot.solved);
    this.live = this.shot.solved;
  }

  /** Changes what is laid; rails, where they are given, one by one. */
  change(label, { rails, ...photo }) {
    const things = rails ? { "photo.rails": differing(this.kept.rails, rails) } : {};
    return this.shot.edit(label, { photo }, things);
  }

  /** Asks for the camera of the draft; of several waiting requests only the last is sent. */
  async ask(pull = null) {
    const { now } = this;
    now.waiting = { photo: now.photo, pull };
    if (now.asking) return;
    now.asking = true;
    while (now.waiting) {
      const body = now.waiting;
      now.waiting = null;
      const answer = await post(`${this.shot.address}/photo`, body).catch((e) => ({ error: e.message }));
      // What cannot be solved keeps the last drawing, so that the picture does not jump.
      now.answer = answer.figures ? answer : { ...now.answer, error: answer.error };
      this.live = now.answer;
      this.page.redraw();
    }
    now.asking = false;
  }
  async settled() {
    while (this.now.asking) await new Promise((done) => setTimeout(done, 5));
  }
}
