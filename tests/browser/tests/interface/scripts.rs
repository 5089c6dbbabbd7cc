//! The page's scripts by themselves, in the browser that they are for: where things are on the
//! screen, what is under the pointer, how things are put. No application, no page.

use browser_tests::browser;
use serde_json::{Value, json};

/// Scripts of the page as one, without what they import from each other.
fn scripts(files: &[&str]) -> String {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/../../crates/web/ui/src");
    let mut all = String::new();
    for file in files {
        let text = std::fs::read_to_string(format!("{folder}/{file}")).unwrap();
        for line in text.lines().filter(|line| !line.starts_with("import ")) {
            all.push_str(line.strip_prefix("export ").unwrap_or(line));
            all.push('\n');
        }
    }
    all
}

/// A law, with the scripts that it is about; it throws what does not hold.
struct Law {
    name: &'static str,
    files: &'static [&'static str],
    holds: &'static str,
}

const HELPERS: &str = r"
const check = (holds, said) => { if (!holds) throw new Error(said); };
const near = (a, b, by = 1e-9) => Math.hypot(a[0] - b[0], a[1] - b[1]) <= by;
";

const LAWS: [Law; 21] = [
    Law {
        name: "a guest turned about an axis of the world keeps what it had, said about up, along and across",
        files: &["stations/turns.js"],
        holds: r"
const close = (a, b, by = 1e-9) => a.every((v, k) => Math.abs(v - b[k]) < by);
for (const from of [[0, 0, 0], [30, -20, 70], [170, 60, -150], [10, 90, 0], [40, -90, 25]]) {
  for (const [axis, degrees] of [[0, 25], [2, -140], [0, 90], [2, 1e-4]]) {
    const by = turnOf([0, 1, 2].map((k) => (k === axis ? degrees : 0)));
    const to = guestTurned(from, axis, degrees);
    for (const place of [[1, 0, 0], [0, 1, 0], [0.3, -0.4, 2]]) {
      const there = turned(by, turned(ofGuest(from), place));
      check(close(turned(ofGuest(to), place), there, 1e-5), `${from} by ${degrees} about ${axis} is ${to}`);
    }
  }
}
check(close(turned(ofGuest([90, 0, 0]), [0, 0, 1]), [1, 0, 0]), 'its face turns from across to along');
check(guestTurned([350, 5, 6], 1, 30)[0] === 380, 'about up it is a sum: keys go on turning');
const lie = { shift_m: [1, 2, 3], turn_deg: [10, 0, 0], scale: 2 };
const twice = lieDragged(lieDragged(lie, { what: 'shift', axis: 2, by: 0.5 }), { what: 'scale', axis: 0, by: 3 });
check(twice.shift_m.join() === '1,2,3.5' && twice.scale === 6 && lie.shift_m[2] === 3, 'drags come one after the other');
check(lieDragged(lie, { what: 'scale', axis: 0, by: 1e9 }).scale === 1e4, 'it grows without end');",
    },
    Law {
        name: "a drag of a handle is as many steps as it goes along their way, and its opposite takes it back",
        files: &["tools/handle-drag.js"],
        holds: r"
check(stepsOf([30, 40], [10, 10], [25, 30]) === 0.5, 'half a step');
check(stepsOf([30, 40], [10, 10], [50, -20]) === 0, 'beside the way is no way');
const shift = dragBy({ what: 'shift', axis: 2 }, 0.5, 3);
check(shift.by === 1.5 && shift.axis === 2, 'half an arm');
check(Math.abs(dragBy({ what: 'turn', axis: 0 }, Math.PI / 2, 3).by - 90) < 1e-9, 'a turn does not depend on the arm');
check(dragBy({ what: 'scale', axis: 0 }, -5, 3).by > 0, 'nothing becomes nothing');
check(undone(shift).by === -1.5 && undone({ what: 'scale', axis: 0, by: 4 }).by === 0.25, 'not taken back');
const seen = [['a', [10, 10]], ['b', [16, 10]]];
check(nearestKnob(seen, [14, 10]) === 'b' && nearestKnob(seen, [40, 40]) === null, 'the wrong knob');",
    },
    Law {
        name: "drags of the world by hand come after what was there, about its origin",
        files: &["stations/turns.js", "stations/world-moved.js"],
        holds: r"
const none = { turn_deg: [0, 0, 0], shift_m: [0, 0, 0], scale: 1 };
// A place by a statement: turned by its vector, grown, shifted.
const place = ({ turn_deg, shift_m, scale }, at) => turned(turnOf(turn_deg), at).map((v, k) => scale * v + shift_m[k]);
const drags = [{ what: 'turn', axis: 1, by: 70 }, { what: 'shift', axis: 0, by: 2 }, { what: 'turn', axis: 2, by: -110 }, { what: 'scale', axis: 0, by: 1.5 }, { what: 'turn', axis: 0, by: 200 }, { what: 'shift', axis: 2, by: -0.3 }];
let all = { ...none, kind: 'by_hand', id: 4 };
let at = [1, 2, 3];
for (const drag of drags) {
  all = dragged(all, drag);
  at = place(dragged(none, drag), at);
}
const there = place(all, [1, 2, 3]);
check(there.every((v, k) => Math.abs(v - at[k]) < 1e-4), `${there} instead of ${at}`);
check(all.id === 4 && all.kind === 'by_hand', 'it is the same statement');
check(Math.hypot(...all.turn_deg) <= 180.001, 'the long way round');
const up = turned(turnOf([0, 90, 0]), [0, 0, 1]);
check(Math.abs(up[0] - 1) < 1e-9, 'turned the other way');",
    },
    Law {
        name: "an edge drawn on two frames is marked from the same end on both, and moved on the frame that is dragged",
        files: &["stations/orient-rails.js"],
        holds: r"
const px = (x, y) => ({ x, y });
const first = { frame: 3, a: px(10, 10), b: px(90, 20) };
const turned = { frame: 9, a: px(95, 25), b: px(12, 14) };
const between = endsOf(first, turned, null);
check(between.every((end) => end.marked.map((s) => s.frame).join() === '3,9'), 'frames');
check(between[0].marked[1].px.x === 12 && between[1].marked[1].px.x === 95, 'the ends are mixed up');
const thing = { kind: 'length', between, length_m: 1 };
check(railOn(thing, 5) === null, 'a rail on a frame without one');
check(railOn(thing, 9).a.x === 12, 'not the rail of that frame');
const moved = withRail(thing, { frame: 9, a: px(13, 15), b: px(96, 26) });
check(moved.between[0].marked[1].px.x === 13 && moved.between[0].marked[0].px.x === 10, 'the other frame was moved');
check(thing.between[0].marked[1].px.x === 12, 'the statement itself was changed');
const ground = endsOf(first, null, 7);
check(ground.every((end) => end.on_plane.plane === 7), 'on no plane');
check(railOn({ kind: 'length', between: ground }, 3).b.x === 90, 'the rail on the ground');
check(railOn({ kind: 'edge', edge: { rail: first } }, 4) === null, 'an edge of another frame');
check(railOn({ kind: 'length', between: [{ feature: 1 }, { feature: 2 }] }, 3) === null, 'features are no rail');",
    },
    Law {
        name: "a fitted plate lies in the middle and fills one side",
        files: &["views/viewport.js"],
        holds: r"
for (const [w, h] of [[400, 300], [300, 400], [1280, 90]]) {
  const v = new Viewport(1920, 1080);
  v.resize(w, h);
  const [a, b] = [v.plateToScreen(0, 0), v.plateToScreen(1920, 1080)];
  check(near([a[0] + b[0], a[1] + b[1]], [w, h], 1e-6), 'not in the middle');
  check(a[0] > -1e-9 && a[1] > -1e-9 && (Math.abs(a[0]) < 1e-9 || Math.abs(a[1]) < 1e-9), `not filling: ${a}`);
}",
    },
    Law {
        name: "screen and plate lead back to each other",
        files: &["views/viewport.js"],
        holds: r"
const v = new Viewport(1920, 1080);
v.resize(700, 500);
for (let k = 0; k < 60; k += 1) {
  v.zoom(k % 3 ? 1.4 : 0.5, 31 * k % 700, 17 * k % 500);
  v.pan(13 - k, k - 20);
  const px = [37 * k % 1920, 91 * k % 1080];
  check(near(v.screenToPlate(...v.plateToScreen(...px)), px, 1e-6), `px ${px} at step ${k}`);
}",
    },
    Law {
        name: "zooming keeps what is under the pointer there, within its limits",
        files: &["views/viewport.js"],
        holds: r"
const v = new Viewport(1920, 1080);
v.resize(700, 500);
for (const factor of [1.2, 0.7, 9, 1e6, 1e-9]) {
  const under = v.screenToPlate(210, 333);
  v.zoom(factor, 210, 333);
  check(near(v.plateToScreen(...under), [210, 333], 1e-6), `factor ${factor}`);
  check(v.scale >= 0.05 && v.scale <= 40, `scale ${v.scale}`);
}
v.oneToOne();
check(Math.abs(v.scale - 1) < 1e-12, 'one to one');",
    },
    Law {
        name: "what is held stays where it was while the plate moves on",
        files: &["views/viewport.js"],
        holds: r"
const v = new Viewport(1920, 1080);
v.resize(700, 500);
const hold = { px: [900, 500] };
v.hold(hold);
const at = v.plateToScreen(900, 500);
for (const px of [[905, 498], [930, 470], [700, 620]]) {
  hold.px = px;
  v.hold(hold);
  check(near(v.plateToScreen(...px), at, 1e-6), `held at ${px}`);
}
v.zoom(2, 10, 10);
const after = v.plateToScreen(...hold.px);
v.hold(hold);
check(near(v.plateToScreen(...hold.px), after, 1e-6), 'a zoom moves the hold');",
    },
    Law {
        name: "through a lens positions go by way of the bend",
        files: &["views/viewport.js"],
        holds: r"
const bend = { size: [2000, 1100], toStraight: (x, y) => [x + 40, y + 10], toPlate: (x, y) => [x - 40, y - 10] };
const v = new Viewport(1920, 1080);
v.resize(700, 500);
v.through(bend);
check(v.plate[0] === 2000 && v.fitted, 'the size of the undistorted picture');
check(near(v.screenToPlate(...v.plateToScreen(300, 200)), [300, 200], 1e-6), 'there and back');
check(near(v.plateToScreen(300, 200), v.shownToScreen(340, 210)), 'by way of the bend');
v.through(null);
check(v.plate[0] === 1920, 'as shot');",
    },
    Law {
        name: "points, sides and insides of outlines are under the pointer, the first one first",
        files: &["views/viewport.js", "tools/matte-tool.js"],
        holds: r"
const v = new Viewport(100, 100);
v.resize(1000, 1000);
const square = (matte, x, y, side) => ({ matte, points: [[x, y], [x + side, y], [x + side, y + side], [x, y + side]] });
const outlines = [square(4, 10, 10, 30), square(9, 30, 30, 30)];
const tool = new MatteTool({ outlines: () => outlines });
const grip = (x, y) => tool.grip(v.plateToScreen(x, y), [x, y], v);
check(grip(10.3, 9.8).matte === 4 && grip(10.3, 9.8).point === 0, 'a point');
check(grip(25, 10.2).matte === 4 && grip(25, 10.2).side === 0, 'a side');
check(grip(20, 20).matte === 4 && grip(20, 20).point === undefined && grip(20, 20).side === undefined, 'inside');
check(grip(55, 55).matte === 9, 'inside the other');
check(grip(35, 35).matte === 4, 'where both are');
check(grip(60.1, 59.9).point === 2, 'a point of the other');
check(grip(5, 5) === null && grip(80, 20) === null, 'outside');",
    },
    Law {
        name: "an outline moves evenly between keys and rests beyond them",
        files: &["stations/mattes.js"],
        holds: r"
const keys = [{ frame: 10, points: [[0, 0], [10, 0], [0, 10]] }, { frame: 20, points: [[10, 20], [20, 20], [10, 30]] }];
check(near(outlineAt(keys, 5)[1], [10, 0]), 'before');
check(near(outlineAt(keys, 10)[1], [10, 0]), 'on the first key');
check(near(outlineAt(keys, 15)[0], [5, 10]), 'between');
check(near(outlineAt(keys, 20)[0], [10, 20]) && near(outlineAt(keys, 99)[0], [10, 20]), 'on the last key and after');
check(near(outlineAt([keys[0]], 99)[2], [0, 10]), 'one key');",
    },
    Law {
        name: "a dragged place follows the pointer, ten times finer with Alt",
        files: &["tools/fine-drag.js"],
        holds: r"
const view = { at: (e) => e.screen, viewport: { scale: 4 } };
const drag = { at: [100, 50], screen: [10, 10], begun: [10, 10], moved: false };
check(!dragOn(drag, { screen: [11, 10] }, view), 'a tremble is no drag');
check(dragOn(drag, { screen: [50, 10] }, view) && near(drag.at, [110, 50]), `coarse: ${drag.at}`);
dragOn(drag, { screen: [90, 10], altKey: true }, view);
check(near(drag.at, [111, 50]), `fine: ${drag.at}`);
check(dragOn(drag, { screen: [10, 10] }, view), 'once moved it stays moved');",
    },
    Law {
        name: "time left is said as one would say it, quality runs from dark to light",
        files: &["layers/colour.js", "stores/work.js"],
        holds: r"
check(timeLeft(null) === '' && timeLeft(1) === 'nearly done', 'short');
check(timeLeft(42.4) === 'about 42 s left' && timeLeft(600) === 'about 10 min left', 'long');
const light = (px) => quality(px).reduce((sum, v, k) => sum + v * [0.2126, 0.7152, 0.0722][k], 0);
// Channels are rounded and end at 255: a level of play.
for (let px = 0; px < 1; px += 0.05) check(light(px) <= light(px + 0.05) + 1, `at ${px}`);
check(light(0) + 50 < light(1), `from dark to light`);
check(ramp(-3).every((v, k) => v === ramp(0)[k]) && ramp(7).every((v) => v <= 255), 'ends');",
    },
    Law {
        name: "what changed leads from one view to the next",
        files: &["page/changes.js"],
        holds: r"
const view = { state: { rate: null, culled: [1, 2, 3, 9] }, jobs: [{ id: 4, done: 1 }] };
apply(view, [[['state', 'rate'], '25'], [['state', 'culled'], 2, 1, [5, 6]], [['jobs', 0, 'done'], 7], [['said'], null]]);
check(view.state.rate === '25' && view.state.culled.join() === '1,2,5,6,9', JSON.stringify(view.state));
check(view.jobs[0].done === 7 && view.jobs[0].id === 4 && view.said === null, JSON.stringify(view));",
    },
    Law {
        name: "packed tracks are read, and what does not come stays",
        files: &["layers/colour.js", "layers/tracks.js", "stores/tracks.js"],
        holds: r"
const bin = (head, numbers) => {
  let text = JSON.stringify(head);
  while (text.length % 4) text += ' ';
  const buffer = new ArrayBuffer(4 + text.length + 4 * numbers.length);
  new DataView(buffer).setUint32(0, text.length, true);
  new Uint8Array(buffer, 4).set(new TextEncoder().encode(text));
  new Float32Array(buffer, 4 + text.length).set(numbers);
  return buffer;
};
const first = unpacked(bin({ tag: 'a', since: null, gone: [], tracks: [{ id: 3, runs: [[10, 2], [14, 1]] }, { id: 5, runs: [[1, 1]] }] }, [1, 2, 3, 4, 5, 6, 0.5, 0.25, 0.125, 7, 8, 0.75]));
const list = changed([], first);
check([...list[0].frames].join() === '10,11,14' && [...list[0].xy].join() === '1,2,3,4,5,6' && list[0].sigmas[2] === 0.125, 'the first');
check(list[1].xy[1] === 8 && list[1].sigmas[0] === 0.75, 'the second');
const next = changed(list, unpacked(bin({ tag: 'b', since: 'a', gone: [5], tracks: [{ id: 3, aside: 'culled' }, { id: 8, runs: [[2, 1]] }] }, [9, 9, 1])));
check(next.map((t) => t.id).join() === '3,8' && next[0].aside === 'culled' && next[0].xy[5] === 6 && next[1].xy[0] === 9, 'what changed');",
    },
    Law {
        name: "what is set aside is seen so at once, and comes back where it is refused",
        files: &[
            "page/reactive.js",
            "layers/colour.js",
            "layers/tracks.js",
            "stores/tracks.js",
        ],
        holds: r"
const store = new Tracks({});
const all = [{ id: 1 }, { id: 2, aside: 'mover' }, { id: 3 }];
store.data.byId = new Map(all.map((t) => [t.id, t]));
const before = store.seen;
const foreseen = store.setAside([1, 2, 9]);
check(store.seen > before && all.map((t) => t.aside || '').join() === 'culled,mover,', JSON.stringify(all));
store.bringBack(foreseen);
check(all.map((t) => t.aside || '').join() === ',mover,', JSON.stringify(all));",
    },
    Law {
        name: "a lifeline breaks where a track slept and where its shade changes",
        files: &["layers/colour.js", "layers/tracks.js"],
        holds: r"
const life = stretchesOf({ frames: [4, 5, 6, 9, 10, 11], sigmas: [0.01, 0.01, 0.29, 0.29, 0.29, 5] });
check(life.length === 9 && life.join() === `4,5,0,6,6,7,9,11,7`, life.join());
const one = stretchesOf({ frames: [7], sigmas: [0.01] });
check(one.join() === '7,7,0', one.join());",
    },
    Law {
        name: "numbers are understood as a whole or passed on to be refused",
        files: &["page/numbers.js", "page/facts.js"],
        holds: r"
for (const [text, value] of [['35', 35], [' 35,5 mm ', 35.5], ['.5', 0.5], ['-2', -2], ['', null], ['  ', null]]) check(numberOr(text, 'mm') === value, text);
for (const text of ['50 mm, st30ated', '35 px', '1.2.3', 'about 3', '0x10']) check(numberOr(text, 'mm') === text, text);
check(JSON.stringify(spanOr('1001-1048')) === '[1001,1048]' && JSON.stringify(spanOr('-5 – 12')) === '[-5,12]' && spanOr('') === null && spanOr('1001') === '1001', 'spans');
const { about } = focalOf('35 ± 1 mm');
check(about.mm === 35 && about.sigma_mm === 1 && focalOf('50 mm, st30ated').mm === '50 mm, st30ated', 'focal lengths');
const { zooms_from } = focalOf('Zooms from 35 ± 1 mm');
check(zooms_from.mm === 35 && zooms_from.sigma_mm === 1 && !('sigma_mm' in focalOf('zooms from 28').zooms_from), 'zooms');
check(backOf('36x20,25 mm').height_mm === 20.25 && backOf('36').width_mm === '36', 'film backs');",
    },
    Law {
        name: "a rod stands beside its edge, on one side whichever way it was drawn",
        files: &["layers/colour.js", "photo/families.js", "layers/rods.js"],
        holds: r"
const viewport = { plateToScreen: (x, y) => [x, y], scale: 1, plate: [100, 100] };
for (const [a, b] of [[[10, 50], [90, 55]], [[50, 10], [52, 90]], [[10, 10], [80, 90]]]) {
  const [one, other] = [laidOut(viewport, { a, b }), laidOut(viewport, { a: b, b: a })];
  check(near(one.side, other.side) && Math.abs(one.side[0] * one.along[0] + one.side[1] * one.along[1]) < 1e-9, `${a} ${b}`);
}
const bands = FAMILIES.map((f) => bandsOf(f, 200));
check(bands.every((list) => list.every(([from, to]) => from >= 0 && to <= 200 && from < to)), 'within the rod');
check(new Set(bands.map((list) => list.length)).size === 3, 'told apart without colour');",
    },
    Law {
        name: "what is changed in one thing one after the other is all kept, however long answers take",
        files: &["stores/shot.js"],
        holds: r"
const plain = structuredClone;
let kept = [{ id: 3, name: 'layout', scale: 1, formats: ['usd'] }], version = 1;
const get = async () => view();
const view = () => ({ stations: [], jobs: [], version, state: { recipes: structuredClone(kept) } });
// Slower for the first than for the second, as a busy server may be.
let slow = 30;
const post = async (path, body) => {
  await new Promise((done) => setTimeout(done, (slow -= 10)));
  for (const thing of body.things.recipes.change) kept = kept.map((k) => (k.id === thing.id ? thing : k));
  version += 1;
  return view();
};
const page = { restore: () => {}, follow: () => {} };
const shot = new Shot(page, 1);
shot.take(view());
const asked = [
  shot.alter('name', 'recipes', 3, (r) => ({ ...r, name: 'compositing' })),
  shot.alter('scale', 'recipes', 3, (r) => ({ ...r, scale: 10 })),
  shot.alter('formats', 'recipes', 3, (r) => ({ ...r, formats: [...r.formats, 'glb'] })),
];
const done = await Promise.all(asked);
check(done.every(Boolean) && JSON.stringify(kept[0]) === JSON.stringify({ id: 3, name: 'compositing', scale: 10, formats: ['usd', 'glb'] }), JSON.stringify(kept));
check((await shot.alter('gone', 'recipes', 9, (r) => r)) === false && shot.error.includes('gone'), 'a thing that is gone is said');
check(kept.length === 1, 'and nothing is changed');",
    },
    Law {
        name: "a tool that has nothing to do leaves the pointer to selecting",
        files: &["views/viewport.js", "tools/matte-tool.js"],
        holds: r"
const v = new Viewport(100, 100);
v.resize(1000, 1000);
let chosen = 4;
const host = { drawing: () => null, outlines: () => [{ matte: 4, points: [[10, 10], [40, 10], [40, 40], [10, 40]] }], choose: (id) => (chosen = id) };
const tool = new MatteTool(host);
const view = { viewport: v, at: (e) => e.screen, soon: () => {} };
check(tool.down({ screen: [900, 900] }, view) === false && chosen === 0, 'beside every outline');
check(tool.down({ screen: [250, 250] }, view) !== false && chosen === 4, 'inside one');",
    },
];

#[tokio::test(flavor = "multi_thread")]
async fn the_laws_of_the_scripts_hold() {
    let profile = tempfile::tempdir().unwrap();
    let (_driver, client) = browser(profile.path()).await.unwrap();
    client.goto("about:blank").await.unwrap();
    let mut broken = Vec::new();
    for Law { name, files, holds } in LAWS {
        let body = format!("{}\n{HELPERS}\n{holds}", scripts(files));
        let script = "const [law, done] = arguments; const Law = (async () => {}).constructor; new Law(law)().then(() => done(null), (e) => done(String(e)));";
        let said = client
            .execute_async(script, vec![json!(body)])
            .await
            .unwrap();
        if said != Value::Null {
            broken.push(format!("{name}: {said}"));
        }
    }
    client.close().await.unwrap();
    assert!(broken.is_empty(), "{}", broken.join("\n"));
}
