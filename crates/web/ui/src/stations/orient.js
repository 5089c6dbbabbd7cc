// The Orient station: what is stated about the world, from what is selected or drawn over the plate, or as the
// landmarks propose.
import { get } from "../page/api.js";
import { errorIn, numberOr, several } from "../page/numbers.js";
import { plain, unwatched } from "../page/reactive.js";
import { HandleTool } from "../tools/handle-tool.js";
import { InTurn } from "../tools/in-turn.js";
import { RailTool } from "../tools/rail-tool.js";
import { dragged } from "./world-moved.js";
import { endsOf, FAMILY, railOn, withRail } from "./orient-rails.js";

/** Fewer features are no plane. */
const FEWEST_ON_A_PLANE = 3;
const PLANES = [
  { key: "ground", name: "Ground", title: "The selected features lie on the ground" },
  { key: "level", name: "Level", title: "They lie on something level: a ceiling, a table" },
  { key: "wall", name: "Wall", title: "They lie on something upright" },
  { key: "along", name: "Faces along", title: "They lie on a wall that faces along" },
  { key: "across", name: "Faces across", title: "They lie on a wall that faces across" },
];
const EDGES = [
  { key: "up", name: "Up", title: "It is plumb" },
  { key: "along", name: "Along", title: "It runs along" },
  { key: "across", name: "Across", title: "It runs across" },
  { key: "level", name: "Level", title: "It is level, wherever it runs" },
  { key: "free", name: "For others", title: "Others are parallel or square to it" },
];
/** What arrow keys move by hand, and by how much a key; a tenth of it with Alt. */
const HANDLED = [
  { key: "turn", name: "Turn", step: 1, title: "Left and right about up, up and down about along; 1°, with Alt 0.1°" },
  { key: "shift", name: "Shift", step: 0.05, title: "Left and right along, up and down across, with Shift up and down; 5 cm, with Alt 5 mm" },
  { key: "scale", name: "Scale", step: 0.01, title: "Up larger, down smaller; 1 %, with Alt 0.1 %" },
];
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
const three = (text) => String(text ?? "").trim().split(/[\s,;]+/).filter(Boolean).map((part) => numberOr(part));

export class Orient {
  constructor(page) {
    Object.assign(this, { page, name: "", metres: "", sigma: "", other: "", drawing: false, hasRail: false, hasSecond: false, proposals: [], proposed: "", looked: null, handled: "", byHand: false, turn: "", shift: "", times: "" });
    Object.assign(this, { planes: PLANES, edges: EDGES, handles: HANDLED });
    this.data = unwatched({ rail: null, second: null, dragged: null, offered: [], moved: null, unkept: false, keeping: false, dragging: false });
  }
  open() {
    this.tool = unwatched(new InTurn([new HandleTool(this.handleHost()), new RailTool(this.host())]));
  }
  get shot() {
    return this.page.shot;
  }
  get rows() {
    return this.shot.statements ?? [];
  }
  get locked() {
    return this.shot.state.world_locked;
  }
  get chosen() {
    return [...this.page.selection.ids];
  }
  get edgeRows() {
    return this.rows.filter((row) => row.is_edge && row.id !== null);
  }

  // What can be stated of what is selected or drawn.
  get canPlane() {
    return !this.locked && this.page.selection.count >= FEWEST_ON_A_PLANE;
  }
  get canOrigin() {
    return !this.locked && this.page.selection.count === 1;
  }
  get canEdge() {
    return !this.locked && (this.hasRail || this.page.selection.count === 2);
  }
  get canRelate() {
    return this.canEdge && this.other !== "";
  }
  get canLength() {
    const has = this.hasRail ? this.hasSecond || this.ground !== undefined : this.page.selection.count <= 2;
    return !this.locked && this.metres.trim() !== "" && has;
  }
  /** The ground that a rail lies on. */
  get ground() {
    return this.shot.state.statements.find((s) => s.kind === "plane" && s.faces === "ground" && !s.off);
  }
  get hint() {
    const { count } = this.page.selection;
    if (this.locked) return "The world is locked. Unlock it to state more.";
    if (this.drawing && !this.hasRail) return "Drag along an edge of the set, from end to end. Alt makes the pointer ten times finer.";
    if (this.hasSecond) return "The edge is drawn on two frames: say how long it is, wherever it is.";
    if (this.hasRail) {
      const ground = this.ground ? " On the ground this frame is enough." : "";
      return `Say where the rail runs. For its length draw the same edge again on another frame, between which the camera travels.${ground}`;
    }
    if (count === 0) return "Select features in the plate or in space (drag a box, shift adds), or draw a rail along an edge.";
    if (count === 1) return "One feature: it is the origin, or so far from the camera on this frame.";
    if (count === 2) return "Two features: an edge between them runs somewhere, or they are so far apart.";
    return `${count} features: they lie on one plane.`;
  }
  get lengthText() {
    if (this.hasRail) return this.hasSecond ? "Edge length" : "Rail on the ground";
    return ["Camera height", "From the camera", "Length"][this.page.selection.count] ?? "Length";
  }

  add(label, fact) {
    return this.shot.edit(label, {}, { statements: { add: [fact] } });
  }
  /** The rail that was drawn last: of an edge drawn on two frames either says where it runs. */
  get lastRail() {
    return this.data.second ?? this.data.rail;
  }
  addPlane(faces) {
    const usual = { ground: "ground", level: "level plane" }[faces] ?? "wall";
    const name = this.name.trim() || usual;
    this.name = "";
    return this.add(`state ${name}`, { kind: "plane", name, faces, on: this.chosen });
  }
  addOrigin() {
    return this.add("state the origin", { kind: "origin", at: this.page.selection.first });
  }
  async addEdge(runs) {
    const rail = this.lastRail;
    const edge = this.hasRail ? { rail } : { features: this.chosen };
    if (await this.add("state an edge", { kind: "edge", edge, runs })) this.dropRail();
  }
  relate(how) {
    return this.addEdge({ [how]: Number(this.other) });
  }
  async addHorizon() {
    if (await this.add("state the horizon", { kind: "horizon", rail: this.lastRail })) this.dropRail();
  }
  async addLength() {
    const { selection, playback } = this.page;
    const [length_m, sigma_m] = [numberOr(this.metres, "m"), errorIn(this.sigma)];
    if (this.hasRail) return this.addRailLength(length_m, sigma_m);
    const ends = this.chosen.map((id) => ({ feature: id }));
    if (ends.length === 1) ends.unshift({ camera: playback.frame });
    const fact = selection.count
      ? { kind: "length", between: ends, length_m, sigma_m }
      : { kind: "camera_height", frame: playback.frame, height_m: length_m, sigma_m };
    if (await this.add("state a length", fact)) this.metres = "";
  }
  async addRailLength(length_m, sigma_m) {
    const { rail, second } = this.data;
    const between = endsOf(rail, second, this.ground?.id);
    if (!(await this.add("state a length", { kind: "length", between, length_m, sigma_m }))) return;
    this.metres = "";
    this.dropRail();
  }
  async addByHand() {
    const [turn_deg, shift_m] = [this.turn, this.shift].map((text) => (String(text).trim() ? three(text) : [0, 0, 0]));
    const scale = numberOr(this.times) ?? 1;
    if (await this.add("move the world by hand", { kind: "by_hand", turn_deg, shift_m, scale })) Object.assign(this, { turn: "", shift: "", times: "" });
  }
  get canByHand() {
    return !this.locked && [this.turn, this.shift, this.times].some((text) => String(text).trim());
  }

  // By hand with the arrow keys: what is moved goes into the last such statement, or a new one.
  handle(key) {
    this.handled = this.handled === key ? "" : key;
  }
  nudge(event) {
    if (!this.handled || this.locked) return false;
    const [x, y] = ARROWS[event.key];
    const step = HANDLED.find((h) => h.key === this.handled).step * (event.altKey ? 0.1 : 1);
    const moved = (this.data.moved ??= this.lastByHand());
    const add = (list, axis, by) => (list[axis] = Math.round((list[axis] + by) * 1e6) / 1e6);
    if (this.handled === "turn") {
      add(moved.turn_deg, 1, x * step);
      add(moved.turn_deg, 0, -y * step);
    } else if (this.handled === "shift") {
      add(moved.shift_m, 0, x * step);
      add(moved.shift_m, event.shiftKey ? 1 : 2, event.shiftKey ? y * step : -y * step);
    } else moved.scale = Math.round(moved.scale * (1 + (x + y) * step) * 1e6) / 1e6;
    this.data.unkept = true;
    return true;
  }
  lastByHand() {
    const last = this.shot.state.statements.at(-1);
    return last?.kind === "by_hand" && !last.off ? plain(last) : { kind: "by_hand", turn_deg: [0, 0, 0], shift_m: [0, 0, 0], scale: 1 };
  }
  /** Keeps what keys have moved; what they move meanwhile is kept after it, on top. */
  async keepNudge() {
    const { data } = this;
    // Alt that is let go during a drag ends nothing.
    if (!data.moved || data.keeping || data.dragging) return;
    data.keeping = true;
    if (this.page.spaceView) this.page.spaceView.stays = true;
    while (data.unkept) {
      data.unkept = false;
      const moved = structuredClone(data.moved);
      const kept = await this.shot.edit("move the world by hand", {}, { statements: moved.id ? { change: [moved] } : { add: [moved] } });
      if (!kept) {
        data.unkept = false;
        this.page.spaceView?.repaint();
        this.page.stage.dropDraft();
        break;
      }
      data.moved.id ??= this.shot.state.statements.at(-1).id;
    }
    Object.assign(data, { moved: null, keeping: false });
  }

  /** Handles in space and over the plate are there while the world is moved by hand. */
  openHand(event) {
    this.byHand = event.target.open;
    this.page.spaceView?.draw();
    this.page.stage.follow().catch(() => {});
    this.page.redraw();
  }
  /** What a handle of the world does; a drag changes the same statement as the keys. */
  handleHost() {
    const nothing = { turn_deg: [0, 0, 0], shift_m: [0, 0, 0], scale: 1 };
    let base = null;
    return {
      at: () => (this.byHand && !this.locked && this.page.route.at("orient") ? [0, 0, 0] : null),
      begun: () => {
        base = plain(this.data.moved ?? this.lastByHand());
        this.data.dragging = true;
      },
      moved: (drag) => {
        Object.assign(this.data, { moved: dragged(base, drag), unkept: true });
        const change = dragged(nothing, drag);
        this.page.spaceView?.preview(change);
        this.page.stage.draft(change);
      },
      done: async () => {
        await this.page.stage.drafted();
        this.data.dragging = false;
        return this.keepNudge();
      },
    };
  }

  // What is done with a statement.
  thing(row) {
    return plain(this.shot.state.statements.find((s) => s.id === row.id));
  }
  toggle(row) {
    const off = !this.thing(row).off;
    return this.shot.alter(`switch ${row.name} ${off ? "off" : "on"}`, "statements", row.id, (thing) => ({ ...thing, off }));
  }
  remove(row) {
    return this.shot.edit(`remove ${row.name}`, {}, { statements: { remove: [row.id] } });
  }
  show(row) {
    this.looked = row.id;
    if (row.frame !== null) this.page.playback.seek(row.frame);
    this.page.selection.pick(row.tracks, false);
  }
  startOver() {
    const remove = this.rows.map((row) => row.id).filter((id) => id !== null);
    return this.shot.edit("remove all statements", {}, { statements: { remove } });
  }
  get countText() {
    return several(this.rows.filter((row) => !row.off).length, "statement");
  }
  toggleLock() {
    return this.shot.edit(this.locked ? "unlock the world" : "lock the world", { world_locked: !this.locked });
  }
  setGrid(event) {
    return this.shot.edit("set the grid", { grid_m: numberOr(event.target.value, "m") });
  }

  // What landmarks and pictures propose.
  async propose() {
    const answer = await get(`${this.shot.address}/proposals`).catch((e) => ({ proposals: [], said: e.message }));
    this.proposals = answer.proposals;
    this.proposed = answer.said;
  }
  async take(proposals) {
    const facts = proposals.flatMap((p) => plain(p.facts));
    if (!facts.length || !(await this.shot.edit("take what is proposed", {}, { statements: { add: facts } }))) return;
    this.proposals = this.proposals.filter((p) => !proposals.includes(p));
  }
  takeOne(proposal) {
    return this.take([proposal]);
  }
  takeSure() {
    return this.take(this.proposals.filter((p) => p.sure));
  }
  get hasSure() {
    return !this.locked && this.proposals.some((p) => p.sure);
  }
  look(proposal) {
    const edges = proposal.facts.filter((fact) => fact.kind === "edge");
    this.data.offered = edges.map(({ edge, runs }) => ({ ...plain(edge.rail), axis: FAMILY[runs] }));
    if (edges.length) this.page.playback.seek(edges[0].edge.rail.frame);
    this.page.selection.pick(proposal.tracks, false);
    this.page.redraw();
  }
  /** Edges on this frame that a proposal which is looked at would state. */
  get offered() {
    const here = this.data.offered.filter((rail) => this.proposals.length && rail.frame === this.page.playback.frame);
    return here.map(({ a, b, axis }) => ({ a: [a.x, a.y], b: [b.x, b.y], axis }));
  }

  // Rails over the plate.
  toggleDrawing() {
    this.drawing = !this.drawing;
    if (!this.drawing) this.dropRail();
  }
  dropRail() {
    Object.assign(this.data, { rail: null, second: null });
    Object.assign(this, { hasRail: false, hasSecond: false, drawing: false });
    this.page.redraw();
  }
  /** Rails of statements on this frame, as they are dragged. */
  railsShown() {
    const { frame } = this.page.playback;
    const { dragged } = this.data;
    return this.shot.state.statements.flatMap((s) => {
      const rail = railOn(s, frame);
      if (!rail) return [];
      const { a, b } = dragged?.id === s.id ? dragged.rail : rail;
      return [{ id: s.id, a: [a.x, a.y], b: [b.x, b.y], axis: FAMILY[s.runs] ?? null, off: s.off }];
    });
  }
  host() {
    const { data, page } = this;
    const px = ([x, y]) => ({ x, y });
    const here = () => [data.rail, data.second].find((rail) => rail?.frame === page.playback.frame) ?? null;
    const shown = (rail) => rail && { a: [rail.a.x, rail.a.y], b: [rail.b.x, rail.b.y], axis: null };
    return {
      picture: () => page.playback.picture,
      loupe: (shown) => (page.stage.loupe = shown),
      drawing: () => this.drawing && !this.locked,
      locked: () => this.locked,
      draft: () => shown(here()),
      shown: () => this.railsShown(),
      offered: () => this.offered,
      drawn: (a, b) => {
        const rail = { frame: page.playback.frame, a: px(a), b: px(b) };
        // On another frame it is the same edge once more.
        if (data.rail && data.rail.frame !== rail.frame) data.second = rail;
        else data.rail = rail;
        Object.assign(this, { hasRail: true, hasSecond: data.second !== null });
      },
      dropped: (id) => id === null && page.redraw(),
      dragged: (id, end, at) => {
        if (id === null) return void (here()[end] = px(at));
        const thing = this.thing({ id });
        const rail = data.dragged?.id === id ? data.dragged.rail : { ...railOn(thing, page.playback.frame) };
        rail[end] = px(at);
        data.dragged = { id, rail };
      },
      moved: async (id) => {
        const { rail } = data.dragged ?? {};
        if (!rail) return;
        await this.shot.edit(`move the rail of #${id}`, {}, { statements: { change: [withRail(this.thing({ id }), rail)] } });
        data.dragged = null;
        page.redraw();
      },
    };
  }
}
