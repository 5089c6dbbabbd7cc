//! The page's scripts by themselves, in the browser that they are for: where things are on the
//! screen, what is under the pointer, how things are put. No application, no page.
#![allow(clippy::unwrap_used)]

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

const LAWS: [Law; 9] = [
    Law {
        name: "a fitted plate lies in the middle and fills one side",
        files: &["viewport.js"],
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
        files: &["viewport.js"],
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
        files: &["viewport.js"],
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
        files: &["viewport.js"],
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
        files: &["viewport.js"],
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
        files: &["viewport.js", "matte-tool.js"],
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
        files: &["mattes.js"],
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
        files: &["fine-drag.js"],
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
        files: &["colour.js", "working.js"],
        holds: r"
check(timeLeft(null) === '' && timeLeft(1) === 'nearly done', 'short');
check(timeLeft(42.4) === 'about 42 s left' && timeLeft(600) === 'about 10 min left', 'long');
const light = (px) => quality(px).reduce((sum, v, k) => sum + v * [0.2126, 0.7152, 0.0722][k], 0);
// Channels are rounded and end at 255: a level of play.
for (let px = 0; px < 1; px += 0.05) check(light(px) <= light(px + 0.05) + 1, `at ${px}`);
check(light(0) + 50 < light(1), `from dark to light`);
check(ramp(-3).every((v, k) => v === ramp(0)[k]) && ramp(7).every((v) => v <= 255), 'ends');",
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
        let script =
            "try { new Function(arguments[0])(); return null; } catch (e) { return String(e); }";
        let said = client.execute(script, vec![json!(body)]).await.unwrap();
        if said != Value::Null {
            broken.push(format!("{name}: {said}"));
        }
    }
    client.close().await.unwrap();
    assert!(broken.is_empty(), "{}", broken.join("\n"));
}
