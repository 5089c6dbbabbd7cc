// Guests over the plate: a click places one, a drag moves it over what it stands on, its lower corner turns it, its
// upper corner makes it larger. Alt makes the pointer ten times finer.
import { knobs } from "../layers/guests.js";
import { dragOn } from "./fine-drag.js";

const GRAB_PX = 10;
/** Degrees a px, and how many px make it twice as large. */
const DEGREES = 0.5;
const DOUBLES_PX = 160;

export class GuestTool {
  constructor(page) {
    Object.assign(this, { page, drag: null });
  }

  /** The guests as the page watches them. */
  get host() {
    return this.page.guests;
  }

  down(e, view) {
    const { host } = this;
    const screen = view.at(e);
    const at = view.viewport.screenToPlate(...screen);
    if (host.placing) return host.placeAt(at), true;
    const { light } = this.page;
    if (light.shadowing) return light.shadowAt(at), true;
    const outlines = view.scene().overlay?.guests ?? [];
    const hit = this.hit(outlines, screen, view.viewport);
    if (!hit) return false;
    host.choose(hit.id);
    const stands = host.standsAt;
    if (!stands) return true;
    const { turn_deg, scale } = host.lie;
    this.drag = { ...hit, screen, begun: screen, at: [...at], from: at, moved: false, stands, turn: [...turn_deg], scale, next: null, offset: null };
    return true;
  }

  /** The knob or the guest under the pointer: those of the chosen one first. */
  hit(outlines, screen, viewport) {
    const near = ([x, y]) => Math.hypot(x - screen[0], y - screen[1]) < GRAB_PX;
    const chosen = outlines.find(([id]) => id === this.host.chosen);
    if (chosen) {
      const { turn, size } = knobs(chosen[1], viewport);
      if (turn && near(turn)) return { id: chosen[0], kind: "turn" };
      if (size && near(size)) return { id: chosen[0], kind: "size" };
    }
    const hidden = new Set(this.host.rows.filter((g) => g.hidden).map((g) => g.id));
    const inside = outlines.filter(([id, lines]) => !hidden.has(id) && within(lines, screen, viewport));
    const found = inside.find(([id]) => id === this.host.chosen) ?? inside[0];
    return found ? { id: found[0], kind: "move" } : null;
  }

  move(e, view) {
    const { drag, host } = this;
    if (!drag || !dragOn(drag, e, view)) return;
    const across = (drag.at[0] - drag.from[0]) * view.viewport.scale;
    const up = (drag.from[1] - drag.at[1]) * view.viewport.scale;
    if (drag.kind === "turn") {
      drag.turnTo = [drag.turn[0] + across * DEGREES, drag.turn[1], drag.turn[2]];
      return host.hold(drag.stands, drag.turnTo, drag.scale);
    }
    if (drag.kind === "size") {
      drag.scaleTo = Math.min(1e4, Math.max(1e-4, drag.scale * 2 ** (up / DOUBLES_PX)));
      return host.hold(drag.stands, drag.turn, drag.scaleTo);
    }
    this.ask([...drag.at]);
  }

  /** Asks where it would stand, one answer at a time; the last place that was asked for counts. */
  async ask(px) {
    const { drag, host } = this;
    drag.next = px;
    if (drag.asking) return;
    drag.asking = true;
    // It was taken somewhere on its body, and keeps its distance from the pointer.
    drag.grabbed ??= await host.under(drag.from, false);
    while (drag.next) {
      const wanted = drag.next;
      drag.next = null;
      const under = await host.under(wanted, false);
      if (under.none || drag.grabbed.none || under.on !== drag.grabbed.on) continue;
      drag.place = drag.stands.map((v, k) => v + under.place[k] - drag.grabbed.place[k]);
      if (this.drag === drag || drag.ended) host.hold(drag.place, drag.turn, drag.scale);
    }
    drag.asking = false;
    if (drag.ended && drag.place) host.moved(drag.place);
  }

  up(e, view) {
    const { drag, host } = this;
    this.drag = null;
    if (!drag?.moved) return;
    drag.ended = true;
    if (drag.turnTo) host.turned(drag.turnTo);
    else if (drag.scaleTo) host.scaled(drag.scaleTo);
    else if (!drag.asking && drag.place) host.moved(drag.place);
    view.soon();
  }

  ended() {}

  paint() {}
}

/** Whether a place lies within the outline of a box: in the hull of its ends. */
function within(lines, [x, y], viewport) {
  const ends = lines.flatMap((line) => [viewport.plateToScreen(line[0], line[1]), viewport.plateToScreen(line.at(-2), line.at(-1))]);
  if (ends.length < 3) return false;
  // Inside a hull all its points cannot be seen on one side of a line through the place.
  const angles = ends.map(([ex, ey]) => Math.atan2(ey - y, ex - x)).sort((a, b) => a - b);
  const gaps = angles.map((a, k) => (k + 1 < angles.length ? angles[k + 1] - a : angles[0] + 2 * Math.PI - a));
  return Math.max(...gaps) < Math.PI;
}
