// What belongs to the screen and not to the shot: theme, the sheet of keys.

export class Screen {
  constructor(page) {
    Object.assign(this, { page, help: false });
  }
  swapTheme() {
    const next = document.documentElement.dataset.theme === "dusk" ? "daybook" : "dusk";
    document.documentElement.dataset.theme = next;
    localStorage.setItem("theme", next);
    this.page.spaceView?.repaint();
    this.page.redraw();
  }
  toggleHelp(shown = !this.help) {
    const sheet = document.querySelector("dialog.keys");
    this.help = shown;
    if (shown && !sheet.open) sheet.showModal();
    if (!shown && sheet.open) sheet.close();
  }
}
