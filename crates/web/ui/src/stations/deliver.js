// The Deliver station: receipts of what was delivered by the chosen recipe, the undistorted plate.
import { several } from "../page/numbers.js";

export class Deliver {
  constructor(page) {
    Object.assign(this, { page });
    this.writtens = [{ key: "png", name: "PNG", title: "16 bits" }, { key: "exr", name: "EXR", title: "half float" }, { key: "jpeg", name: "JPEG", title: "8 bits, quality 95" }];
  }
  get shot() {
    return this.page.shot;
  }
  get isStill() {
    return this.shot.plate.count === 1;
  }
  get receipt() {
    return this.page.recipes.made?.receipt ?? null;
  }

  // Two statements that are not one: whether files agree with the solve, whether the camera is good.
  get filesSaid() {
    return this.receipt.files_agree ? "The files agree with the solve." : "The files differ from the solve. Do not use them.";
  }
  get filesLevel() {
    return this.receipt.files_agree ? "ok" : "bad";
  }
  get cameraSaid() {
    const { camera } = this.receipt;
    if (!camera) return "Whether the camera is good was not kept with this delivery. Deliver again.";
    return camera.good ? "The camera is good." : `The camera needs a look: ${camera.reasons.join("; ").replace(/[.?]$/, "")}.`;
  }
  get cameraLevel() {
    return this.receipt.camera?.good ? "ok" : "warn";
  }
  get assumptionsSaid() {
    const { assumptions } = this.receipt;
    return assumptions?.length ? `Assumed: ${assumptions.join("; ")}.` : "";
  }
  get leftOutSaid() {
    const { left_out: left } = this.receipt;
    return left?.length ? `Not in it: ${left.join("; ")}.` : "";
  }
  get staleSaid() {
    const { stale } = this.receipt;
    return stale?.length ? `Delivered as stale: ${stale.join("; ")}.` : "";
  }
  /** What files have no place for, each said once with the files that lack it. */
  get lacking() {
    const by = new Map();
    for (const { file, lacks } of this.receipt.files) for (const lack of lacks ?? []) by.set(lack, [...(by.get(lack) ?? []), file]);
    return [...by].map(([lack, files]) => `${files.join(", ")}: no ${lack}.`);
  }
  get figures() {
    const { receipt } = this;
    const rows = [
      ["difference", "largest difference", `${receipt.largest_difference_px.toFixed(6)} px`],
      // A photograph has neither.
      ...(this.isStill ? [] : [["receipt-rate", "rate", receipt.rate], ["receipt-range", "range", receipt.range.join("–")]]),
      ["receipt-unit", "unit", receipt.units], ["receipt-up", "up", receipt.up_axis],
      ["receipt-compared", "compared", `${several(receipt.compared_points, "point")} × ${several(receipt.compared_frames, "frame")}`],
    ];
    const plate = receipt.undistorted;
    if (plate) rows.push(["receipt-undistorted", "undistorted plate", `${several(plate.frames, "frame")}, ${plate.largest_difference_px.toFixed(5)} px`]);
    return rows.map(([id, key, value]) => ({ id, key, value }));
  }
  get files() {
    return this.receipt.files.map((f) => ({ name: f.file, about: f.compared, sum: `SHA-256 ${f.sha256}`, off: `${f.largest_difference_px.toFixed(6)} px` }));
  }

  // The undistorted plate.
  get undistorted() {
    return this.shot.undistorted?.receipt ?? null;
  }
  get canUndistort() {
    const { used, along } = this.shot.lens;
    return Boolean(used || along);
  }
  get undistortedSize() {
    if (this.shot.lens.along) return "one size for all frames";
    return this.shot.lens.used ? `${this.page.lens.sizeText(this.shot.state.lens.keep)} px` : "no lens";
  }
  get undistortedLevel() {
    if (this.shot.undistorted.stale) return "warn";
    return this.undistorted.proven ? "ok" : "bad";
  }
  get undistortedSaid() {
    if (this.shot.undistorted.stale) return "The lens, the range or the format changed since. Undistort again.";
    return this.undistorted.proven ? "The written maps lead back to the plate." : "The written maps do not lead back to the plate. Do not use them.";
  }
  undistortedLink(file) {
    return `${this.shot.address}/undistorted/${this.shot.state.undistorted}${file ? `/${file}` : ""}`;
  }
  setWritten(written) {
    return this.shot.edit("set how pictures are written", { written });
  }
}
