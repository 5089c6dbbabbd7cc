// Pictures of the plate with its guests as the server draws them: one frame, and the movie.
import { numberOr } from "../page/numbers.js";
import { unwatched } from "../page/reactive.js";

export class Movie {
  constructor(page) {
    Object.assign(this, { page, still: "" });
    this.data = unwatched({ still: null });
  }
  get shot() {
    return this.page.shot;
  }
  get kind() {
    return this.shot.state.movie;
  }
  set(member, value) {
    return this.shot.edit("set the movie", { movie: { [member]: value } });
  }
  setRays(event) {
    return this.set("rays", Number(event.target.value));
  }
  setShutter(event) {
    return this.shot.edit("set the shutter", { shutter_deg: numberOr(event.target.value, "°") });
  }
  get link() {
    return `${this.shot.address}/movie`;
  }
  get said() {
    const made = this.shot.movie;
    if (!made) return "";
    return made.current ? "It shows the shot as it is now." : "Something has changed since it was made.";
  }
  /** This frame as the movie will have it. */
  async drawStill() {
    const { frame } = this.page.playback;
    this.still = "Drawing …";
    try {
      const response = await fetch(`${this.shot.address}/guests/picture?frame=${frame}&rays=${this.kind.rays}`);
      if (!response.ok) throw new Error((await response.json()).error);
      const picture = await createImageBitmap(await response.blob());
      this.data.still = { frame, version: this.shot.version, picture };
      this.still = `Frame ${frame} as the movie will have it, until something changes.`;
    } catch (e) {
      this.still = e.message;
    }
    this.page.redraw();
  }
  /** The finely drawn picture, while it is of this frame and of what there is. */
  get stillShown() {
    const { still } = this.data;
    const { playback, route, shot, lens } = this.page;
    return still && route.at("proof") && !playback.playing && !lens.bendShown && still.frame === playback.frame && still.version === shot.version ? still.picture : null;
  }
}
