// Mattes at the Track station: the list, drawing, colour keys, and what they leave out of this frame.
import { numberOr, several, spanOr } from "../page/numbers.js";
import { unwatched } from "../page/reactive.js";
import { css } from "../layers/colour.js";
import { MatteTool } from "../tools/matte-tool.js";

const KINDS = { drawn: "drawn", alpha: "alpha", colour: "colour", sequence: "sequence" };

/** The outline of a frame, as it is drawn; what is left out is decided by the server. */
export function outlineAt(keys, frame) {
  const after = keys.findIndex((k) => k.frame > frame);
  if (after === 0 || keys.length === 1) return keys[0].points;
  if (after < 0) return keys[keys.length - 1].points;
  const [a, b] = [keys[after - 1], keys[after]];
  const share = (frame - a.frame) / (b.frame - a.frame);
  return a.points.map((p, k) => [0, 1].map((i) => p[i] + share * (b.points[k][i] - p[i])));
}

export class Mattes {
  constructor(page) {
    Object.assign(this, { page, id: 0, drawing: false, folder: "" });
    this.drawn = unwatched({ points: null });
    this.mask = unwatched({ wanted: "", picture: null });
  }
  open() {
    this.tool = unwatched(new MatteTool(this.host()));
  }
  get shot() {
    return this.page.shot;
  }
  get frame() {
    return this.page.playback.frame;
  }
  get list() {
    return this.shot.state.mattes;
  }
  host() {
    return {
      drawing: () => this.drawn.points,
      chosen: () => this.id,
      choose: (id) => (this.id = id),
      outlines: () =>
        this.list.flatMap(({ id: matte, source, off, frames }) => {
          if (source.kind !== "drawn") return [];
          const outside = frames && (this.frame < frames[0] || this.frame > frames[1]);
          return [{ matte, points: outlineAt(source.keys, this.frame), keyed: source.keys.some((k) => k.frame === this.frame), off: off || outside }];
        }),
      laid: (px) => this.drawn.points.push(px),
      closed: () => this.close(),
      keyed: (matte, points) => this.deed({ do: "key", matte, frame: this.frame, points }),
      pointed: (matte, after, px) => this.deed({ do: "point", matte, frame: this.frame, after, px }),
    };
  }
  get rows() {
    return this.list.map((m) => ({ id: m.id, name: m.name, off: m.off, chosen: m.id === this.id, text: m.source.kind === "drawn" ? several(m.source.keys.length, "key") : KINDS[m.source.kind] }));
  }
  get matte() {
    return this.list.find((m) => m.id === this.id) ?? null;
  }
  get key() {
    return this.matte !== null && this.matte.source.kind === "colour" ? this.matte.source : null;
  }
  get isDrawn() {
    return this.matte !== null && this.matte.source.kind === "drawn";
  }
  get canUnkey() {
    return this.isDrawn && this.matte.source.keys.length > 1 && this.matte.source.keys.some((k) => k.frame === this.frame);
  }
  get frames() {
    return this.matte?.frames ? this.matte.frames.join("–") : "all";
  }
  get hint() {
    if (this.drawing) return "Click around what is not to be followed; Enter or a click on the first point closes it.";
    if (!this.list.length) return "Mattes say where not to follow: draw one, key a colour, or take a sequence.";
    if (this.isDrawn) return "Drag a point, or the whole outline, to key it on this frame. Shift-click a side adds a point at all keys.";
    return "What mattes leave out is tinted. Drawn ones act at once; others when features are followed.";
  }
  deed(deed) {
    return this.shot.act(() => this.shot.post("/mattes", deed));
  }
  toggleDrawing() {
    this.drawing = !this.drawing;
    this.drawn.points = this.drawing ? [] : null;
    this.id = 0;
    this.page.redraw();
  }
  async close() {
    const points = this.drawn.points?.filter((p, k, all) => k === 0 || Math.hypot(p[0] - all[k - 1][0], p[1] - all[k - 1][1]) > 1) ?? [];
    this.drawn.points = null;
    this.drawing = false;
    if (points.length < 3) return this.page.redraw();
    if (await this.deed({ do: "draw", frame: this.frame, points })) this.id = this.list.at(-1).id;
    this.page.redraw();
  }
  drop() {
    this.drawn.points = null;
    this.drawing = false;
    this.page.redraw();
  }
  async add(kind) {
    const deed = kind === "sequence" ? { do: kind, folder: this.folder.trim() } : { do: kind };
    if (await this.deed(deed)) this.id = this.list.at(-1).id;
  }
  choose(id) {
    this.id = id;
    this.page.redraw();
  }
  step(by) {
    const ids = this.list.map((m) => m.id);
    if (ids.length) this.choose(ids[(ids.indexOf(this.id) + by + ids.length) % ids.length] ?? ids[0]);
  }
  set(change) {
    return this.deed({ do: "set", matte: this.id, ...change });
  }
  setFeather(event) {
    return this.set({ feather_px: numberOr(event.target.value, "px") });
  }
  setFrames(event) {
    const text = event.target.value.trim();
    return this.set(text === "" || text === "all" ? { all_frames: true } : { frames: spanOr(text) });
  }
  setKey(name, event) {
    const { kind, ...key } = this.key;
    return this.set({ key: { ...key, [name]: numberOr(event.target.value, "px", "°") } });
  }
  unkey() {
    return this.deed({ do: "unkey", matte: this.id, frame: this.frame });
  }
  async remove() {
    const matte = this.id;
    this.id = 0;
    await this.deed({ do: "remove", matte });
    this.page.redraw();
  }

  /** What alpha, colours and sequences leave out of this frame, tinted; asked for while mattes are shown. */
  maskShown() {
    const { route, track, playback } = this.page;
    const others = this.list.some((m) => m.source.kind !== "drawn" && !m.off);
    if (!route.at("track") || track.panel !== "mattes" || !others || playback.playing) return null;
    const wanted = JSON.stringify([this.frame, this.list, this.shot.state.range]);
    if (this.mask.wanted !== wanted) this.askMask(wanted);
    return this.mask.picture;
  }
  async askMask(wanted) {
    this.mask.wanted = wanted;
    const answer = await fetch(`${this.shot.address}/mattes/${this.frame}`);
    if (!answer.ok || this.mask.wanted !== wanted) return;
    const picture = await createImageBitmap(await answer.blob());
    if (this.mask.wanted !== wanted) return;
    const tinted = document.createElement("canvas");
    Object.assign(tinted, { width: picture.width, height: picture.height });
    const ctx = tinted.getContext("2d");
    ctx.drawImage(picture, 0, 0);
    ctx.globalCompositeOperation = "source-in";
    ctx.fillStyle = css("--wrong");
    ctx.fillRect(0, 0, tinted.width, tinted.height);
    this.mask.picture = tinted;
    this.page.redraw();
  }
}
