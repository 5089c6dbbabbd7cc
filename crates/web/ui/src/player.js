// Playing, stepping and the keys.
const STATIONS = ["plate", "lens", "track", "solve", "orient", "proof", "deliver"];

export const player = {
  seek(frame) {
    this.frame = Math.min(this.s.plate.last, Math.max(this.s.plate.first, frame));
    this.lastPicture = this.frames.pictures.get(this.frame) ?? this.lastPicture;
    this.frames.ahead(this.frame, this.last, this.first);
    this.spaceView?.at(this.frame);
    if (!this.playing) this.askCompared();
    this.askMisses?.();
    this.redraw();
  },

  /** The rate as a float, for playing only; 24 while it is unknown. */
  playRate() {
    const [above, below] = (this.s.state.rate ?? "24").split("/").map(Number);
    return above / (below || 1);
  },

  togglePlay() {
    this.playing = !this.playing;
    if (!this.playing) return this.askCompared();
    const rate = this.playRate();
    let begun = performance.now();
    let from = this.frame;
    // When pictures were shown lately, for the rate that is really reached.
    const lately = [];
    const tick = (now) => {
      if (!this.playing) return;
      let next = from + Math.floor(((now - begun) / 1000) * rate);
      if (next > this.last) {
        if (!this.loop) {
          this.playing = false;
          return;
        }
        [from, begun, next] = [this.first, now, this.first];
      }
      if (next !== this.frame) {
        // Wait for a picture rather than skip it: every frame is shown once.
        const ready = this.frame + 1 > this.last || this.frames.has(this.frame + 1);
        if (ready || next === this.first) {
          this.seek(next === this.first ? next : this.frame + 1);
          lately.push(now);
          if (next !== this.frame) [from, begun] = [this.frame, now];
        } else {
          this.frames.ahead(this.frame, this.last, this.first);
        }
        while (lately.length && lately[0] < now - 1500) lately.shift();
        if (lately.length > 4) this.rateShown = ((lately.length - 1) * 1000) / (lately[lately.length - 1] - lately[0]);
      }
      requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
  },

  key(event) {
    if (event.target.matches("input, select, textarea")) return;
    const command = event.ctrlKey || event.metaKey;
    const marking = this.station === "lens";
    if (marking && event.key.startsWith("Arrow") && !command && this.nudgeMark(event)) {
      event.preventDefault();
      return;
    }
    const keying = this.station === "track" && this.trackPanel === "hands" && this.chosenHand;
    if (keying && event.altKey && this.nudgeHand(event)) {
      event.preventDefault();
      return;
    }
    const keys = {
      " ": () => this.togglePlay(),
      ArrowLeft: () => this.seek(this.frame - (event.shiftKey ? 10 : 1)),
      ArrowRight: () => this.seek(this.frame + (event.shiftKey ? 10 : 1)),
      Home: () => this.seek(this.first),
      End: () => this.seek(this.last),
      Delete: () => (marking ? this.removeChosenMarks() : this.selectedCount && this.setAside()),
      Enter: () => (marking ? this.endStraight() : this.drawingMatte && this.closeMatte()),
      Backspace: () => marking && this.takeBackMark(),
      i: () => this.setIn(),
      o: () => this.setOut(),
      u: () => this.toggleUndistorted(),
      g: () => this.toggleLensGrid(),
      "?": () => (this.help = !this.help),
      Escape: () => ((this.help = false), (this.error = ""), this.chooseStraight(-1, -1), this.dropDrawing(), this.dropMatte(), this.chooseHand(0)),
      l: () => (this.looping = !this.looping),
      h: () => this.toggleHold(),
      w: () => this.toWorst(),
      0: () => this.fit(),
      9: () => this.oneToOne(),
      v: () => this.swapSpace(),
    };
    STATIONS.forEach((name, i) => (keys[String(i + 1)] = () => this.go(name)));
    const action = command ? { z: () => (event.shiftKey ? this.redo() : this.undo()), y: () => this.redo() }[event.key.toLowerCase()] : keys[event.key];
    if (!action) return;
    event.preventDefault();
    action();
  },
};
