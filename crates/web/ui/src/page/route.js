// The route: which station is shown. Its name stands in the address, so that a reload finds it again.

export class Route {
  constructor(page, names) {
    Object.assign(this, { page, names, station: names[0] });
  }
  open(usual) {
    const kept = location.hash.slice(1);
    this.station = this.names.includes(kept) ? kept : usual;
    // Back, forth, and whoever types an address.
    window.addEventListener("hashchange", () => {
      const named = location.hash.slice(1);
      if (named !== this.station) this.go(named);
    });
  }
  go(station) {
    if (!this.names.includes(station)) return;
    this.station = station;
    location.hash = station;
    this.page.wentTo(station);
    this.scrollUp();
  }
  scrollUp() {
    document.querySelector(".pages")?.scrollTo(0, 0);
  }
  at(...stations) {
    return stations.includes(this.station);
  }
  /** What is said at this station. */
  get findings() {
    return this.page.findingsAt(this.station);
  }
  get lastWork() {
    return this.page.work.lastAt(this.station);
  }
  /** Shows what a finding names. */
  show(what) {
    this.page.showThing(what);
  }
  /** The one next thing to do here. */
  get next() {
    // At Deliver it is one of the chosen recipe.
    const own = this.station === "deliver" ? this.page.recipes.next : null;
    return own ?? this.page.shot.next?.[this.station] ?? null;
  }
  takeNext() {
    const { next, page } = this;
    if (next.work?.startsWith("deliver")) return page.recipes.deliver(next.work);
    if (next.work) return page.shot.begin(next.work);
    if (next.field) return document.querySelector(next.field)?.focus();
    if (next.go) this.go(next.go);
  }
}
