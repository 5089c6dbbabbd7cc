// Values of a lens as they are stated, and the library of lenses.
import { get, post, remove, send } from "../page/api.js";
import { numberOr } from "../page/numbers.js";

export class LensLibrary {
  constructor(page) {
    Object.assign(this, { page, list: [], said: "", label: { body: "", lens: "", focal_mm: "", focus: "" } });
    this.units = [{ key: "focal", name: "focal" }, { key: "half-width", name: "½ width" }, { key: "half-diagonal", name: "½ diagonal" }];
  }
  get shot() {
    return this.page.shot;
  }
  get values() {
    return this.shot.state.lens.values;
  }

  // Values. What does not parse is refused by the server with a sentence.
  state(label, values) {
    return this.page.lens.edit(label, { source: "values", values: { ...values, taken_from: null } });
  }
  setTerm(key, event) {
    return this.state(`set ${key}`, { terms: { [key]: numberOr(event.target.value) ?? 0 } });
  }
  setConvention(convention) {
    return this.state("set the convention", { convention });
  }
  setUnit(event) {
    return this.state("set the unit of the radius", { focal_px: numberOr(event.target.value, "px") });
  }
  takeUnit(key) {
    const { width, height } = this.shot;
    const half = { "half-width": width / 2, "half-diagonal": Math.hypot(width, height) / 2 }[key] ?? null;
    return this.state("set the unit of the radius", { focal_px: half });
  }
  setCentre(event) {
    const text = event.target.value.trim();
    const two = text.split(/[ ;]+|, */).map((t) => numberOr(t, "px"));
    return this.state("set the centre", { centre: text === "" ? null : two });
  }
  get centreText() {
    return this.values.centre?.map((v) => v.toFixed(1)).join(", ") ?? "";
  }
  get olderText() {
    const older = this.page.lens.live?.older;
    if (!older) return "";
    const { k1, k2, k3, p1, p2 } = older.terms;
    const tangential = p1 || p2 ? `, p1 ${p1.toFixed(5)}, p2 ${p2.toFixed(5)}` : "";
    return `k1 ${k1.toFixed(5)}, k2 ${k2.toFixed(5)}, k3 ${k3.toFixed(5)}${tangential}; error ${older.largest_px.toFixed(3)} px at most`;
  }

  // The library.
  async load() {
    try {
      this.list = (await get("/api/lenses")).kept;
    } catch (e) {
      this.shot.refuse(e.message);
    }
  }
  take(id) {
    return this.shot.act(() => this.shot.post("/lens/take", { lens: id }));
  }
  async change(said, work) {
    try {
      this.list = (await work()).kept;
      this.said = said;
    } catch (e) {
      this.shot.refuse(e.message);
    }
  }
  keep() {
    const { body, lens: name, focal_mm, focus } = this.label;
    const label = { body, lens: name, focal_mm: numberOr(focal_mm, "mm"), focus };
    return this.change(`${name} is kept for other shots.`, () => post(`${this.shot.address}/lens/keep`, label));
  }
  forget(id) {
    return this.change("Removed from the library; shots that took it keep its values.", () => remove(`/api/lenses/${id}`));
  }
  async importFile(event) {
    const [file] = event.target.files;
    if (!file) return;
    const text = await file.text();
    event.target.value = "";
    await this.change(`${file.name} is in the library.`, () => send("/api/lenses", text));
  }
}
