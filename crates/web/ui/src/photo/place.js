// The Orient station of a photograph: the station mark on the ground, and a staff of known length.
import { numberOr } from "../page/numbers.js";
import { unwatched } from "../page/reactive.js";

export const LENGTH_AXES = [{ key: "y", name: "up" }, { key: "x", name: "along" }, { key: "z", name: "across" }, { key: "ground", name: "over the ground" }];
export const axisOf = (key) => (key === "ground" ? null : key);
const keyOf = (axis) => axis ?? "ground";

export class Place {
  constructor(page) {
    Object.assign(this, { page, axis: "y", metres: "", bare: false });
    this.axes = LENGTH_AXES;
    // A staff that is drawn and waits for its length.
    this.data = unwatched({ staff: null });
  }
  follow() {
    const { known } = this.page.laid.kept;
    if (!known) return;
    this.metres = String(known.metres);
    this.axis = keyOf(known.axis);
    this.drop();
  }
  drop() {
    this.data.staff = null;
    this.bare = false;
  }
  get hint() {
    if (this.bare) return "How long is it? Type its length in metres.";
    return "Drag in the picture from the foot, on the ground, to the other end; drag its ends to mend it.";
  }
  /** Which staff is drawn: the one under the pointer or waiting, or the kept one. */
  get staff() {
    return this.data.staff ?? this.page.laid.now.photo.known;
  }

  lay(from, to) {
    const { now } = this.page.laid;
    const metres = numberOr(this.metres, "m");
    if (typeof metres === "number" && metres > 0) {
      now.photo.known = { axis: axisOf(this.axis), from, to, metres };
      this.page.laid.ask();
    } else this.data.staff = { axis: axisOf(this.axis), from, to };
    this.page.redraw();
  }
  /** The staff is drawn: kept where its length was typed, else it waits for that. */
  laid() {
    if (!this.data.staff) return this.keep();
    this.bare = true;
    document.querySelector("#metres")?.focus();
  }
  keep() {
    return this.page.laid.change("state a length", { known: this.page.laid.now.photo.known });
  }
  setMetres() {
    const metres = numberOr(this.metres, "m");
    const staff = this.data.staff ?? this.page.laid.kept.known;
    if (!staff || metres === null) return;
    return this.page.laid.change("state a length", { known: { axis: staff.axis, from: staff.from, to: staff.to, metres } });
  }
  setAxis(key) {
    this.axis = key;
    if (this.data.staff) this.data.staff.axis = axisOf(key);
    const { known } = this.page.laid.kept;
    if (known) return this.page.laid.change("say how a length runs", { known: { ...known, axis: axisOf(key) } });
    this.page.redraw();
  }
  clear() {
    this.drop();
    this.metres = "";
    return this.page.laid.change("clear the length", { known: null });
  }
}
