// Mattes at the Track station: the list, drawing, colour keys, and what they leave out of this frame.
import { post } from "./api.js";
import { MatteTool } from "./matte-tool.js";
import { unwatched } from "./unwatched.js";

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

export const mattes = {
  chosenMatte: 0,
  drawingMatte: false,
  matteFolder: "",

  beginMattes() {
    this.matteDrawn = unwatched({ points: null });
    this.matteTool = unwatched(new MatteTool(this.matteHost()));
  },
  matteHost() {
    const page = this;
    return {
      drawing: () => page.matteDrawn.points,
      chosen: () => page.chosenMatte,
      choose: (id) => (page.chosenMatte = id),
      outlines: () =>
        page.s.state.mattes.flatMap(({ id: matte, source, off, frames }) => {
          if (source.kind !== "drawn") return [];
          const outside = frames && (page.frame < frames[0] || page.frame > frames[1]);
          return [{ matte, points: outlineAt(source.keys, page.frame), keyed: source.keys.some((k) => k.frame === page.frame), off: off || outside }];
        }),
      laid: (px) => page.matteDrawn.points.push(px),
      closed: () => page.closeMatte(),
      keyed: (matte, points) => page.matteDeed({ do: "key", matte, frame: page.frame, points }),
      pointed: (matte, after, px) => page.matteDeed({ do: "point", matte, frame: page.frame, after, px }),
    };
  },
  get matteRows() {
    return this.s.state.mattes.map((m) => ({
      id: m.id, name: m.name, off: m.off, chosen: m.id === this.chosenMatte,
      text: m.source.kind === "drawn" ? `${m.source.keys.length} ${m.source.keys.length === 1 ? "key" : "keys"}` : KINDS[m.source.kind],
    }));
  },
  get matte() {
    return this.s.state.mattes.find((m) => m.id === this.chosenMatte) ?? null;
  },
  get matteKey() {
    return this.matte !== null && this.matte.source.kind === "colour" ? this.matte.source : null;
  },
  get matteIsDrawn() {
    return this.matte !== null && this.matte.source.kind === "drawn";
  },
  get matteKeyed() {
    return this.matteIsDrawn && this.matte.source.keys.length > 1 && this.matte.source.keys.some((k) => k.frame === this.frame);
  },
  get matteFrames() {
    return this.matte?.frames ? this.matte.frames.join("–") : "all";
  },
  get matteHint() {
    if (this.drawingMatte) return "Click around what is not to be followed; Enter or a click on the first point closes it.";
    if (!this.s.state.mattes.length) return "Mattes say where not to follow: draw one, key a colour, or take a sequence.";
    if (this.matteIsDrawn) return "Drag a point, or the whole outline, to key it on this frame. Shift-click a side adds a point at all keys.";
    return "What mattes leave out is tinted. Drawn ones act at once; others when features are followed.";
  },
  matteDeed(deed) {
    return this.act(() => post(`/api/shots/${this.id}/mattes`, deed));
  },
  drawMatte() {
    this.drawingMatte = !this.drawingMatte;
    this.matteDrawn.points = this.drawingMatte ? [] : null;
    this.chosenMatte = 0;
    this.redraw();
  },
  async closeMatte() {
    const points = this.matteDrawn.points?.filter((p, k, all) => k === 0 || Math.hypot(p[0] - all[k - 1][0], p[1] - all[k - 1][1]) > 1) ?? [];
    this.matteDrawn.points = null;
    this.drawingMatte = false;
    if (points.length < 3) return this.redraw();
    if (await this.matteDeed({ do: "draw", frame: this.frame, points })) this.chosenMatte = this.s.state.mattes.at(-1).id;
    this.redraw();
  },
  dropMatte() {
    this.matteDrawn.points = null;
    this.drawingMatte = false;
    this.redraw();
  },
  async addMatte(kind) {
    const deed = kind === "sequence" ? { do: kind, folder: this.matteFolder.trim() } : { do: kind };
    if (await this.matteDeed(deed)) this.chosenMatte = this.s.state.mattes.at(-1).id;
  },
  chooseMatte(id) {
    this.chosenMatte = id;
    this.redraw();
  },
  setMatte(change) {
    return this.matteDeed({ do: "set", matte: this.chosenMatte, ...change });
  },
  setMatteFrames(event) {
    const [a, b] = event.target.value.split(/[–-]/).map((t) => Number.parseInt(t, 10));
    return this.setMatte(Number.isFinite(a) && Number.isFinite(b) ? { frames: [a, b] } : { all_frames: true });
  },
  setMatteKey(name, event) {
    const { kind, ...key } = this.matteKey;
    return this.setMatte({ key: { ...key, [name]: Number(event.target.value) } });
  },
  unkeyMatte() {
    return this.matteDeed({ do: "unkey", matte: this.chosenMatte, frame: this.frame });
  },
  async removeMatte() {
    const matte = this.chosenMatte;
    this.chosenMatte = 0;
    await this.matteDeed({ do: "remove", matte });
    this.redraw();
  },

  /** What alpha, colours and sequences leave out of this frame, tinted; asked for while mattes are shown. */
  maskShown() {
    const others = this.s.state.mattes.some((m) => m.source.kind !== "drawn" && !m.off);
    if (this.station !== "track" || this.trackPanel !== "mattes" || !others || this.playing) return null;
    const wanted = JSON.stringify([this.frame, this.s.state.mattes, this.s.state.range]);
    if (this.data.mask?.wanted !== wanted) this.askMask(wanted);
    return this.data.mask?.picture ?? null;
  },
  async askMask(wanted) {
    this.data.mask = { wanted, picture: this.data.mask?.picture ?? null };
    const answer = await fetch(`/api/shots/${this.id}/mattes/${this.frame}`);
    if (!answer.ok || this.data.mask.wanted !== wanted) return;
    const picture = await createImageBitmap(await answer.blob());
    if (this.data.mask.wanted !== wanted) return;
    const tinted = document.createElement("canvas");
    Object.assign(tinted, { width: picture.width, height: picture.height });
    const ctx = tinted.getContext("2d");
    ctx.drawImage(picture, 0, 0);
    ctx.globalCompositeOperation = "source-in";
    ctx.fillStyle = "#dc6a61";
    ctx.fillRect(0, 0, tinted.width, tinted.height);
    this.data.mask = { wanted, picture: tinted };
    this.redraw();
  },
};
