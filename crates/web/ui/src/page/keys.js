// The keys of the page of a shot.

const ARROWS = ["ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown"];

/** Keys that mean something in what has the focus are left to it. */
export function isTaken(event) {
  if (event.target.closest("dialog[open]")) return true;
  if (event.target.matches("input, select, textarea")) return true;
  return event.target.matches("button, summary, a") && [" ", "Enter"].includes(event.key);
}

/** What can be stepped through without a pointer at a station. */
function step(page, by) {
  const { route, lens, hands, mattes, track, selection } = page;
  if (route.at("lens")) return lens.step(by);
  if (route.at("track") && track.panel === "hands") return hands.step(by);
  if (route.at("track") && track.panel === "mattes") return mattes.step(by);
  const solved = page.world.points.map(([id]) => id);
  return selection.step(route.at("orient", "proof") ? solved : track.sorted().map((t) => t.id), by);
}

function leave({ screen, shot, lens, mattes, hands, track, orient, guests, redraw }) {
  screen.toggleHelp(false);
  shot.dismiss();
  lens.choose(-1, -1);
  lens.dropDrawing();
  mattes.drop();
  track.seeAgain();
  hands.choose(0);
  orient.dropRail();
  guests.stop();
  guests.choose(0);
  redraw();
}

export function keys(page) {
  const { route, lens, hands, mattes, playback, track, orient, stage, selection, shot, screen, guests, proof } = page;
  const handling = () => route.at("track") && track.panel === "hands" && hands.id;
  const plain = {
    " ": () => playback.toggle(),
    ArrowLeft: (e) => playback.seek(playback.frame - (e.shiftKey ? 10 : 1)),
    ArrowRight: (e) => playback.seek(playback.frame + (e.shiftKey ? 10 : 1)),
    Home: () => playback.seek(playback.first),
    End: () => playback.seek(playback.last),
    Delete: () => (route.at("lens") ? lens.removeChosen() : route.at("proof") ? guests.guest && guests.remove() : selection.count && track.setAside()),
    Enter: () => (route.at("lens") ? lens.endStraight() : mattes.drawing && mattes.close()),
    Backspace: () => route.at("lens") && lens.takeBackMark(),
    i: () => stage.setIn(),
    o: () => stage.setOut(),
    u: () => lens.toggleUndistorted(),
    g: () => lens.toggleGrid(),
    n: () => step(page, 1),
    N: () => step(page, -1),
    m: () => route.at("lens") && lens.stepMark(1),
    M: () => route.at("lens") && lens.stepMark(-1),
    "?": () => screen.toggleHelp(),
    Escape: () => leave(page),
    l: () => stage.toggleFreehand(),
    h: () => (route.at("proof") ? proof.toggleHold() : track.toggleHold()),
    w: () => track.toWorst(),
    0: () => stage.fit(),
    9: () => stage.oneToOne(),
    v: () => stage.swapSpace(),
  };
  route.names.forEach((name, i) => (plain[String(i + 1)] = () => route.go(name)));
  const withCommand = { z: (e) => (e.shiftKey ? shot.redo() : shot.undo()), y: () => shot.redo() };

  return (event) => {
    if (isTaken(event)) return;
    const command = event.ctrlKey || event.metaKey;
    const nudged = ARROWS.includes(event.key) && !command && ((route.at("lens") && lens.nudge(event)) || (handling() && event.altKey && hands.nudge(event)) || (route.at("orient") && orient.nudge(event)));
    const action = nudged ? () => {} : command ? withCommand[event.key.toLowerCase()] : plain[event.key];
    if (!action) return;
    event.preventDefault();
    action(event);
  };
}
