//! Every format with every receiver: what is read back is what was handed on, and what is spoilt is found.
#![allow(clippy::unwrap_used)]

mod shared;

use nalgebra::{UnitQuaternion, Vector3};
use parallax_core::camera::Similarity;
use parallax_core::guest::{Lie, What, stand_ins};
use parallax_core::lens::Distortion;
use parallax_core::scene::{Hand, LengthUnit, Receiver, Up};
use parallax_core::spaces::{FrameNumber, PlatePx, TrackId, WorldPoint};
use parallax_core::tracks::{Covariance, Sample, Track, TrackKind};
use parallax_formats::delivery::recipe::Landmarks;
use parallax_formats::delivery::{
    Delivered, Delivery, Landmark, MovingBody, NamedBytes, Names, Recipe, TimeAs, colours, readme,
};
use parallax_formats::format::FormatKind;
use parallax_formats::receipt::{self, Held};
use parallax_formats::tracks_csv::Called;
use proptest::prelude::*;
use rstest::rstest;
use shared::delivery;

fn track() -> Track {
    let sample = |k: i32| Sample {
        frame: FrameNumber(1001 + k),
        px: PlatePx::new(10.5 + f64::from(k), 20.25),
        covariance: Covariance::isotropic(0.1),
    };
    Track::new(TrackId(7), TrackKind::Hand, (0..4).map(sample).collect())
}

fn guest(what: &What, turn_deg: f64, scale: f64) -> Delivered {
    let lie = Lie {
        turn_deg: [turn_deg, 10.0, -5.0],
        ..Lie::default()
    };
    let there = Similarity {
        rotation: lie.rotation(),
        translation: Vector3::new(-0.4, 0.3, -0.9),
        scale,
    };
    let mesh = stand_ins::mesh(what).unwrap();
    Delivered::still("card \"A\" / 天", mesh.into(), there)
}

/// A thing that moves by itself, with three landmarks.
fn body(of: &Delivery<'_>) -> MovingBody {
    let point = |k: usize| Landmark {
        name: format!("rivet {k} / 天"),
        place: WorldPoint::new(0.1 * k as f64, 0.05 * (k * k) as f64, -0.1 * k as f64),
        ..of.points[0].clone()
    };
    let there = |k: i32| Similarity {
        rotation: UnitQuaternion::from_euler_angles(0.1 * f64::from(k), 0.3, 0.0),
        translation: Vector3::new(-0.3, 0.2, -1.1 - 0.1 * f64::from(k)),
        scale: 1.0,
    };
    MovingBody {
        name: "cart \"A\" / 天".to_owned(),
        points: (0..3).map(point).collect(),
        moves: (0..of.cameras.len() as i32).map(there).collect(),
        seen: [FrameNumber(1001), FrameNumber(1003)],
        is_assumed: false,
        distance_by: "by a stated length".to_owned(),
    }
}

/// Everything that a delivery can hold: groups, names of other scripts, pictures, a guest that moves, a plane of the
/// set, a body, a bent lens.
fn everything(receiver: Receiver, track: &Track) -> Delivery<'_> {
    let mut all = delivery(receiver);
    all.lens.distortion = Distortion {
        p1: 0.0004,
        ..Distortion::radial(-0.1, 0.02)
    };
    all.points[1].name = "nail \"left\", top \\ 3 / 天文台".to_owned();
    all.points[1].group = "door".to_owned();
    all.points[2].name = "n".repeat(300);
    for (k, point) in all.points.iter_mut().enumerate() {
        point.colour = Some([10 * k as u8, 200, 30]);
    }
    let card = What::Checker {
        size_m: [0.6, 0.4],
        squares: 3,
    };
    all.guests.push(guest(&card, 30.0, 1.5));
    let mut moving = guest(&What::Sphere { diameter_m: 0.3 }, 0.0, 1.0);
    let there = moving.there;
    moving.moves = (0..4)
        .map(|k| Similarity {
            rotation: Lie {
                turn_deg: [20.0 * f64::from(k), 0.0, 0.0],
                ..Lie::default()
            }
            .rotation(),
            translation: there.translation + Vector3::x() * 0.1 * f64::from(k),
            scale: 1.0 + 0.1 * f64::from(k),
        })
        .collect();
    moving.there = moving.moves[0];
    all.guests.push(moving);
    let wall = What::Plane { size_m: [3.0, 2.0] };
    let mut wall = guest(&wall, 15.0, 1.0);
    wall.name = "wall, north".to_owned();
    all.set.push(wall);
    all.bodies.push(body(&all));
    let called = Called {
        name: all.points[1].name.chars().take(70).collect(),
        group: "door".to_owned(),
        aside: String::new(),
    };
    all.tracks = vec![(track, called)];
    all.formats = FormatKind::ALL.to_vec();
    all
}

#[rstest]
#[case::ours(Receiver::default())]
#[case::z_up(Receiver::of_axes(Up::Z, Hand::Right))]
#[case::y_left(Receiver::of_axes(Up::Y, Hand::Left))]
#[case::z_left_centimetres(Receiver { unit: LengthUnit::Centimetre, ..Receiver::of_axes(Up::Z, Hand::Left) })]
#[case::feet_ten_times(Receiver { unit: LengthUnit::Foot, scale: 10.0, ..Receiver::default() })]
fn every_format_holds_what_was_handed_on(
    #[case] receiver: Receiver,
    #[values(TimeAs::Frames, TimeAs::Seconds)] time: TimeAs,
    #[values(false, true)] zooms: bool,
) {
    let track = track();
    let mut all = everything(receiver, &track);
    all.time = time;
    if zooms {
        all.lens.distortion.k1_by_zoom = 0.2;
        all.lens.centre.x += 7.5;
        for (k, camera) in all.cameras.iter_mut().enumerate() {
            camera.focal_px *= 1.0 + 0.1 * k as f64;
        }
    }
    let files = all.files().unwrap();
    let receipt = receipt::make(&all, &files).unwrap();
    assert!(
        receipt.largest_difference_px < 2e-3,
        "{} px: {:?}",
        receipt.largest_difference_px,
        receipt.files
    );
    let named: Vec<&str> = receipt.files.iter().map(|f| f.file.as_str()).collect();
    assert!(files.iter().all(|(name, _)| named.contains(&name.as_str())));
    let maps = if zooms { 0 } else { 2 };
    assert_eq!(files.len(), 15 + maps, "{named:?}");
}

/// Landmarks are read where they were followed, on few frames that together show them all; what none shows is grey
/// beside the others, and said.
#[test]
fn landmarks_are_coloured_where_they_were_followed() {
    let of = |id: u32, frames: std::ops::Range<i32>| {
        let sample = |frame: i32| Sample {
            frame: FrameNumber(frame),
            px: PlatePx::new(f64::from(100 * id), f64::from(frame - 900)),
            covariance: Covariance::isotropic(0.1),
        };
        Track::new(TrackId(id), TrackKind::Auto, frames.map(sample).collect())
    };
    let tracks = [of(0, 1001..1003), of(1, 1002..1004), of(2, 1004..1005)];
    let mut all = delivery(Receiver::default());
    all.points.truncate(3);
    for (point, track) in all.points.iter_mut().zip(&tracks) {
        point.name = track.id.to_string();
    }
    all.tracks = tracks.iter().map(|t| (t, Called::default())).collect();
    let wanted = colours::wanted(&all);
    let frames: Vec<i32> = wanted.keys().map(|f| f.0).collect();
    assert_eq!(frames, [1002, 1004], "two frames show them all");
    assert_eq!(wanted[&FrameNumber(1002)].len(), 2);
    assert_eq!(
        wanted[&FrameNumber(1004)],
        [(2, PlatePx::new(200.0, 104.0))]
    );

    all.formats = vec![FormatKind::LandmarksPly, FormatKind::Usd];
    all.points[0].colour = Some([200, 10, 10]);
    let made = receipt::make(&all, &all.files().unwrap()).unwrap();
    let lacks = made.files.iter().map(|f| f.lacks.join(" "));
    assert!(
        lacks.clone().all(|l| l.contains("they are grey")),
        "{:?}",
        made.files
    );
    all.points[0].colour = None;
    let made = receipt::make(&all, &all.files().unwrap()).unwrap();
    assert!(
        made.files[0]
            .lacks
            .join(" ")
            .contains("which were not read")
    );
}

/// Without landmarks and guests a camera is proven all the same, by places before it.
#[test]
fn a_camera_alone_is_proven() {
    let track = track();
    let recipe = Recipe {
        guests: false,
        landmarks: Landmarks::None,
        ..Recipe::of("camera alone", &FormatKind::ALL)
    };
    let alone = recipe.applied(everything(Receiver::default(), &track), 2, "");
    assert!(alone.points.is_empty() && alone.guests.is_empty());
    let files = alone.files().unwrap();
    assert!(receipt::make(&alone, &files).unwrap().files_agree);
    let mut other = recipe.applied(everything(Receiver::default(), &track), 2, "");
    other.cameras[2].focal_px += 0.5;
    assert!(!receipt::make(&other, &files).is_ok_and(|r| r.files_agree));
}

/// Groups that a recipe names are those that go in, of landmarks and of tracks.
#[rstest]
#[case::one(&["door"], 1, 1)]
#[case::in_none(&[""], 3, 0)]
#[case::both(&["door", ""], 4, 1)]
#[case::unknown(&["attic"], 0, 0)]
fn only_groups_that_are_named_go_in(
    #[case] groups: &[&str],
    #[case] landmarks: usize,
    #[case] tracks: usize,
) {
    let track = track();
    let named = groups.iter().map(|g| (*g).to_owned()).collect();
    let recipe = Recipe {
        landmarks: Landmarks::Groups(named),
        ..Recipe::of("some", &FormatKind::ALL)
    };
    let some = recipe.applied(everything(Receiver::default(), &track), 1, "");
    assert_eq!((some.points.len(), some.tracks.len()), (landmarks, tracks));
    let files = some.files().unwrap();
    assert!(receipt::make(&some, &files).unwrap().files_agree);
}

/// What is held against files that were written of something else is found in each of them.
#[rstest]
#[case::focal(|d: &mut Delivery<'_>| d.cameras[1].focal_px *= 1.001)]
#[case::place(|d: &mut Delivery<'_>| d.cameras[3].pose.camera_from_world.translation.vector.x += 0.01)]
#[case::turn(|d: &mut Delivery<'_>| d.cameras.swap(0, 3))]
#[case::centre(|d: &mut Delivery<'_>| d.lens.centre.y += 0.1)]
fn another_camera_is_found_in_every_format(#[case] change: fn(&mut Delivery<'_>)) {
    let cameras = [
        FormatKind::CameraJson,
        FormatKind::Usd,
        FormatKind::Usdz,
        FormatKind::Gltf,
        FormatKind::Glb,
        FormatKind::CameraCsv,
    ];
    for kind in cameras {
        let mut written = delivery(Receiver::default());
        written.formats = vec![kind];
        let mut other = delivery(Receiver::default());
        other.formats = vec![kind];
        change(&mut other);
        let frames = other.cameras.iter_mut().zip(1001..);
        frames.for_each(|(camera, frame)| camera.frame = FrameNumber(frame));
        let made = receipt::make(&other, &written.files().unwrap());
        assert!(!made.is_ok_and(|r| r.files_agree), "{kind:?}");
    }
}

/// Formats that hold bodies.
const MOVING: &[FormatKind] = &[
    FormatKind::CameraJson,
    FormatKind::Usd,
    FormatKind::Usdz,
    FormatKind::Gltf,
    FormatKind::Glb,
    FormatKind::PathsCsv,
];

#[rstest]
#[case::landmark(|d: &mut Delivery<'_>| d.points[2].place.0.x += 0.001, &[FormatKind::LandmarksPly, FormatKind::Usd, FormatKind::Glb])]
#[case::name(|d: &mut Delivery<'_>| d.points[0].name.push('x'), &[FormatKind::Usd, FormatKind::Glb, FormatKind::CameraJson])]
#[case::colour(|d: &mut Delivery<'_>| d.points[0].colour = Some([9; 3]), &[FormatKind::LandmarksPly])]
#[case::corner(|d: &mut Delivery<'_>| d.guests[0].there.translation.x += 0.001, &[FormatKind::Obj, FormatKind::Ply, FormatKind::Usd, FormatKind::Glb])]
#[case::path(|d: &mut Delivery<'_>| d.guests[2].moves[2].translation.y += 0.001, &[FormatKind::Usd, FormatKind::Usdz, FormatKind::Gltf, FormatKind::Glb, FormatKind::PathsCsv])]
#[case::wall(|d: &mut Delivery<'_>| d.set[0].there.translation.z += 0.001, &[FormatKind::Obj, FormatKind::Ply, FormatKind::Usd, FormatKind::Usdz, FormatKind::Gltf, FormatKind::Glb])]
#[case::no_wall(|d: &mut Delivery<'_>| d.set.clear(), &[FormatKind::Obj, FormatKind::Ply, FormatKind::Usd, FormatKind::Usdz, FormatKind::Gltf, FormatKind::Glb])]
#[case::body(|d: &mut Delivery<'_>| d.bodies[0].moves[2].translation.y += 0.001, MOVING)]
#[case::rivet(|d: &mut Delivery<'_>| d.bodies[0].points[2].place.0.y += 0.001, MOVING)]
#[case::name_of_a_body(|d: &mut Delivery<'_>| d.bodies[0].name.push('x'), &[FormatKind::CameraJson, FormatKind::Usd, FormatKind::Usdz, FormatKind::Gltf, FormatKind::Glb])]
#[case::name_of_a_rivet(|d: &mut Delivery<'_>| d.bodies[0].points[1].name.push('x'), MOVING)]
#[case::no_body(|d: &mut Delivery<'_>| d.bodies.clear(), MOVING)]
#[case::picture(|d: &mut Delivery<'_>| { let mesh = std::sync::Arc::make_mut(&mut d.guests[1].mesh); std::sync::Arc::make_mut(&mut mesh.textures[0]).rgba[5] ^= 1; }, &[FormatKind::Obj, FormatKind::Usd, FormatKind::Usdz, FormatKind::Gltf, FormatKind::Glb])]
#[case::position(|d: &mut Delivery<'_>| d.tracks[0].1.group = "wall".to_owned(), &[FormatKind::TracksCsv, FormatKind::TracksJson])]
fn other_things_are_found(#[case] change: fn(&mut Delivery<'_>), #[case] formats: &[FormatKind]) {
    let track = track();
    for kind in formats {
        let mut written = everything(Receiver::default(), &track);
        written.formats = vec![*kind];
        let files = written.files().unwrap();
        assert!(receipt::make(&written, &files).unwrap().files_agree);
        change(&mut written);
        let made = receipt::make(&written, &files);
        assert!(!made.is_ok_and(|r| r.files_agree), "{kind:?}");
    }
}

thread_local! {
    /// A delivery of everything, with the files of each format.
    static WRITTEN: (Delivery<'static>, Vec<Vec<NamedBytes>>) = {
        let all = everything(Receiver::default(), Box::leak(Box::new(track())));
        let files = FormatKind::ALL.iter().map(|kind| kind.format().write(&all).unwrap());
        let files = files.collect();
        (all, files)
    };
}

/// A spoilt file is an error or another camera; never a panic, and never a figure that is none.
fn spoilt(kind: usize, at: usize, cut: bool, byte: u8) {
    WRITTEN.with(|(all, written)| {
        let mut files = written[kind].clone();
        let bytes = &mut files[0].1;
        let at = at % bytes.len();
        match cut {
            true => bytes.truncate(at),
            false => bytes[at] = byte,
        }
        let kind = FormatKind::ALL[kind];
        if let Ok(receipts) = receipt::checked(kind, all, &Held::of(&files)) {
            assert!(receipts.iter().all(|r| r.largest_difference_px.is_finite()));
        }
    });
}

/// How many files are spoilt; more by hand, with `SPOILT_FILES=130000 cargo test --release`.
fn cases() -> u32 {
    let asked = std::env::var("SPOILT_FILES").ok();
    asked.and_then(|n| n.parse().ok()).unwrap_or(400)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(cases()))]
    #[test]
    fn spoilt_files_are_errors(
        kind in 0..FormatKind::ALL.len(),
        at in any::<usize>(),
        cut in any::<bool>(),
        byte in any::<u8>(),
    ) {
        spoilt(kind, at, cut, byte);
    }
}

/// Numbers that are none are never proven: the larger of two numbers is never the one that is none.
#[rstest]
#[case::landmarks(FormatKind::LandmarksPly)]
#[case::guests(FormatKind::Ply)]
#[case::scene(FormatKind::Usd)]
#[case::table(FormatKind::CameraCsv)]
#[case::tracks(FormatKind::TracksJson)]
#[case::paths(FormatKind::PathsCsv)]
#[case::together(FormatKind::Glb)]
fn numbers_that_are_none_are_not_proven(#[case] kind: FormatKind) {
    let track = track();
    let all = everything(Receiver::default(), &track);
    let mut files = kind.format().write(&all).unwrap();
    let bytes = &mut files[0].1;
    let nan = f32::NAN.to_le_bytes();
    let find = |text: &str, bytes: &[u8]| {
        let at = bytes.windows(text.len()).position(|w| w == text.as_bytes());
        at.unwrap() + text.len()
    };
    match kind {
        FormatKind::LandmarksPly | FormatKind::Ply => {
            let at = find("end_header\n", bytes);
            bytes[at..at + 4].copy_from_slice(&nan);
        }
        FormatKind::Glb => {
            // The first place of the camera's path.
            let at = find("BIN\0", bytes) + 4 * 4;
            bytes[at..at + 4].copy_from_slice(&nan);
        }
        _ => {
            let text = String::from_utf8(bytes.clone()).unwrap();
            let (old, new) = match kind {
                FormatKind::Usd => ("point3f[] points = [(", "point3f[] points = [(nan, "),
                FormatKind::CameraCsv => ("\n1002,", "\n1002,NaN,"),
                FormatKind::TracksJson => ("[1001.0,", "[1001.0,1e999,"),
                _ => (",1001,", ",1001,NaN,"),
            };
            assert!(text.contains(old), "{text}");
            // One value more, so that the row loses its last.
            let spoilt = text.replacen(old, new, 1);
            *bytes = spoilt.into_bytes();
        }
    }
    let made = receipt::checked(kind, &all, &Held::of(&files));
    let agrees = made.is_ok_and(|all| all.iter().all(|r| r.largest_difference_px < 0.01));
    assert!(!agrees, "{kind:?}");
}

/// A digit of a number of the camera that is another is never proven where it moves a landmark.
#[test]
fn a_changed_digit_of_a_camera_is_not_proven() {
    let track = track();
    let mut all = everything(Receiver::default(), &track);
    for kind in [
        FormatKind::CameraJson,
        FormatKind::Usd,
        FormatKind::CameraCsv,
    ] {
        all.formats = vec![kind];
        let files = all.files().unwrap();
        let text = String::from_utf8(files[0].1.clone()).unwrap();
        let begins = match kind {
            FormatKind::CameraJson => "\"focal_px\": ",
            FormatKind::Usd => "float focalLength = ",
            _ => "1001,0,",
        };
        let at = text.find(begins).unwrap() + begins.len();
        let digit = at + text[at..].find(|c: char| c.is_ascii_digit()).unwrap();
        let mut changed: Vec<NamedBytes> = files.clone();
        let byte = &mut changed[0].1[digit];
        *byte = if *byte == b'9' { b'8' } else { *byte + 1 };
        let made = receipt::make(&all, &changed);
        assert!(!made.is_ok_and(|r| r.files_agree), "{kind:?}");
    }
}

/// The README says what the receiver has to know, and both of its forms say the same.
#[test]
fn the_delivery_explains_itself() {
    let track = track();
    let recipe = Recipe {
        receiver: Receiver {
            unit: LengthUnit::Centimetre,
            ..Receiver::of_axes(Up::Z, Hand::Left)
        },
        author: "A. Keeper".to_owned(),
        note: "for layout; the door is 2.10 m".to_owned(),
        ..Recipe::of("layout", &[FormatKind::Usd, FormatKind::CameraCsv])
    };
    let mut all = everything(Receiver::default(), &track);
    all.film_back_assumed = true;
    let all = recipe.applied(all, 3, "2026-01-02T03:04:05Z");
    let files = all.files().unwrap();
    let receipt = receipt::make(&all, &files).unwrap();
    let explained = readme::files(&all, &receipt).unwrap();
    let text = |k: usize| String::from_utf8(explained[k].1.clone()).unwrap();
    assert_eq!(explained[0].0, "terrace-walk-README-v003.txt");
    let words = text(0);
    for said in [
        "terrace-walk",
        "Delivery 'layout', version 3",
        "By A. Keeper",
        "the door is 2.10 m",
        "24000/1001 frames a second",
        "1001 to 1004",
        "36 x 20.25 mm (assumed)",
        "k1 = -0.1",
        "up Z, left-handed",
        "unit: centimetre",
        "nothing speaks against it",
        "lens distortion",
    ] {
        assert!(words.contains(said), "{said} is missing in\n{words}");
    }
    let json: serde_json::Value = serde_json::from_str(&text(1)).unwrap();
    assert_eq!(json["schema"], readme::SCHEMA);
    assert_eq!(json["world"]["unit"], "centimetre");
    assert_eq!(json["film_back"]["assumed"], true);
    let sums = json["files"].as_array().unwrap();
    assert_eq!(sums.len(), receipt.files.len());
    let sigma = json["world"]["landmark_sigma"].as_f64().unwrap();
    let wanted = 100.0 * ((0.01f64.powi(2) + 0.02f64.powi(2) + 0.03f64.powi(2)) / 3.0).sqrt();
    assert!((sigma - wanted).abs() < 1e-9, "{sigma}");
}

#[test]
fn files_are_called_as_the_recipe_has_it_and_name_each_other_so() {
    let track = track();
    let mut all = everything(Receiver::default(), &track);
    all.names = Names::of(
        "{recipe}_{shot}_{file}_{version}",
        "天 \"x\"/y",
        "3D scene",
        12,
    );
    let files = all.files().unwrap();
    let names: Vec<&str> = files.iter().map(|(n, _)| n.as_str()).collect();
    assert!(
        names.contains(&"3D-scene_天-x-y_scene_012.usda"),
        "{names:?}"
    );
    assert!(receipt::make(&all, &files).unwrap().files_agree);
}
