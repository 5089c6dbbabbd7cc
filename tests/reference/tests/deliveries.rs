//! Every recipe of the demo, and deliveries of every kind of shot, read and checked by the reference tools of their
//! formats: no error, no warning, and places within 0.001 px of where the solve has them.
#![allow(clippy::unwrap_used)]

use nalgebra::{Point3, UnitQuaternion, Vector3};
use parallax_core::camera::Similarity;
use parallax_core::guest::{Lie, What, stand_ins};
use parallax_core::scene::{Hand, LengthUnit, Receiver, Up};
use parallax_core::spaces::{FrameNumber, WorldPoint};
use parallax_demo::take::Take;
use parallax_demo::trial::{Move, Trial};
use parallax_demo::{orrery, reading_room, terrace, valley};
use parallax_formats::delivery::{
    Camera, Delivered, Delivery, Landmark, MovingBody, Recipe, TimeAs,
};
use parallax_formats::format::FormatKind;
use parallax_matching::delivering::{By, proven};
use parallax_matching::reopening::Reopened;
use reference_tests::{checked, tools};
use serde_json::Value;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// What places may be off by, px.
const MOST_PX: f64 = 0.001;

fn guests(scale: f64, frames: usize) -> Vec<Delivered> {
    let there = |x: f64, turn_deg: f64| Similarity {
        rotation: Lie {
            turn_deg: [turn_deg, 0.0, 0.0],
            ..Lie::default()
        }
        .rotation(),
        translation: Vector3::new(x, 0.1, -2.0),
        scale,
    };
    let card = What::Checker {
        size_m: [0.6, 0.4],
        squares: 4,
    };
    let ball = stand_ins::mesh(&What::Sphere { diameter_m: 0.4 }).unwrap();
    let mut moving = Delivered::still("ball", Arc::new(ball), there(-0.5, 0.0));
    moving.moves = (0..frames)
        .map(|k| there(-0.5 + 0.01 * k as f64, 3.0 * k as f64))
        .collect();
    moving.there = moving.moves[0];
    vec![
        Delivered::still("brass orrery", Arc::new(orrery::mesh()), there(0.0, 20.0)),
        Delivered::still(
            "card \"A\" / 天",
            Arc::new(stand_ins::mesh(&card).unwrap()),
            there(1.0, -30.0),
        ),
        moving,
    ]
}

/// A plane of the set. It faces away from the guests: whether surfaces are turned inside out is told by the volume
/// about the middle of all of them.
fn floor() -> Delivered {
    let there = Similarity {
        rotation: UnitQuaternion::from_euler_angles(std::f64::consts::PI, 0.0, 0.0),
        translation: Vector3::new(0.2, 0.0, -3.0),
        ..Similarity::identity()
    };
    let floor = stand_ins::plain(&What::Plane { size_m: [4.0, 2.5] });
    Delivered::still("floor, north", Arc::new(floor.unwrap()), there)
}

/// A thing that rolls past, with the first landmarks of the scene as its own.
fn body(delivery: &Delivery<'_>) -> MovingBody {
    let there = |k: usize| Similarity {
        rotation: UnitQuaternion::from_euler_angles(0.02 * k as f64, 0.3, -0.01 * k as f64),
        translation: Vector3::new(0.05 * k as f64 - 0.4, 0.2, -2.0),
        scale: 1.0,
    };
    let own = |p: &Landmark| Landmark {
        place: WorldPoint(Point3::from(0.1 * p.place.0.coords)),
        ..p.clone()
    };
    MovingBody {
        name: "cart / 天".to_owned(),
        points: delivery.points.iter().take(5).map(own).collect(),
        moves: (0..delivery.cameras.len()).map(there).collect(),
        seen: [FrameNumber(1001), FrameNumber(1003)],
        is_assumed: false,
        distance_by: "by a stated length".to_owned(),
    }
}

/// A delivery of the truth of a take, by a recipe with the neutral camera added, in a folder of its own.
fn written(root: &Path, take: &Take, recipe: &Recipe) -> PathBuf {
    let file = take.truth().unwrap();
    let reopened = Reopened::of(&file, None);
    written_of(root, reopened.delivery(&file, &take.name), recipe)
}

fn written_of(root: &Path, mut delivery: Delivery<'_>, recipe: &Recipe) -> PathBuf {
    // No picture inside: colours are stated below, and a file that a scene names has to be there.
    std::fs::create_dir_all(root.join("plate")).unwrap();
    let first = delivery.cameras[0].frame;
    let picture = root.join("plate").join(format!("p.{:04}.png", first.0));
    std::fs::write(&picture, b"a picture").unwrap();
    let pictures = BTreeMap::from([(first, picture)]);
    let root = root.canonicalize().unwrap();
    delivery.guests = guests(1.0, delivery.cameras.len());
    delivery.set = vec![floor()];
    delivery.bodies = vec![body(&delivery)];
    let groups = ["", "wall \"west\"", "floor"];
    for (k, point) in delivery.points.iter_mut().enumerate() {
        point.group = groups[k % 3].to_owned();
        point.colour = Some([k as u8, 100, 50]);
    }
    let mut recipe = recipe.clone();
    recipe.formats.push(FormatKind::CameraJson);
    let folder = |delivery: &Delivery<'_>| root.join(delivery.named_package());
    let by = By {
        recipe: &recipe,
        version: 1,
        date: String::new(),
        pictures: &pictures,
        within: Some(&root),
        undistorted: None,
    };
    let delivery = by.applied(delivery, 0).unwrap();
    assert_eq!(
        delivery.plate.as_ref().unwrap().pattern,
        "../plate/p.####.png"
    );
    let made = proven(&delivery).unwrap();
    assert!(made.receipt.files_agree, "{:?}", made.receipt);
    let folder = folder(&delivery);
    std::fs::create_dir(&folder).unwrap();
    for (name, bytes) in &made.files {
        std::fs::write(folder.join(name), bytes).unwrap();
    }
    folder
}

/// All formats for a receiver.
fn all(name: &str, receiver: Receiver) -> Recipe {
    Recipe {
        receiver,
        ..Recipe::of(name, &FormatKind::ALL)
    }
}

fn small(camera: Move, zoom: f64, lens: bool) -> Take {
    let mut trial = Trial {
        camera,
        zoom,
        ..Trial::small(24)
    };
    if lens {
        trial.distortion = parallax_core::lens::Distortion::radial(-0.08, 0.01);
    }
    trial.take()
}

/// Whether the tools are there; said loudly where they are not.
fn with_tools() -> Option<PathBuf> {
    let found = tools();
    if found.is_none() {
        eprintln!(
            "LEFT OUT: the reference readers of OpenUSD, glTF and meshes are not installed (tests/reference/install)"
        );
    }
    found
}

fn complain(rows: &[Value]) -> Vec<String> {
    let mut said = Vec::new();
    for row in rows {
        let wrong = row["said"].as_array().is_none_or(|s| !s.is_empty());
        let off = |key: &str| row[key].as_f64();
        let far = off("largest_px").is_some_and(|px| px > MOST_PX)
            || off("largest_m").is_some_and(|m| m > 1e-4);
        if wrong || far {
            said.push(row.to_string());
        }
    }
    said
}

#[test]
fn every_recipe_of_the_demo_passes() {
    let Some(tools) = with_tools() else { return };
    let root = tempfile::tempdir().unwrap();
    let takes = [terrace::take(), valley::take(), reading_room::take()];
    let recipes = Recipe::usual();
    let folders: Vec<PathBuf> = takes
        .iter()
        .flat_map(|take| {
            recipes
                .iter()
                .map(|recipe| written(root.path(), take, recipe))
        })
        .collect();
    let rows = checked(&tools, &folders).unwrap();
    assert!(rows.len() >= 3 * 8, "{} files were checked", rows.len());
    assert_eq!(complain(&rows), Vec::<String>::new());
}

#[test]
fn every_kind_of_shot_passes_in_every_format() {
    let Some(tools) = with_tools() else { return };
    let root = tempfile::tempdir().unwrap();
    let left = Receiver {
        unit: LengthUnit::Centimetre,
        ..Receiver::of_axes(Up::Z, Hand::Left)
    };
    let feet = Receiver {
        unit: LengthUnit::Foot,
        scale: 10.0,
        ..Receiver::of_axes(Up::Z, Hand::Right)
    };
    let seconds = Recipe {
        time: TimeAs::Seconds,
        first_frame: None,
        ..all("seconds", Receiver::of_axes(Up::Y, Hand::Left))
    };
    let folders = [
        written(
            root.path(),
            &small(Move::Walk, 1.0, true),
            &all("walk", Receiver::default()),
        ),
        written(
            root.path(),
            &small(Move::Walk, 1.4, false),
            &all("zoom", left),
        ),
        written(
            root.path(),
            &small(Move::Turn, 1.2, false),
            &all("pan", feet),
        ),
        written(root.path(), &small(Move::Slide, 1.0, true), &seconds),
        written(root.path(), &reading_room::take(), &all("photograph", left)),
    ];
    let rows = checked(&tools, &folders).unwrap();
    assert_eq!(rows.len(), 5 * 8, "each has eight files that others read");
    assert_eq!(complain(&rows), Vec::<String>::new());
    let moved = rows.iter().filter(|row| row["bodies"] == 1);
    assert_eq!(moved.count(), 5 * 4, "OpenUSD and glTF hold bodies");
}

/// A walk made long: its cameras over and over to 400 frames, its landmarks copied to 5,000.
#[test]
fn a_long_shot_with_many_landmarks_passes() {
    let Some(tools) = with_tools() else { return };
    let root = tempfile::tempdir().unwrap();
    let take = small(Move::Walk, 1.0, true);
    let file = take.truth().unwrap();
    let reopened = Reopened::of(&file, None);
    let mut long = reopened.delivery(&file, "long");
    let (cameras, points) = (long.cameras.clone(), long.points.clone());
    // There and back, so that it does not jump.
    let there_and_back = cameras.iter().chain(cameras.iter().rev()).cycle();
    let again = there_and_back.take(400).zip(1001..);
    long.cameras = again
        .map(|(camera, frame)| Camera {
            frame: FrameNumber(frame),
            ..*camera
        })
        .collect();
    let copied = |k: usize| {
        let point = &points[k % points.len()];
        Landmark {
            name: format!("copy {k}"),
            place: WorldPoint(point.place.0 + Vector3::repeat(1e-3 * (k / points.len()) as f64)),
            ..point.clone()
        }
    };
    long.points = (0..5000).map(copied).collect();
    long.probes = long.points.iter().map(|p| p.place).collect();
    let recipe = all("long", Receiver::of_axes(Up::Z, Hand::Right));
    let rows = checked(&tools, &[written_of(root.path(), long, &recipe)]).unwrap();
    assert_eq!(rows.len(), 8);
    assert_eq!(complain(&rows), Vec::<String>::new());
}

/// The tools find what is wrong, so that their silence says something.
#[test]
fn a_spoilt_scene_is_complained_about() {
    let Some(tools) = with_tools() else { return };
    let root = tempfile::tempdir().unwrap();
    let take = small(Move::Walk, 1.0, false);
    let folder = written(root.path(), &take, &all("walk", Receiver::default()));
    let of = |ending: &str| {
        let all = std::fs::read_dir(&folder).unwrap().flatten();
        all.map(|e| e.path())
            .find(|p| p.to_string_lossy().ends_with(ending))
            .unwrap()
    };
    let scene = of(".usda");
    let text = std::fs::read_to_string(&scene).unwrap();
    let moved = text.replace("float focalLength = ", "float focalLength = 1");
    assert_ne!(moved, text);
    std::fs::write(&scene, moved.replace("guest-2-picture", "guest-9-picture")).unwrap();
    let gltf = of(".gltf");
    let text = std::fs::read_to_string(&gltf).unwrap();
    std::fs::write(&gltf, text.replace("\"SCALAR\"", "\"VEC2\"")).unwrap();
    let said = complain(&checked(&tools, &[folder]).unwrap());
    assert!(said.iter().any(|s| s.contains(".usda")), "{said:?}");
    assert!(said.iter().any(|s| s.contains(".gltf")), "{said:?}");
}
