// The Lens station: straights on the plate, what is found from them, and the undistorted view.
import { get, post } from "../page/api.js";
import { several } from "../page/numbers.js";
import { plain, unwatched } from "../page/reactive.js";
import { differing } from "../page/things.js";
import { Bend } from "../views/bend.js";
import { StraightsTool } from "../tools/straights-tool.js";

const BY = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

export class Lens {
  constructor(page) {
    Object.assign(this, { page, undistorted: false, grid: false, snapping: true, filling: true, drawingCount: 0, straight: -1, mark: -1, live: null, said: "", nudged: false, bentSize: null });
    this.termCounts = [1, 2, 3];
    this.keeps = [{ key: "all", name: "keep all" }, { key: "size", name: "keep size" }];
    // What the tool and the layers work on; drawn, not watched.
    this.marking = unwatched({ straights: [], answer: null, drawing: null, asking: false, waiting: false, chosen: { straight: -1, mark: -1 }, version: "", bend: null });
  }
  open() {
    this.tool = unwatched(new StraightsTool(this.host()));
  }
  get shot() {
    return this.page.shot;
  }
  get state() {
    return this.shot.state.lens;
  }

  /** Takes what the server keeps as what is shown. */
  follow() {
    const { marking, shot } = this;
    marking.straights = plain(this.state.straights);
    marking.answer = plain(shot.lens);
    this.live = shot.lens;
    if (marking.chosen.straight >= marking.straights.length) this.choose(-1, -1);
    const version = JSON.stringify([shot.lens.used, this.state.keep, shot.lens.sizes]);
    if (version === marking.version) return;
    Object.assign(marking, { version, bend: null });
    this.bentSize = null;
    if (shot.lens.used) this.loadBend(version);
    else this.undistorted = false;
  }
  async loadBend(version) {
    const { marking, shot } = this;
    try {
      const mesh = await get(`${shot.address}/lens/mesh`);
      if (version !== marking.version) return;
      marking.bend = new Bend(mesh, [shot.width, shot.height]);
      this.bentSize = mesh.size;
      this.page.redraw();
    } catch (e) {
      this.undistorted = false;
      shot.refuse(e.message);
    }
  }
  /** The bend that the plate is drawn through now. */
  get bendShown() {
    return this.undistorted ? this.marking.bend : null;
  }
  get caption() {
    if (this.page.plate.showAdjusted) return `Plate · adjusted for following${this.undistorted ? ", undistorted" : ""}`;
    if (!this.undistorted || !this.bentSize) return "Plate · as shot";
    const [w, h] = this.bentSize;
    return `Plate · undistorted ${w}×${h}, ${this.state.keep === "all" ? "all kept" : "size kept"}`;
  }
  toggleUndistorted() {
    if (!this.shot.lens.used) return this.shot.refuse("Nothing is known of the lens yet, so there is nothing to undistort. Mark straights, state values or solve the lens along.");
    this.undistorted = !this.undistorted;
    this.page.redraw();
  }
  toggleGrid() {
    this.grid = !this.grid;
    this.page.redraw();
  }

  host() {
    const { marking, page } = this;
    return {
      get drawing() {
        return marking.drawing;
      },
      get chosen() {
        return marking.chosen;
      },
      picture: () => page.playback.picture,
      loupe: (shown) => (page.stage.loupe = shown),
      shown: () =>
        marking.straights.flatMap(({ frame, marks }, index) => {
          const said = marking.answer?.straights?.[index];
          return frame === page.playback.frame ? [{ index, marks, curve: said?.curve, after: said?.after_px, misses: said?.misses_px }] : [];
        }),
      choose: (straight, mark) => {
        this.choose(straight, mark);
        page.redraw();
      },
      added: (px) => {
        this.choose(-1, -1);
        marking.drawing = [...(marking.drawing ?? []), px];
        this.drawingCount = marking.drawing.length;
        page.redraw();
      },
      adjusted: (px) => (marking.drawing[marking.drawing.length - 1] = px),
      dragged: ({ straight, mark }, px) => {
        marking.straights[straight].marks[mark] = px;
        this.ask();
      },
      dropped: async ({ straight }) => {
        while (marking.asking) await new Promise((done) => setTimeout(done, 5));
        await this.keepStraights(`move a mark of straight ${straight + 1}`);
      },
      ended: () => this.endStraight(),
    };
  }

  keepStraights(label) {
    return this.edit(label, { straights: this.marking.straights });
  }
  /** Changes what is known of the lens; straights, where they are given, one by one. */
  edit(label, { straights, ...lens }) {
    const things = straights ? { "lens.straights": differing(this.state.straights, straights) } : {};
    return this.shot.edit(label, { lens }, things);
  }

  /** Asks for the lens of the draft; of several waiting requests only the last is sent. */
  async ask() {
    const { marking } = this;
    marking.waiting = true;
    if (marking.asking) return;
    marking.asking = true;
    while (marking.waiting) {
      marking.waiting = false;
      const draft = { ...this.state, straights: marking.straights };
      const answer = await post(`${this.shot.address}/lens`, { lens: draft }).catch(() => null);
      if (answer) {
        marking.answer = answer;
        this.live = answer;
      }
      this.page.redraw();
    }
    marking.asking = false;
  }

  /** The straight that is being drawn is done: it goes on to the edge where that is asked for. */
  async endStraight() {
    const { marking, shot } = this;
    const { frame } = this.page.playback;
    let marks = marking.drawing;
    if (!marks) return;
    // A double click has put two marks on one place.
    marks = marks.filter((m, k) => k === 0 || Math.hypot(m[0] - marks[k - 1][0], m[1] - marks[k - 1][1]) > 1.5);
    marking.drawing = null;
    this.drawingCount = 0;
    if (marks.length < 2) return this.page.redraw();
    let said = "";
    if (this.snapping) {
      const spacing_px = this.filling ? Math.max(8, shot.width / 64) : null;
      try {
        marks = (await post(`${shot.address}/lens/snap`, { straight: { frame, marks }, spacing_px })).marks;
      } catch (e) {
        said = e.message;
      }
    }
    if (marks.length < 3) {
      shot.refuse(said || "A straight needs three marks or more: two always lie on a line. Click along the edge.");
      return this.page.redraw();
    }
    const count = marking.straights.length;
    const straights = [...marking.straights, { frame, marks }];
    await this.edit(`mark straight ${count + 1}`, { straights, source: "straights" });
    if (said) shot.refuse(said);
    this.choose(count, -1);
    this.page.redraw();
  }
  dropDrawing() {
    this.marking.drawing = null;
    this.drawingCount = 0;
    this.page.redraw();
  }
  takeBackMark() {
    const { drawing } = this.marking;
    if (!drawing) return;
    drawing.pop();
    if (!drawing.length) this.marking.drawing = null;
    this.drawingCount = drawing.length;
    this.page.redraw();
  }
  choose(straight, mark) {
    this.marking.chosen = { straight, mark };
    Object.assign(this, { straight, mark });
  }
  show(index) {
    this.choose(index, -1);
    this.page.playback.seek(this.state.straights[index].frame);
  }
  step(by) {
    const count = this.marking.straights.length;
    if (count) this.show((Math.max(this.straight, by > 0 ? -1 : 0) + by + count) % count);
  }
  /** The next mark of the chosen straight, else of the first. */
  stepMark(by) {
    const { straights } = this.marking;
    if (!straights.length) return;
    if (!straights[this.straight]) this.show(0);
    const { marks } = straights[this.straight];
    this.choose(this.straight, (Math.max(this.mark, by > 0 ? -1 : 0) + by + marks.length) % marks.length);
    this.page.redraw();
  }
  /** What is chosen, for whoever has no eyes on the plate. */
  get spoken() {
    const { straight, mark } = this;
    const of = this.live?.straights?.[straight];
    if (!of) return "no straight chosen";
    return `straight ${straight + 1}${mark < 0 ? "" : `, mark ${mark + 1} of ${of.marks}`}`;
  }
  removeChosen() {
    const { straight, mark } = this.marking.chosen;
    const { straights } = this.marking;
    if (!straights[straight]) return;
    const whole = mark < 0 || straights[straight].marks.length <= 3;
    if (whole) straights.splice(straight, 1);
    else straights[straight].marks.splice(mark, 1);
    this.choose(whole ? -1 : straight, -1);
    return this.keepStraights(whole ? `remove straight ${straight + 1}` : `remove a mark of straight ${straight + 1}`);
  }
  nudge(event) {
    const { straight, mark } = this.marking.chosen;
    const px = this.marking.straights[straight]?.marks[mark];
    if (!px) return false;
    const step = event.shiftKey ? 1 : 0.1;
    const by = BY[event.key];
    this.marking.straights[straight].marks[mark] = [px[0] + step * by[0], px[1] + step * by[1]];
    this.nudged = true;
    this.ask();
    return true;
  }
  async keepNudge() {
    if (!this.nudged) return;
    this.nudged = false;
    while (this.marking.asking) await new Promise((done) => setTimeout(done, 5));
    return this.keepStraights("nudge a mark");
  }
  async snapChosen() {
    const straight = this.marking.straights[this.straight];
    if (!straight) return;
    try {
      const { marks, moved_px } = await post(`${this.shot.address}/lens/snap`, { straight });
      straight.marks = marks;
      await this.keepStraights(`snap straight ${this.straight + 1}`);
      this.said = `Moved by ${moved_px.toFixed(2)} px at most.`;
    } catch (e) {
      this.shot.refuse(e.message);
    }
  }

  // What the notebook shows.
  get rows() {
    const shown = (v) => (v === null || v === undefined ? "–" : v.toFixed(2));
    return (this.live?.straights ?? []).map((s, index) => ({
      index, name: `${index + 1}`, frame: s.frame, marks: s.marks, text: `${shown(s.before_px)} → ${shown(s.after_px)}`,
      chosen: index === this.straight, worst: index === this.live?.figures?.worst,
    }));
  }
  get figures() {
    return this.live?.figures?.rows || [];
  }
  get usedText() {
    const used = this.shot.lens.used;
    if (!used) return "none";
    const from = this.state.source === "values" ? this.state.values.taken_from : null;
    return from && used.origin === "from values" ? from : used.origin;
  }
  get hint() {
    if (this.drawingCount === 0) return "Click along an edge that is straight in reality.";
    return `${several(this.drawingCount, "mark")}. Enter or a double click ends, Backspace takes one back.`;
  }
  get solvedText() {
    const { solve, state } = this.shot;
    return solve && state.solve_lens ? `solved: k1 ${solve.k1.toFixed(4)}, k2 ${solve.k2.toFixed(4)}` : "";
  }
  sizeText(key) {
    const size = this.live?.sizes?.[key];
    return size ? `${size[0]}×${size[1]}` : "–";
  }
  toggleTangential() {
    return this.edit("switch tangential terms", { tangential: !this.state.tangential });
  }
  toggleCentre() {
    return this.edit("set the centre", { centre: this.state.centre === "free" ? "fixed" : "free" });
  }
}
