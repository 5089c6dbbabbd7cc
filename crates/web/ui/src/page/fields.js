// Fields: a click selects all of one, so that typing replaces it; Escape brings back what stood there; what is
// refused goes back to what is kept.

const isField = (element) => element?.matches?.(".fact input, input.field, .facts h1 input") && !["file", "checkbox", "range"].includes(element.type);

export class Fields {
  /** `shown` waits until what is kept is shown. */
  constructor(shown) {
    this.shown = shown;
    Object.assign(this, { held: new WeakMap(), last: null });
    document.addEventListener("focusin", (e) => {
      if (!isField(e.target)) return;
      this.held.set(e.target, e.target.value);
      e.target.select();
    });
    // The click that brought the focus would put the caret.
    document.addEventListener("mouseup", (e) => isField(e.target) && e.target !== this.entered && e.preventDefault(), true);
    document.addEventListener("mousedown", (e) => (this.entered = document.activeElement === e.target ? e.target : null), true);
    document.addEventListener("change", (e) => isField(e.target) && (this.last = { field: e.target, held: this.held.get(e.target) ?? "", refused: e.target.value }), true);
    document.addEventListener("keydown", (e) => this.key(e), true);
  }

  key(event) {
    const field = event.target;
    if (!isField(field)) return;
    if (event.key === "Enter") field.blur();
    if (event.key !== "Escape") return;
    field.value = this.held.get(field) ?? "";
    field.dispatchEvent(new Event("input", { bubbles: true }));
    field.blur();
    event.stopPropagation();
  }

  /** Something was refused: the field that was changed last shows again what it showed before. */
  restore() {
    const { last } = this;
    // Unless something else is being typed already.
    if (last && last.field.value === last.refused) last.field.value = last.held;
    this.last = null;
  }
  /** What was changed is kept; what fields show then is what they go back to. */
  async kept() {
    this.last = null;
    await this.shown();
    for (const field of document.querySelectorAll("input")) if (isField(field) && field !== document.activeElement) this.held.set(field, field.value);
  }
}
