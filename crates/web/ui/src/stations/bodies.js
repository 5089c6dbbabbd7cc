// The library of camera bodies: choosing one states the film back, keeping one remembers it.
import { get, post } from "../page/api.js";

const label = (b) => `${b.name}, ${b.width_mm}×${b.height_mm} mm`;

export class Bodies {
  constructor(page) {
    Object.assign(this, { page, list: [], name: "", said: "" });
  }
  async load() {
    try {
      this.show(await get("/api/bodies"));
    } catch (e) {
      this.page.shot.refuse(e.message);
    }
  }
  show({ kept, formats }) {
    this.list = [...kept, ...formats].map((b, i) => ({ ...b, key: String(i), text: label(b) }));
  }
  take(event) {
    const body = this.list.find((b) => b.key === event.target.value);
    event.target.value = "";
    if (!body) return;
    this.said = `${body.name}: the largest part of it with the picture's proportions.`;
    const { shot } = this.page;
    return shot.act(() => shot.post("/body", { width_mm: body.width_mm, height_mm: body.height_mm }));
  }
  async keep() {
    const { width_mm, height_mm } = this.page.shot.state.film_back;
    const name = this.name.trim();
    try {
      this.show(await post("/api/bodies", { name, width_mm, height_mm }));
      this.said = `${name} is kept for other shots.`;
      this.name = "";
    } catch (e) {
      this.page.shot.refuse(e.message);
    }
  }
}
