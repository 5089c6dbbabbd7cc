// Guests at Proof: which there are, where they stand, how they move, the light on them and what of the set they meet.
import { get, remove } from "../page/api.js";
import { numberOr } from "../page/numbers.js";
import { bare, plain, unwatched } from "../page/reactive.js";
import { GuestTool } from "../tools/guest-tool.js";
import { lieDragged } from "./turns.js";

/** What stand-ins are called. */
const NAMES = { box: "Box", figure: "Figure", cylinder: "Cylinder", corner: "Corner box", sphere: "Sphere", plane: "Plane", checker: "Checker card", text: "Text card", arrow: "Arrow" };
/** Sizes that can be typed: where they are, what they are called, their unit. */
const SIZES = {
  box: [["size_m", 0, "Width"], ["size_m", 1, "Height"], ["size_m", 2, "Depth"]], corner: [["size_m", 0, "Along"], ["size_m", 1, "Up"], ["size_m", 2, "Across"]], plane: [["size_m", 0, "Width"], ["size_m", 1, "Depth"]],
  cylinder: [["diameter_m", null, "Across"], ["height_m", null, "Height"]], sphere: [["diameter_m", null, "Across"]], figure: [["height_m", null, "Height"]],
  checker: [["size_m", 0, "Width"], ["size_m", 1, "Height"], ["squares", null, "Squares"]], text: [["height_m", null, "Height"]], arrow: [["length_m", null, "Length"]], model: [],
};
const TURNS = ["about up", "about along", "about across"];
const SHIFTS = ["along", "up", "across"];

export class Guests {
  constructor(page) {
    Object.assign(this, { page, kind: "box", placing: false, chosen: 0, standIns: [], models: [], hint: "", marks: null, seen: 0 });
    this.tool = unwatched(new GuestTool(page));
    this.data = unwatched({ wanted: "", given: null, held: null });
  }
  get shot() {
    return this.page.shot;
  }

  // What there is.
  get kinds() {
    return [...this.standIns.map(({ kind }) => ({ key: kind, name: NAMES[kind] })), ...this.models.map((m) => ({ key: `model ${m.id}`, name: m.name }))];
  }
  get list() {
    return this.shot.state.guests ?? [];
  }
  get rows() {
    return this.list.map((g) => ({ id: g.id, name: g.name, hidden: g.hidden ?? false, kind: this.kindOf(g.what), isChosen: g.id === this.chosen }));
  }
  kindOf(what) {
    if (what.kind !== "model") return NAMES[what.kind].toLowerCase();
    return this.models.some((m) => m.id === what.model) ? "model" : "model is gone";
  }
  get guest() {
    return this.list.find((g) => g.id === this.chosen) ?? null;
  }
  get isText() {
    return this.guest?.what.kind === "text";
  }
  get text() {
    return this.guest?.what.text ?? "";
  }
  get name() {
    return this.guest?.name ?? "";
  }
  /** The lie on this frame: that of its key here, the one between keys, or the one that there is. */
  get lie() {
    const { guest } = this;
    if (!guest) return { shift_m: [0, 0, 0], turn_deg: [0, 0, 0], scale: 1 };
    const keys = guest.keys ?? [];
    const { frame } = this.page.playback;
    const here = keys.find((k) => k.frame === frame);
    return here?.lie ?? this.givenHere?.[2] ?? keys.findLast((k) => k.frame <= frame)?.lie ?? keys[0]?.lie ?? guest.lie;
  }
  /** What the server says of the chosen guest on this frame, where it moves: frame, place, lie. */
  get givenHere() {
    const given = this.seen ? this.data.given?.guests.find((g) => g.id === this.chosen) : null;
    return given?.frames.find(([f]) => f === this.page.playback.frame);
  }
  get sizes() {
    const what = this.guest?.what;
    if (!what) return [];
    return SIZES[what.kind].map(([member, index, name]) => ({ key: `${member}${index ?? ""}`, member, index, name, value: index === null ? what[member] : what[member][index], unit: member === "squares" ? "" : "m" }));
  }
  get shifts() {
    return SHIFTS.map((name, k) => ({ name, k, value: round(this.lie.shift_m[k]) }));
  }
  get turns() {
    return TURNS.map((name, k) => ({ name, k, value: round(this.lie.turn_deg[k]) }));
  }
  get scale() {
    return round(this.lie.scale);
  }
  get anchorText() {
    const at = this.guest?.at;
    return at === null || at === undefined ? "from the origin" : `from ${this.page.tracks.nameOf(at)}`;
  }
  get isAnchored() {
    return (this.guest?.at ?? null) !== null;
  }
  get keyText() {
    const keys = this.guest?.keys ?? [];
    if (!keys.length) return "stands still";
    return `keys on ${keys.map((k) => k.frame).join(", ")}`;
  }
  get hasKeyHere() {
    return (this.guest?.keys ?? []).some((k) => k.frame === this.page.playback.frame);
  }
  get said() {
    if (this.hint) return this.hint;
    if (this.placing) return "Click where it stands: on a landmark, the ground or a stated plane.";
    if (this.page.light.shadowing) return "Click where the shadow of the selected landmark falls.";
    if (!this.list.length) return "Choose what to put into the plate, then click where it stands.";
    return "Drag a guest to move it; its lower corner turns it, its upper corner makes it larger. In space it has a handle: rods shift, arcs turn. Alt is ten times finer.";
  }

  /** Landmarks and grid: where something is to be placed, or as long as nothing stands there, unless told otherwise. */
  get showsMarks() {
    return this.placing || this.page.light.shadowing || (this.marks ?? !this.list.length);
  }
  toggleMarks() {
    this.marks = !this.showsMarks;
    this.page.redraw();
  }
  get lacksGround() {
    return Boolean(this.shot.state.attempt) && !this.shot.orientation?.levelled;
  }

  // What is done.
  async open() {
    this.offer(await get("/api/models").catch(() => ({ stand_ins: [], models: [] })));
  }
  /** What can be put into the plate. */
  offer({ stand_ins, models }) {
    Object.assign(this, { standIns: stand_ins, models });
  }
  startPlacing() {
    this.placing = !this.placing;
    this.page.light.shadowing = false;
    this.hint = "";
    this.page.redraw();
  }
  stop() {
    Object.assign(this, { placing: false, hint: "" });
    this.page.light.shadowing = false;
  }
  choose(id) {
    if (this.chosen === id) return;
    this.chosen = id;
    this.page.spaceView?.host(this.data.given?.guests ?? [], id);
    this.page.asked();
    this.page.redraw();
  }
  what() {
    if (this.kind.startsWith("model ")) return { kind: "model", model: Number(this.kind.slice(6)) };
    return plain(this.standIns.find(({ kind }) => kind === this.kind));
  }
  /** A name that no other has. */
  nameFor(base) {
    const taken = new Set(this.list.map((g) => g.name));
    for (let k = 1; ; k++) {
      const name = k === 1 ? base : `${base} ${k}`;
      if (!taken.has(name)) return name;
    }
  }
  async add(at, lie) {
    const base = this.kinds.find((k) => k.key === this.kind).name.toLowerCase();
    const guest = { name: this.nameFor(base), what: this.what(), at, lie };
    const before = new Set(this.list.map((g) => g.id));
    this.stop();
    if (await this.shot.edit(`place ${guest.name}`, {}, { guests: { add: [guest] } })) this.choose(this.list.find((g) => !before.has(g.id))?.id ?? 0);
  }
  /** Stands the chosen kind on the selected landmark: one click for its depth. */
  standOnSelection() {
    return this.add(this.page.selection.first, { shift_m: [0, 0, 0], turn_deg: [0, 0, 0], scale: 1 });
  }
  async placeAt(px) {
    const under = await this.under(px, true);
    if (under.none) return (this.hint = under.none);
    const turn = [under.turn_deg ?? 0, 0, 0];
    if (under.feature !== null) return this.add(under.feature, { shift_m: [0, 0, 0], turn_deg: turn, scale: 1 });
    return this.add(null, { shift_m: under.place, turn_deg: turn, scale: 1 });
  }
  under([x, y], snap) {
    return get(`${this.shot.address}/place-guest?frame=${this.page.playback.frame}&x=${x}&y=${y}&snap=${snap}`).catch((e) => ({ none: e.message }));
  }
  /** What is changed is the guest as it stands when its turn comes. */
  change(label, changed) {
    return this.shot.alter(`${label} ${this.guest.name}`, "guests", this.chosen, (guest) => ({ ...guest, ...changed(guest) }));
  }
  /** A new lie, made of the one there is: into the key of this frame where it has keys, else for good. */
  changeLie(label, changed) {
    const { frame } = this.page.playback;
    const between = plain(this.lie);
    return this.change(label, (guest) => {
      const keys = guest.keys ?? [];
      if (!keys.length) return { lie: changed(guest.lie) };
      const here = keys.find((k) => k.frame === frame);
      const others = keys.filter((k) => k.frame !== frame);
      return { keys: [...others, { frame, lie: changed(here?.lie ?? between) }].sort((a, b) => a.frame - b.frame) };
    });
  }
  setSize(row, event) {
    const value = numberOr(event.target.value, "m");
    return this.change("size", ({ what }) => {
      if (row.index === null) what[row.member] = value;
      else what[row.member][row.index] = value;
      return { what };
    });
  }
  setText(event) {
    const text = event.target.value;
    return this.change("letter", ({ what }) => ({ what: { ...what, text } }));
  }
  setName(event) {
    const name = event.target.value;
    return this.change("name", () => ({ name }));
  }
  setShift(row, event) {
    const value = numberOr(event.target.value, "m");
    return this.changeLie("move", (lie) => ({ ...lie, shift_m: lie.shift_m.with(row.k, value) }));
  }
  setTurn(row, event) {
    const value = numberOr(event.target.value, "°");
    return this.changeLie("turn", (lie) => ({ ...lie, turn_deg: lie.turn_deg.with(row.k, value) }));
  }
  setScale(event) {
    const scale = numberOr(event.target.value);
    return this.changeLie("scale", (lie) => ({ ...lie, scale }));
  }
  toggleKey() {
    const { frame } = this.page.playback;
    if (this.hasKeyHere)
      return this.change("take a key off", ({ keys, lie }) => {
        const left = keys.filter((k) => k.frame !== frame);
        // The last key that goes leaves it where it was.
        return { keys: left, lie: left.length ? lie : keys[0].lie };
      });
    const between = plain(this.lie);
    return this.change("key", ({ keys = [], lie }) => ({ keys: [...keys, { frame, lie: keys.length ? between : lie }].sort((a, b) => a.frame - b.frame) }));
  }
  toggleHidden(row) {
    return this.shot.alter(`${row.hidden ? "show" : "hide"} ${row.name}`, "guests", row.id, (guest) => ({ ...guest, hidden: !row.hidden }));
  }
  copy() {
    const { id, ...guest } = plain(this.guest);
    guest.name = this.nameFor(guest.name.replace(/ \d+$/, ""));
    // Beside the first, so that both are seen.
    const beside = (lie) => ({ ...lie, shift_m: [lie.shift_m[0] + 0.5, lie.shift_m[1], lie.shift_m[2]] });
    guest.lie = beside(guest.lie);
    guest.keys = (guest.keys ?? []).map((k) => ({ ...k, lie: beside(k.lie) }));
    return this.shot.edit(`copy ${guest.name}`, {}, { guests: { add: [guest] } });
  }
  remove() {
    const { id, name } = this.guest;
    this.choose(0);
    return this.shot.edit(`remove ${name}`, {}, { guests: { remove: [id] } });
  }
  /** A model that nobody needs any more; guests that are it lose their surface. */
  forgetModel(id) {
    return this.shot.act(async () => {
      this.offer(await remove(`/api/models/${id}`));
      this.data.wanted = "";
      return null;
    });
  }
  async takeModel(event) {
    const form = new FormData();
    for (const file of event.target.files) form.append("files", file, file.name);
    event.target.value = "";
    await this.shot.act(async () => {
      const response = await fetch("/api/models", { method: "POST", body: form });
      const answer = await response.json();
      if (!response.ok) throw new Error(answer.error);
      this.offer(answer);
      this.kind = `model ${answer.model}`;
      return null;
    });
  }

  // Dragging: shown at once, kept when it ends.
  get drawn() {
    return this.data.given;
  }
  /** Shows the chosen guest at a lie before it is kept; `place` is where it stands in the world. */
  hold(place, turn_deg, scale) {
    this.held({ id: this.chosen, place, turn_deg, scale });
  }
  letGo() {
    this.held(null);
  }
  held(held) {
    const { guestsView, spaceView, playback } = this.page;
    guestsView?.layout(playback.frame, held);
    spaceView?.host(this.data.given?.guests ?? [], this.chosen, held);
    this.page.redraw();
  }
  /** What the handle of the chosen guest in space does: shifts and turns along the world's axes, and makes it larger. */
  handleHost() {
    // A lie whose shift is where the guest stands in the world.
    let [from, now, drag] = [null, null, null];
    return {
      at: () => (this.page.route.at("proof") ? (now?.shift_m ?? this.standsAt) : null),
      begun: () => (from = now ?? { ...plain(this.lie), shift_m: this.standsAt }),
      moved: (dragged) => {
        drag = dragged;
        now = lieDragged(from, drag);
        this.hold(now.shift_m, now.turn_deg, now.scale);
      },
      done: async () => {
        const [shown, kept] = [now, drag];
        drag = null;
        if (kept) await this.changeLie({ shift: "move", turn: "turn", scale: "scale" }[kept.what], (lie) => lieDragged(lie, kept));
        // It was taken again meanwhile.
        if (now !== shown) return;
        now = null;
        this.letGo();
      },
    };
  }
  /** Where the chosen guest stands on this frame. */
  get standsAt() {
    const given = this.seen ? this.drawn?.guests.find((g) => g.id === this.chosen) : null;
    const matrix = this.givenHere?.[1] ?? given?.matrix;
    return matrix ? [matrix[3], matrix[7], matrix[11]] : null;
  }
  /** Keeps a new place in the world. */
  async moved(place) {
    const by = this.standsAt.map((from, k) => place[k] - from);
    await this.changeLie("move", (lie) => ({ ...lie, shift_m: lie.shift_m.map((v, k) => v + by[k]) }));
    this.letGo();
  }
  async turned(turn_deg) {
    await this.changeLie("turn", (lie) => ({ ...lie, turn_deg }));
    this.letGo();
  }
  async scaled(scale) {
    await this.changeLie("scale", (lie) => ({ ...lie, scale }));
    this.letGo();
  }

  /** Asks the server for what is drawn, where something of it changed. */
  async follow() {
    const { page, data } = this;
    const { attempt, statements, constraints, guests, sun, met } = bare(page.shot.view).state;
    const wanted = attempt && guests.length ? JSON.stringify([attempt, statements, constraints, guests, sun, met]) : "";
    if (data.wanted === wanted) return;
    data.wanted = wanted;
    const given = wanted ? await get(`${page.shot.address}/guests`).catch(() => null) : { guests: [], set: [], sun: { towards: [0, 1, 0], strength: 0, sky: 0, ground: 0 } };
    if (!given) return (data.wanted = "");
    if (data.wanted !== wanted) return;
    data.given = given;
    // Who shows where guests stand hears of it.
    this.seen += 1;
    await page.guestsView?.show(given);
    page.spaceView?.host(given.guests, this.chosen);
    page.redraw();
  }
}

const round = (value) => (typeof value === "number" ? Math.round(value * 1e4) / 1e4 : value);
