// The playhead, and the pictures that are ready for it.
import { unwatched } from "../page/reactive.js";
import { Frames } from "../views/frames.js";

const MEMORY_MB = 420;

export class Playback {
  constructor(page) {
    Object.assign(this, { page, frame: 0, playing: false, repeats: true, rateShown: 0, cachedCount: 0 });
    this.memory = localStorage.getItem("memory") || String(MEMORY_MB);
  }

  open() {
    const { shot } = this.page;
    this.frame = this.first;
    const frames = new Frames(shot.id, shot.width, shot.height, Number(this.memory) * 1e6, (f) => this.arrived(f));
    this.frames = unwatched(frames);
  }
  get first() {
    return this.page.shot.state.range?.[0] ?? this.page.shot.plate.first;
  }
  get last() {
    return this.page.shot.state.range?.[1] ?? this.page.shot.plate.last;
  }
  /** The picture to show: the one before while the next is not here. */
  get picture() {
    const now = this.frames?.at(this.frame);
    if (now) this.page.lastPicture = now;
    return now ?? this.page.lastPicture;
  }
  fill() {
    this.frames.fill(this.first, this.last);
  }
  arrived(frame) {
    this.cachedCount = this.frames.pictures.size;
    this.page.stage.arrived(frame);
  }
  setMemory(event) {
    const wanted = Math.round(Number.parseFloat(event.target.value));
    this.memory = String(Math.min(8000, Math.max(50, Number.isFinite(wanted) ? wanted : MEMORY_MB)));
    localStorage.setItem("memory", this.memory);
    this.frames.budget(Number(this.memory) * 1e6);
    this.fill();
  }

  seek(frame) {
    const { plate } = this.page.shot;
    this.frame = Math.min(plate.last, Math.max(plate.first, frame));
    this.frames.ahead(this.frame, this.last, this.first);
    this.page.sought();
  }

  /** The rate as a float, for playing only; 24 while it is unknown. */
  rate() {
    const [above, below] = (this.page.shot.state.rate ?? "24").split("/").map(Number);
    return above / (below || 1);
  }
  get rateText() {
    const rate = `${this.rateShown.toFixed(1)} of ${this.rate().toFixed(2)} fps`;
    return this.page.guestsView?.coarse ? `${rate} · guests drawn coarsely: no graphics card` : rate;
  }

  toggle() {
    this.playing = !this.playing;
    if (!this.playing) return this.page.sought();
    const rate = this.rate();
    let begun = performance.now();
    let from = this.frame;
    // When pictures were shown lately, for the rate that is really reached.
    const lately = [];
    const tick = (now) => {
      if (!this.playing) return;
      let next = from + Math.floor(((now - begun) / 1000) * rate);
      if (next > this.last) {
        if (!this.repeats) {
          this.playing = false;
          return;
        }
        [from, begun, next] = [this.first, now, this.first];
      }
      if (next !== this.frame) {
        // Wait for a picture rather than skip it: every frame is shown once.
        const ready = this.frame + 1 > this.last || this.frames.has(this.frame + 1);
        if (ready || next === this.first) {
          this.seek(next === this.first ? next : this.frame + 1);
          lately.push(now);
          if (next !== this.frame) [from, begun] = [this.frame, now];
        } else {
          this.frames.ahead(this.frame, this.last, this.first);
        }
        while (lately.length && lately[0] < now - 1500) lately.shift();
        if (lately.length > 4) this.rateShown = ((lately.length - 1) * 1000) / (lately[lately.length - 1] - lately[0]);
      }
      requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
  }
}
