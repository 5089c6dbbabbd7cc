// Recipes at Deliver: what goes in, for whom, in which formats; and what was delivered by each.
import { get } from "../page/api.js";
import { numberOr } from "../page/numbers.js";
import { plain } from "../page/reactive.js";

/** Formats by what they hold, with short names. */
const KINDS = [
  ["Scene", [["usd", "USD"], ["usdz", "USDZ"], ["gltf", "glTF"], ["glb", "GLB"]]],
  ["Camera", [["camera_json", "JSON"], ["camera_csv", "table"]]],
  ["Landmarks", [["landmarks_ply", "PLY"]]],
  ["Guests, set", [["obj", "OBJ"], ["ply", "PLY"]]],
  ["Tracks", [["tracks_csv", "CSV"], ["tracks_json", "JSON"]]],
  ["Paths, ST maps", [["paths_csv", "CSV"], ["st_maps", "EXR"]]],
];
const UNITS = ["metre", "decimetre", "centimetre", "millimetre", "inch", "foot"];
/** Formats that have their own axes, whatever the receiver's are. */
const OWN_AXES = ["gltf", "glb"];

export class Recipes {
  constructor(page) {
    Object.assign(this, { page, picked: 0, others: [], units: UNITS });
  }
  get shot() {
    return this.page.shot;
  }
  get list() {
    return this.shot.state.recipes;
  }
  get rows() {
    return this.list.map((r) => ({ id: r.id, name: r.name, isChosen: r.id === this.chosen, ...this.standing(r.id) }));
  }
  /** How what was delivered by a recipe stands. */
  standing(id) {
    if (this.isAtWork(id)) return { level: "", figure: "at work …" };
    const { made } = this.rowOf(id);
    if (!made) return { level: "", figure: "not made" };
    if (made.stale) return { level: "warn", figure: `v${made.version}, stale` };
    const { receipt } = made;
    if (!receipt?.files_agree) return { level: "bad", figure: `v${made.version}, differs` };
    return { level: receipt.camera?.good && !receipt.stale.length ? "ok" : "warn", figure: `v${made.version}, ${receipt.largest_difference_px.toFixed(4)} px` };
  }
  rowOf(id) {
    return this.shot.recipes.find((r) => r.id === id) ?? { made: null };
  }
  isAtWork(id) {
    return this.page.work.jobs.some((j) => ["queued", "running"].includes(j.state) && j.kind.startsWith("deliver") && (j.about === id || (!j.about && id === this.list[0]?.id)));
  }

  // The chosen one.
  get chosen() {
    return this.list.some((r) => r.id === this.picked) ? this.picked : (this.list[0]?.id ?? 0);
  }
  get recipe() {
    return this.list.find((r) => r.id === this.chosen) ?? null;
  }
  get row() {
    return this.rowOf(this.chosen);
  }
  get made() {
    return this.row.made;
  }
  get heading() {
    return `What ${this.recipe.name} holds`;
  }
  pick(id) {
    this.picked = id;
  }
  get kinds() {
    const formats = this.recipe?.formats ?? [];
    const title = (key) => this.shot.formats.find((f) => f.key === key)?.title ?? key;
    return KINDS.map(([name, all]) => ({ name, all: all.map(([key, short]) => ({ key, short, title: title(key), isOn: formats.includes(key) })) }));
  }
  get receiver() {
    return { up: "y", hand: "right", unit: "metre", scale: 1, ...this.recipe?.receiver };
  }
  get axesSaid() {
    const formats = this.recipe?.formats ?? [];
    const said = [];
    const { up, hand, unit } = this.receiver;
    if (hand === "left" && formats.some((f) => f.startsWith("usd"))) said.push("OpenUSD is right-handed by definition and stays so.");
    if ((up !== "y" || hand !== "right" || unit !== "metre") && formats.some((f) => OWN_AXES.includes(f))) said.push("glTF is Y up, right-handed and in metres by definition and stays so.");
    return said.join(" ");
  }
  get rose() {
    return this.row.rose ?? { up: "", along: "", across: "" };
  }
  get roseText() {
    const { up, along, across } = this.rose;
    return `In the receiver up is ${up}, along is ${along}, across is ${across}`;
  }
  get first() {
    return this.recipe.first_frame ?? "";
  }
  get folder() {
    return this.recipe.folder ?? "";
  }
  get author() {
    return this.recipe.author ?? "";
  }
  get note() {
    return this.recipe.note ?? "";
  }
  get isStale() {
    return (this.shot.stale_since ?? []).length > 0;
  }
  get holdsLandmarks() {
    return this.recipe?.landmarks !== "none";
  }
  /** Groups of features, and those in none. */
  get groups() {
    const named = new Set(Object.values(this.shot.state.notes).map((n) => n.group).filter(Boolean));
    const chosen = this.recipe?.landmarks?.groups ?? null;
    return [...[...named].sort(), ""].map((key) => ({ key, name: key || "in no group", isOn: chosen ? chosen.includes(key) : this.holdsLandmarks }));
  }
  get hasGroups() {
    return this.groups.length > 1 && this.holdsLandmarks;
  }

  // What is done to it: to the recipe as it stands when the turn of the change comes.
  change(label, changed) {
    return this.shot.alter(label, "recipes", this.chosen, changed);
  }
  set(label, patch) {
    return this.change(label, (recipe) => ({ ...recipe, ...patch }));
  }
  rename(event) {
    return this.set("name a recipe", { name: event.target.value });
  }
  toggleFormat(key) {
    const toggled = (formats) => (formats.includes(key) ? formats.filter((f) => f !== key) : [...formats, key]);
    return this.change("choose formats", (recipe) => ({ ...recipe, formats: toggled(recipe.formats) }));
  }
  setReceiver(fact, value) {
    return this.change("state the receiver's axes", (recipe) => ({ ...recipe, receiver: { ...recipe.receiver, [fact]: value } }));
  }
  setScale(event) {
    return this.setReceiver("scale", numberOr(event.target.value) ?? 1);
  }
  /** What goes in or not, with a word on each. */
  get parts() {
    const all = [
      ["guests", "guests", "Guests that are shown, with their motion"],
      ["set", "set", "Stated planes, as far as their features reach"],
      ["bodies", "bodies", "Things that move by themselves, each with its landmarks below a transform on every frame"],
      ["undistorted", "undistorted plate", "In a folder of its own with its ST maps; it is made first where it is not there"],
    ];
    // A photograph has one frame and no stated planes.
    const shown = this.page.deliver.isStill ? all.filter(([key]) => key !== "set" && key !== "bodies") : all;
    return shown.map(([key, name, title]) => ({ key, name, title, isOn: Boolean(this.recipe?.[key]) }));
  }
  togglePart(key) {
    return this.change("choose what goes in", (recipe) => ({ ...recipe, [key]: !recipe[key] }));
  }
  toggleLandmarks() {
    return this.change("choose what goes in", (recipe) => ({ ...recipe, landmarks: recipe.landmarks === "none" ? "all" : "none" }));
  }
  toggleGroup(key) {
    const every = this.groups.map((g) => g.key);
    const toggled = (landmarks) => {
      const on = landmarks?.groups ?? every;
      const next = on.includes(key) ? on.filter((g) => g !== key) : [...on, key];
      return every.every((g) => next.includes(g)) ? "all" : { groups: next };
    };
    return this.change("choose groups", (recipe) => ({ ...recipe, landmarks: toggled(recipe.landmarks) }));
  }
  setTime(time) {
    return this.set("count time", { time });
  }
  setFirst(event) {
    return this.set("number the delivery", { first_frame: numberOr(event.target.value) });
  }
  setText(member, event) {
    return this.set(`state the ${member === "names" ? "names of files" : member}`, { [member]: event.target.value.trim() });
  }
  async add() {
    await this.addCopy({ ...plain(this.recipe ?? {}), name: this.free("New recipe"), formats: this.recipe?.formats ?? ["usd"] });
  }
  async addCopy({ id, ...recipe }) {
    if (await this.shot.edit("add a recipe", {}, { recipes: { add: [recipe] } })) this.picked = this.list.at(-1).id;
  }
  free(name) {
    const taken = new Set(this.list.map((r) => r.name));
    let number = 1;
    while (taken.has(number > 1 ? `${name} ${number}` : name)) number += 1;
    return number > 1 ? `${name} ${number}` : name;
  }
  remove() {
    return this.shot.edit("remove a recipe", {}, { recipes: { remove: [this.chosen] } });
  }
  /** Other shots whose recipes can be taken. */
  async loadOthers() {
    const shots = await get("/api/shots");
    this.others = shots.filter((s) => s.id !== this.shot.id);
  }
  takeFrom(event) {
    const other = event.target.value;
    event.target.value = "";
    return other ? this.shot.act(() => this.shot.post(`/recipes/from/${other}`)) : null;
  }

  // Deliveries.
  get canDeliver() {
    return this.canDeliverStale && !(this.shot.stale_since ?? []).length;
  }
  get canDeliverStale() {
    const { laid } = this.page;
    const { attempt, rate } = this.shot.state;
    return Boolean(laid ? laid.figures : attempt && rate) && this.recipe !== null && this.recipe.formats.length > 0 && !this.isAtWork(this.chosen);
  }
  /** The next step with the chosen one, where it can be delivered. */
  get next() {
    if (!this.shot.state || !this.canDeliver) return null;
    if (this.made && !this.made.stale) return { text: "Download the package", field: "#package" };
    return { text: `Deliver ${this.recipe.name}`, work: "deliver" };
  }
  get againIds() {
    return this.shot.recipes.filter((r) => r.made?.stale).map((r) => r.id);
  }
  get againText() {
    return this.againIds.length === 1 ? "Deliver the stale one again" : `Deliver the ${this.againIds.length} stale ones again`;
  }
  get canAgain() {
    return this.againIds.length > 0 && this.canDeliver;
  }
  deliver(kind) {
    return this.begin(kind, this.chosen);
  }
  begin(kind, recipe) {
    return this.shot.act(() => this.shot.post("/jobs", { kind, recipe }));
  }
  async deliverAgain() {
    for (const id of this.againIds) await this.begin("deliver", id);
  }
  get link() {
    return this.made ? `${this.shot.address}/deliveries/${this.made.delivery}` : "#";
  }
  get madeSaid() {
    const { made } = this;
    if (!made) return "";
    const where = made.folder ? `; also in ${made.folder}` : "";
    // Of before there were recipes neither is known.
    if (!made.name) return "An earlier package.";
    return `${made.name}.zip, made ${made.made.replace("T", " ").replace("Z", " UTC")}${where}`;
  }
  get changedSaid() {
    const said = this.made?.changed;
    return said ? `${said[0].toUpperCase()}${said.slice(1)}.` : "";
  }
}
