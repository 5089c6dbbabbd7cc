// Several tools over one plate.

/** The first that has something to do under the pointer takes it. */
export class InTurn {
  constructor(tools) {
    Object.assign(this, { tools, active: null });
  }
  down(e, view) {
    this.active = this.tools.find((tool) => tool.down(e, view) !== false) ?? null;
    return this.active !== null;
  }
  move(e, view) {
    this.active?.move(e, view);
  }
  up(e, view) {
    this.active?.up(e, view);
    this.active = null;
  }
  ended(e, view) {
    for (const tool of this.tools) tool.ended(e, view);
  }
  paint(view) {
    for (const tool of this.tools) tool.paint(view);
  }
}
