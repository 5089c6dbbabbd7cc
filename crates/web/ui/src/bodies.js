// The library of camera bodies: choosing one states the film back, keeping one remembers it.
import { get, post } from "./api.js";

const label = (b) => `${b.name}, ${b.width_mm}×${b.height_mm} mm`;

export const bodies = {
  bodies: [],
  bodyName: "",
  bodySaid: "",

  async loadBodies() {
    try {
      this.listBodies(await get("/api/bodies"));
    } catch (e) {
      this.error = e.message;
    }
  },
  listBodies({ kept, formats }) {
    this.bodies = [...kept, ...formats].map((b, i) => ({ ...b, key: String(i), text: label(b) }));
  },
  takeBody(event) {
    const body = this.bodies.find((b) => b.key === event.target.value);
    event.target.value = "";
    if (!body) return;
    this.bodySaid = `${body.name}: the largest part of it with the picture's proportions.`;
    const back = { width_mm: body.width_mm, height_mm: body.height_mm };
    return this.act(() => post(`/api/shots/${this.id}/body`, back));
  },
  async keepBody() {
    const { width_mm, height_mm } = this.s.state.film_back;
    const name = this.bodyName.trim();
    this.error = "";
    try {
      this.listBodies(await post("/api/bodies", { name, width_mm, height_mm }));
      this.bodySaid = `${name} is kept for other shots.`;
      this.bodyName = "";
    } catch (e) {
      this.error = e.message;
    }
  },
};
