// Pictures decoded ahead of the playhead, within a budget of memory; the least recently used goes first.
const AHEAD = 8;

export class Frames {
  constructor(shot, width, height, bytes, changed) {
    this.path = (frame) => `/api/shots/${shot}/frames/${frame}${this.query}`;
    this.query = "";
    this.size = width * height * 4;
    this.pictures = new Map();
    this.pending = new Set();
    this.changed = changed;
    this.budget(bytes);
  }

  /** How much memory the pictures may take, bytes. */
  budget(bytes) {
    this.most = Math.max(12, Math.floor(bytes / this.size));
    this.trim();
  }

  trim() {
    while (this.pictures.size > this.most) {
      const [oldest, old] = this.pictures.entries().next().value;
      old.close();
      this.pictures.delete(oldest);
    }
  }

  /** Another look at all frames; what is there of the last one goes. True when it changed. */
  look(query) {
    if (this.query === query) return false;
    this.query = query;
    for (const picture of this.pictures.values()) picture.close();
    this.pictures.clear();
    this.pending.clear();
    return true;
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
    const { query } = this;
    for (let frame = first; frame <= last && this.pictures.size < this.most && query === this.query; frame++) {
      if (!this.pictures.has(frame)) await this.ask(frame);
    }
  }

  async ask(frame) {
    if (this.pending.has(frame)) return;
    this.pending.add(frame);
    const { query } = this;
    try {
      const response = await fetch(this.path(frame));
      if (!response.ok) return;
      const picture = await createImageBitmap(await response.blob());
      if (query !== this.query) return picture.close();
      this.pictures.set(frame, picture);
      this.trim();
      this.changed(frame);
    } catch {
      // A frame that cannot be had stays empty; the server's sentence comes with the shot.
    } finally {
      if (query === this.query) this.pending.delete(frame);
    }
  }
}
