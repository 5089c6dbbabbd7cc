// Pictures decoded ahead of the playhead, within a budget of memory; the least recently used goes first.
const BUDGET_BYTES = 420e6;
const AHEAD = 8;

export class Frames {
  constructor(shot, width, height, changed) {
    this.path = (frame) => `/api/shots/${shot}/frames/${frame}`;
    this.most = Math.max(12, Math.floor(BUDGET_BYTES / (width * height * 4)));
    this.pictures = new Map();
    this.pending = new Set();
    this.changed = changed;
  }

  /** The picture of a frame if it is there; asks for it if not. */
  at(frame) {
    const picture = this.pictures.get(frame);
    if (picture) {
      this.pictures.delete(frame);
      this.pictures.set(frame, picture);
      return picture;
    }
    this.ask(frame);
    return null;
  }

  has(frame) {
    return this.pictures.has(frame);
  }

  /** Asks for the frames that come next. */
  ahead(frame, last, first) {
    for (let k = 1; k <= AHEAD; k++) {
      const next = frame + k > last ? first + ((frame + k - last - 1) % (last - first + 1)) : frame + k;
      if (this.pending.size < AHEAD && !this.pictures.has(next)) this.ask(next);
    }
  }

  /** Fills the cache from the first frame on while nothing else is asked for. */
  async fill(first, last) {
    for (let frame = first; frame <= last && this.pictures.size < this.most; frame++) {
      if (!this.pictures.has(frame)) await this.ask(frame);
    }
  }

  async ask(frame) {
    if (this.pending.has(frame)) return;
    this.pending.add(frame);
    try {
      const response = await fetch(this.path(frame));
      if (!response.ok) return;
      const picture = await createImageBitmap(await response.blob());
      this.pictures.set(frame, picture);
      while (this.pictures.size > this.most) {
        const [oldest, old] = this.pictures.entries().next().value;
        old.close();
        this.pictures.delete(oldest);
      }
      this.changed(frame);
    } catch {
      // A frame that cannot be had stays empty; the server's sentence comes with the shot.
    } finally {
      this.pending.delete(frame);
    }
  }
}
