// The camera's figures as an entry of a field book: to be read, selected, and copied as a whole.

export class Card {
  constructor(page) {
    Object.assign(this, { page, copied: false });
  }
  get camera() {
    return this.page.laid.figures?.rows ?? [];
  }
  get place() {
    return this.page.laid.placed?.rows ?? [];
  }
  get all() {
    return [...this.camera, ...this.place];
  }
  async copy() {
    const text = this.all.map((r) => `${r.key} ${r.copy}`).join("\n");
    try {
      await navigator.clipboard.writeText(text);
      this.copied = true;
      setTimeout(() => (this.copied = false), 1500);
    } catch {
      this.page.shot.refuse("The browser does not let the page copy. Select the figures and copy them.");
    }
  }
}
