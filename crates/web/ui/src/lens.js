// The lens station: straights on the plate, values, library, and the undistorted view.
import { get, post, remove, send } from "./api.js";
import { Bend } from "./bend.js";
import { StraightsTool } from "./straights-tool.js";
import { differing } from "./things.js";
import { unwatched } from "./unwatched.js";

const copy = (value) => JSON.parse(JSON.stringify(value ?? null));
const TERMS = ["k1", "k2", "k3", "p1", "p2"];
const EPSILON = 1e-12;

export const lens = {
  undistorted: false,
  lensGrid: false,
  snapping: true,
  filling: true,
  drawingCount: 0,
  chosenStraight: -1,
  loupeShown: false,
  lensLive: null,
  lenses: [],
  lensSaid: "",
  lensLabel: { body: "", lens: "", focal_mm: "", focus: "" },
  termCounts: [1, 2, 3],
  keeps: [{ key: "all", name: "keep all" }, { key: "size", name: "keep size" }],
  units: [{ key: "focal", name: "focal" }, { key: "half-width", name: "½ width" }, { key: "half-diagonal", name: "½ diagonal" }],

  /** What the tool and the layers work on; drawn, not watched. */
  beginLens() {
    this.marking = unwatched({ straights: [], answer: null, drawing: null, asking: false, waiting: false, chosen: { straight: -1, mark: -1 } });
    this.tool = unwatched(new StraightsTool(this.lensHost()));
  },

  /** Takes what the server keeps as what is shown. */
  followLens() {
    this.marking.straights = copy(this.s.state.lens.straights);
    this.marking.answer = copy(this.s.lens);
    this.lensLive = this.s.lens;
    if (this.marking.chosen.straight >= this.marking.straights.length) this.chooseStraight(-1, -1);
    const version = JSON.stringify([this.s.lens.used, this.s.state.lens.keep, this.s.lens.sizes]);
    if (version !== this.versions.lens) {
      this.versions.lens = version;
      this.bend = null;
      if (this.s.lens.used) this.loadBend(version);
      else this.undistorted = false;
    }
  },
  async loadBend(version) {
    try {
      const mesh = await get(`/api/shots/${this.id}/lens/mesh`);
      if (version !== this.versions.lens) return;
      this.bend = unwatched(new Bend(mesh, [this.s.width, this.s.height]));
      this.redraw();
    } catch (e) {
      this.undistorted = false;
      this.error = e.message;
    }
  },
  /** The bend that the plate is drawn through now. */
  get bendShown() {
    return this.undistorted ? this.bend : null;
  },
  get caption() {
    if (this.showAdjusted) return `Plate · adjusted for following${this.undistorted ? ", undistorted" : ""}`;
    if (!this.undistorted || !this.bend) return "Plate · as shot";
    const [w, h] = this.bend.size;
    return `Plate · undistorted ${w}×${h}, ${this.s.state.lens.keep === "all" ? "all kept" : "size kept"}`;
  },
  toggleUndistorted() {
    if (!this.s.lens.used) {
      this.error = "Nothing is known of the lens yet, so there is nothing to undistort. Mark straights, state values or solve the lens along.";
      return;
    }
    this.undistorted = !this.undistorted;
    this.redraw();
  },
  toggleLensGrid() {
    this.lensGrid = !this.lensGrid;
    this.redraw();
  },

  lensHost() {
    const page = this;
    const straights = () => page.marking.straights;
    return {
      get drawing() {
        return page.marking.drawing;
      },
      get chosen() {
        return page.marking.chosen;
      },
      picture: () => page.frames.at(page.frame) ?? page.lastPicture,
      loupe: (shown) => (page.loupeShown = shown),
      shown: () =>
        straights().flatMap(({ frame, marks }, index) => {
          const said = page.marking.answer?.straights?.[index];
          return frame === page.frame ? [{ index, marks, curve: said?.curve, after: said?.after_px, misses: said?.misses_px }] : [];
        }),
      choose: (straight, mark) => {
        page.chooseStraight(straight, mark);
        page.redraw();
      },
      added: (px) => {
        page.chooseStraight(-1, -1);
        page.marking.drawing = [...(page.marking.drawing ?? []), px];
        page.drawingCount = page.marking.drawing.length;
        page.redraw();
      },
      adjusted: (px) => (page.marking.drawing[page.marking.drawing.length - 1] = px),
      dragged: ({ straight, mark }, px) => {
        straights()[straight].marks[mark] = px;
        page.askLens();
      },
      dropped: async ({ straight }) => {
        while (page.marking.asking) await new Promise((done) => setTimeout(done, 5));
        await page.keepStraights(`move a mark of straight ${straight + 1}`);
      },
      ended: () => page.endStraight(),
    };
  },

  keepStraights(label) {
    return this.editLens(label, { straights: this.marking.straights });
  },
  /** Changes what is known of the lens; straights, where they are given, one by one. */
  editLens(label, { straights, ...lens }) {
    const things = straights ? { "lens.straights": differing(this.s.state.lens.straights, straights) } : {};
    return this.edit(label, { lens }, things);
  },

  /** Asks for the lens of the draft; of several waiting requests only the last is sent. */
  async askLens() {
    const { marking } = this;
    marking.waiting = true;
    if (marking.asking) return;
    marking.asking = true;
    while (marking.waiting) {
      marking.waiting = false;
      const draft = { ...this.s.state.lens, straights: marking.straights };
      const answer = await post(`/api/shots/${this.id}/lens`, { lens: draft }).catch(() => null);
      if (answer) {
        marking.answer = answer;
        this.lensLive = answer;
      }
      this.redraw();
    }
    marking.asking = false;
  },

  /** The straight that is being drawn is done: it goes on to the edge where that is asked for. */
  async endStraight() {
    const { marking } = this;
    let marks = marking.drawing;
    if (!marks) return;
    // A double click has put two marks on one place.
    marks = marks.filter((m, k) => k === 0 || Math.hypot(m[0] - marks[k - 1][0], m[1] - marks[k - 1][1]) > 1.5);
    marking.drawing = null;
    this.drawingCount = 0;
    if (marks.length < 2) return this.redraw();
    let said = "";
    if (this.snapping) {
      const spacing_px = this.filling ? Math.max(8, this.s.width / 64) : null;
      try {
        marks = (await post(`/api/shots/${this.id}/lens/snap`, { straight: { frame: this.frame, marks }, spacing_px })).marks;
      } catch (e) {
        said = e.message;
      }
    }
    if (marks.length < 3) {
      this.error = said || "A straight needs three marks or more: two always lie on a line. Click along the edge.";
      return this.redraw();
    }
    const count = marking.straights.length;
    const straights = [...marking.straights, { frame: this.frame, marks }];
    await this.editLens(`mark straight ${count + 1}`, { straights, source: "straights" });
    if (said) this.error = said;
    this.chooseStraight(count, -1);
    this.redraw();
  },
  dropDrawing() {
    this.marking.drawing = null;
    this.drawingCount = 0;
    this.redraw();
  },
  takeBackMark() {
    const { drawing } = this.marking;
    if (!drawing) return;
    drawing.pop();
    if (!drawing.length) this.marking.drawing = null;
    this.drawingCount = drawing.length;
    this.redraw();
  },
  chooseStraight(straight, mark) {
    this.marking.chosen = { straight, mark };
    this.chosenStraight = straight;
  },
  showStraight(index) {
    this.chooseStraight(index, -1);
    this.seek(this.s.state.lens.straights[index].frame);
  },
  removeChosenMarks() {
    const { straight, mark } = this.marking.chosen;
    const { straights } = this.marking;
    if (!straights[straight]) return;
    const whole = mark < 0 || straights[straight].marks.length <= 3;
    if (whole) straights.splice(straight, 1);
    else straights[straight].marks.splice(mark, 1);
    this.chooseStraight(whole ? -1 : straight, -1);
    return this.keepStraights(whole ? `remove straight ${straight + 1}` : `remove a mark of straight ${straight + 1}`);
  },
  nudgeMark(event) {
    const { straight, mark } = this.marking.chosen;
    const px = this.marking.straights[straight]?.marks[mark];
    if (!px) return false;
    const step = event.shiftKey ? 1 : 0.1;
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[event.key];
    this.marking.straights[straight].marks[mark] = [px[0] + by[0], px[1] + by[1]];
    this.nudged = true;
    this.askLens();
    return true;
  },
  async keepNudge() {
    if (!this.nudged) return;
    this.nudged = false;
    while (this.marking.asking) await new Promise((done) => setTimeout(done, 5));
    return this.keepStraights("nudge a mark");
  },
  async snapChosen() {
    const straight = this.marking.straights[this.chosenStraight];
    if (!straight) return;
    this.error = "";
    try {
      const { marks, moved_px } = await post(`/api/shots/${this.id}/lens/snap`, { straight });
      straight.marks = marks;
      await this.keepStraights(`snap straight ${this.chosenStraight + 1}`);
      this.lensSaid = `Moved by ${moved_px.toFixed(2)} px at most.`;
    } catch (e) {
      this.error = e.message;
    }
  },

  // What the notebook shows.
  get straightRows() {
    const shown = (v) => (v === null || v === undefined ? "–" : v.toFixed(2));
    return (this.lensLive?.straights ?? []).map((s, index) => ({
      index, name: `${index + 1}`, frame: s.frame, marks: s.marks, text: `${shown(s.before_px)} → ${shown(s.after_px)}`,
      here: s.frame === this.frame, chosen: index === this.chosenStraight, worst: index === this.lensLive?.figures?.worst,
    }));
  },
  get lensFigures() {
    const f = this.lensLive?.figures;
    if (!f) return [];
    const sigma = (key) => (f.sigma?.[key] ? ` ±${f.sigma[key].toFixed(5)}` : "");
    const rows = TERMS.filter((key) => Math.abs(f.terms[key]) > EPSILON || key === "k1").map((key) => ({ key, value: f.terms[key].toFixed(5) + sigma(key) }));
    const centre = f.centre_sigma_px ? ` ±${f.centre_sigma_px[0].toFixed(1)}, ${f.centre_sigma_px[1].toFixed(1)}` : "";
    rows.push({ key: "centre", value: `${f.centre[0].toFixed(1)}, ${f.centre[1].toFixed(1)}${centre} px` });
    rows.push({ key: "unit of radius", value: `${f.focal_px.toFixed(1)} px` });
    if (f.rms_px) rows.push({ key: "bent, as shot", value: `${f.rms_px[0].toFixed(2)} px` }, { key: "bent, with the lens", value: `${f.rms_px[1].toFixed(2)} px` });
    if (f.corner_sigma_px !== undefined) rows.push({ key: "corner certain to", value: `±${f.corner_sigma_px.toFixed(2)} px` });
    if (f.corner_px) rows.push({ key: "valid up to", value: f.valid_radius_px ? `${f.valid_radius_px} of ${f.corner_px} px` : `everywhere` });
    return rows;
  },
  get olderText() {
    const older = this.lensLive?.older;
    if (!older) return "";
    const { k1, k2, k3, p1, p2 } = older.terms;
    const tangential = p1 || p2 ? `, p1 ${p1.toFixed(5)}, p2 ${p2.toFixed(5)}` : "";
    return `k1 ${k1.toFixed(5)}, k2 ${k2.toFixed(5)}, k3 ${k3.toFixed(5)}${tangential}; error ${older.largest_px.toFixed(3)} px at most`;
  },
  get usedText() {
    const used = this.s.lens.used;
    if (!used) return "none";
    const from = this.s.state.lens.source === "values" ? this.s.state.lens.values.taken_from : null;
    return from && used.origin === "from values" ? from : used.origin;
  },
  get marksHint() {
    if (this.drawingCount === 0) return "Click along an edge that is straight in reality.";
    return `${this.drawingCount} ${this.drawingCount === 1 ? "mark" : "marks"}. Enter or a double click ends, Backspace takes one back.`;
  },
  sizeText(key) {
    const size = this.lensLive?.sizes?.[key];
    return size ? `${size[0]}×${size[1]}` : "–";
  },

  // Values. What does not parse is refused by the server with a sentence.
  setTerm(key, event) {
    return this.editLens(`set ${key}`, { source: "values", values: { terms: { [key]: Number(event.target.value) }, taken_from: null } });
  },
  setConvention(convention) {
    return this.editLens("set the convention", { source: "values", values: { convention, taken_from: null } });
  },
  setUnit(event) {
    const text = event.target.value.trim();
    return this.editLens("set the unit of the radius", { source: "values", values: { focal_px: text === "" ? null : Number.parseFloat(text), taken_from: null } });
  },
  takeUnit(key) {
    const half = { "half-width": this.s.width / 2, "half-diagonal": Math.hypot(this.s.width, this.s.height) / 2 }[key] ?? null;
    return this.editLens("set the unit of the radius", { source: "values", values: { focal_px: half, taken_from: null } });
  },
  setCentre(event) {
    const [x, y] = event.target.value.split(/[ ,;]+/).map(Number);
    return this.editLens("set the centre", { source: "values", values: { centre: Number.isFinite(x) && Number.isFinite(y) ? [x, y] : null, taken_from: null } });
  },
  get centreText() {
    return this.s.state.lens.values.centre?.map((v) => v.toFixed(1)).join(", ") ?? "";
  },

  // The undistorted plate.
  writtens: [{ key: "png", name: "PNG", title: "16 bits" }, { key: "exr", name: "EXR", title: "half float" }, { key: "jpeg", name: "JPEG", title: "8 bits, quality 95" }],
  get undistortedReceipt() {
    return this.s.undistorted?.receipt ?? null;
  },
  get undistortedSize() {
    return this.s.lens.used ? `${this.sizeText(this.s.state.lens.keep)} px` : "no lens";
  },
  get undistortedSaid() {
    if (this.s.undistorted.stale) return "The lens, the range or the format changed since. Undistort again.";
    return this.undistortedReceipt.proven ? "The written maps lead back to the plate." : "The written maps do not lead back to the plate. Do not use them.";
  },
  undistortedLink(file) {
    return `/api/shots/${this.id}/undistorted/${this.s.state.undistorted}${file ? `/${file}` : ""}`;
  },

  // The library.
  async loadLenses() {
    try {
      this.lenses = (await get("/api/lenses")).kept;
    } catch (e) {
      this.error = e.message;
    }
  },
  takeLens(id) {
    return this.act(() => post(`/api/shots/${this.id}/lens/take`, { lens: id }));
  },
  async changeLenses(said, work) {
    this.error = "";
    try {
      this.lenses = (await work()).kept;
      this.lensSaid = said;
    } catch (e) {
      this.error = e.message;
    }
  },
  keepLens() {
    const { body, lens: name, focal_mm, focus } = this.lensLabel;
    const label = { body, lens: name, focal_mm: focal_mm === "" ? null : Number.parseFloat(focal_mm), focus };
    return this.changeLenses(`${name} is kept for other shots.`, () => post(`/api/shots/${this.id}/lens/keep`, label));
  },
  forgetLens(id) {
    return this.changeLenses("Removed from the library; shots that took it keep its values.", () => remove(`/api/lenses/${id}`));
  },
  async importLens(event) {
    const [file] = event.target.files;
    if (!file) return;
    const text = await file.text();
    event.target.value = "";
    await this.changeLenses(`${file.name} is in the library.`, () => send("/api/lenses", text));
  },
};
