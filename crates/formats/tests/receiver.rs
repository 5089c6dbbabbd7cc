//! Deliveries in the axes of every receiver: what is read back is the camera that was solved,
//! and a file in other axes than stated is found.
#![allow(clippy::unwrap_used)]

mod shared;

use nalgebra::Vector3;
use parallax_core::camera::Pose;
use parallax_core::lens::Distortion;
use parallax_core::scene::{Hand, Receiver, Up};
use parallax_core::spaces::{FrameNumber, TrackId, WorldPoint};
use parallax_core::tracks::{Covariance, Sample, Track, TrackKind};
use parallax_formats::camera_reader::CameraFile;
use parallax_formats::delivery::{
    CAMERA_FILE, Camera, CameraStanding, Delivered, SCENE_FILE, TRACKS_FILE,
};
use parallax_formats::tracks_csv::Called;
use rstest::rstest;
use shared::{delivery, made, read};

#[rstest]
#[case::ours(Up::Y, Hand::Right)]
#[case::z_up(Up::Z, Hand::Right)]
#[case::y_left(Up::Y, Hand::Left)]
#[case::z_left(Up::Z, Hand::Left)]
fn every_receiver_gets_the_same_camera(#[case] up: Up, #[case] hand: Hand) {
    let delivery = delivery(Receiver::of_axes(up, hand));
    let receipt = made(&delivery, |name| read(&delivery, name)).unwrap();
    assert!(
        // Single precision of a scene a few metres wide, at a thousand px of focal length.
        receipt.files_agree && receipt.largest_difference_px < 2e-3,
        "{}",
        receipt.largest_difference_px
    );
    assert_eq!(receipt.up_axis, delivery.receiver.to_string());
    let file = CameraFile::read(&read(&delivery, CAMERA_FILE).unwrap()).unwrap();
    let above = if up == Up::Y { 1 } else { 2 };
    assert_eq!(
        file.points[2].xyz[above], 1.4,
        "the point at 1.4 m is not 1.4 up"
    );
    assert_eq!(file.points[2].sigma.unwrap()[above], 0.02);
    let off = (file.pose(&file.frames[0]).unwrap().centre().0
        - delivery.cameras[0].pose.centre().0)
        .norm();
    assert!(off < 1e-12);
}

#[rstest]
#[case::z_for_y(Up::Y, Up::Z)]
#[case::y_for_z(Up::Z, Up::Y)]
fn a_scene_that_only_claims_its_axes_is_found(#[case] asked: Up, #[case] written: Up) {
    let (asked, written) = (
        Receiver::of_axes(asked, Hand::Right),
        Receiver::of_axes(written, Hand::Right),
    );
    let (delivery, other) = (delivery(asked), delivery(written));
    // The text in the other axes, claiming to be in the ones that were asked for.
    let claim = |text: String| {
        let name = |r: Receiver| if r.up == Up::Y { "\"Y\"" } else { "\"Z\"" };
        text.replace(
            &format!("upAxis = {}", name(written)),
            &format!("upAxis = {}", name(asked)),
        )
    };
    let receipt = made(&delivery, |file| match file {
        SCENE_FILE => read(&other, file).map(claim),
        _ => read(&delivery, file),
    });
    // Wrong by far more than px, or even behind the camera.
    assert!(receipt.is_err() || receipt.is_ok_and(|r| !r.files_agree));
}

/// All terms, the centre and the model are in both files; one that is missing or changed is found.
#[rstest]
#[case::k3("double k3 = 0.003", "double k3 = 0.0031")]
#[case::p1("double p1 = 0.0004", "double p1 = 0")]
#[case::by_zoom("double k1ByZoom = 0.25", "double k1ByZoom = 0")]
#[case::centre("double lensCentreX = 655", "double lensCentreX = 640")]
#[case::model("string lensModel = \"brown\"", "string lensModel = \"other\"")]
fn every_lens_term_is_compared(#[case] written: &str, #[case] changed: &str) {
    let mut delivery = delivery(Receiver::default());
    delivery.lens.distortion = Distortion {
        k3: 0.003,
        p1: 0.0004,
        p2: -0.0002,
        k1_by_zoom: 0.25,
        ..Distortion::radial(-0.1, 0.02)
    };
    delivery.lens.centre.x = 655.0;
    for (camera, longer) in delivery.cameras.iter_mut().zip(0..) {
        camera.focal_px *= 1.0 + 0.1 * f64::from(longer);
    }
    let receipt = made(&delivery, |name| read(&delivery, name)).unwrap();
    assert!(receipt.files_agree, "{}", receipt.largest_difference_px);
    let scene = receipt.files.iter().find(|f| f.file == SCENE_FILE).unwrap();
    assert!(
        scene.lacks[0].contains("lens distortion"),
        "{:?}",
        scene.lacks
    );
    let file = CameraFile::read(&read(&delivery, CAMERA_FILE).unwrap()).unwrap();
    for (frame, camera) in file.frames.iter().zip(&delivery.cameras) {
        let mut drawn = delivery.lens_of(camera);
        drawn.distortion.k1_by_zoom = 0.0;
        assert_eq!(file.intrinsics(frame), drawn, "each frame has its own k1");
    }
    let text = read(&delivery, SCENE_FILE).unwrap();
    assert!(text.contains(written), "{text}");
    let found = made(&delivery, |name| {
        let text = read(&delivery, name)?;
        Ok(if name == SCENE_FILE {
            text.replace(written, changed)
        } else {
            text
        })
    });
    let error = found.err().map(|e| e.to_string()).unwrap_or_default();
    assert!(error.contains("is another"), "{error}");
}

/// A focal length that changes is in every file by frame, and one that is another there is found.
#[rstest]
#[case::as_written("", "", true)]
#[case::another_on_one_frame("1003: 33", "1003: 32", false)]
fn a_zoom_is_handed_on(#[case] written: &str, #[case] changed: &str, #[case] agrees: bool) {
    let mut delivery = delivery(Receiver::default());
    let px_per_mm = 1280.0 / 36.0;
    for (i, camera) in delivery.cameras.iter_mut().enumerate() {
        camera.focal_px = (31.0 + i as f64) * px_per_mm;
    }
    let file = CameraFile::read(&read(&delivery, CAMERA_FILE).unwrap()).unwrap();
    for (frame, camera) in file.frames.iter().zip(&delivery.cameras) {
        assert_eq!(frame.focal_px, camera.focal_px);
    }
    let scene = read(&delivery, SCENE_FILE).unwrap();
    assert!(scene.contains("float focalLength.timeSamples"), "{scene}");
    let receipt = made(&delivery, |name| {
        let text = read(&delivery, name)?;
        Ok(if name == SCENE_FILE && !written.is_empty() {
            assert!(text.contains(written), "{text}");
            text.replace(written, changed)
        } else {
            text
        })
    })
    .unwrap();
    assert_eq!(
        receipt.files_agree, agrees,
        "{}",
        receipt.largest_difference_px
    );
}

/// Numbers that only double precision would hold are compared as receivers read them.
#[test]
fn scenes_are_compared_in_single_precision() {
    let mut delivery = delivery(Receiver::default());
    // A world far from its origin: 32 bits do not hold its landmarks to a hundredth of a px.
    let far = Vector3::new(40_000.0, 0.0, 0.0);
    for Camera { pose, .. } in &mut delivery.cameras {
        let eye = pose.centre().0 + far;
        *pose = Pose::looking_at(&eye, &(eye + pose.viewing_direction()), &Vector3::y());
    }
    for point in &mut delivery.points {
        point.place = WorldPoint(point.place.0 + far);
    }
    delivery.guests.clear();
    let receipt = made(&delivery, |name| read(&delivery, name)).unwrap();
    assert!(!receipt.files_agree, "{} px", receipt.largest_difference_px);
    let of = |file: &str| {
        receipt
            .files
            .iter()
            .find(|f| f.file == file)
            .unwrap()
            .largest_difference_px
    };
    assert!(of(CAMERA_FILE) < 1e-6, "JSON holds doubles");
    assert!(of(SCENE_FILE) > 0.01, "OpenUSD holds points as floats");
}

/// A guest that stands a millimetre elsewhere, or lacks a triangle, is not the one that was delivered.
#[test]
fn another_guest_is_found() {
    let written = delivery(Receiver::default());
    let held_against = |change: &dyn Fn(&mut Delivered)| {
        let mut other = delivery(Receiver::default());
        change(&mut other.guests[0]);
        made(&other, |name| read(&written, name))
    };
    assert!(held_against(&|_| ()).unwrap().files_agree);
    assert!(held_against(&|guest| guest.there.translation.x += 0.001).is_err());
    let fewer = |guest: &mut Delivered| {
        let mut mesh = (*guest.mesh).clone();
        mesh.triangles.pop();
        guest.mesh = mesh.into();
    };
    assert!(held_against(&fewer).is_err());
}

/// What the artist calls things is in every file, quotes and all.
#[test]
fn names_survive_in_every_file() {
    let mut delivery = delivery(Receiver::default());
    let name = "nail \"left\", top \\ 3";
    delivery.points[1].name = name.to_owned();
    let sample = |frame| Sample {
        frame: FrameNumber(frame),
        px: parallax_core::spaces::PlatePx::new(10.5, 20.25),
        covariance: Covariance::isotropic(0.1),
    };
    let track = Track::new(
        TrackId(7),
        TrackKind::Hand,
        vec![sample(1001), sample(1002)],
    );
    let called = Called {
        name: name.to_owned(),
        group: "door".to_owned(),
        aside: String::new(),
    };
    delivery.tracks = vec![(&track, called)];
    let receipt = made(&delivery, |name| read(&delivery, name)).unwrap();
    assert!(receipt.files_agree);
    let file = CameraFile::read(&read(&delivery, CAMERA_FILE).unwrap()).unwrap();
    assert_eq!(file.points[1].name, name);
    let renamed = made(&delivery, |file| {
        let text = read(&delivery, file)?;
        Ok(if file == TRACKS_FILE {
            text.replace("door", "wall")
        } else {
            text
        })
    });
    assert!(renamed.is_err(), "another group goes unseen");
}

/// A stale solve is marked in names, files and receipt; what was assumed is said.
#[test]
fn a_stale_delivery_says_so_everywhere() {
    let mut delivery = delivery(Receiver::default());
    delivery.stale = vec!["the film back was changed".to_owned()];
    delivery.standing = CameraStanding::doubted(vec!["there is little parallax".to_owned()]);
    (
        delivery.film_back_assumed,
        delivery.scaled,
        delivery.levelled,
    ) = (true, false, false);
    let files = delivery.files().unwrap();
    assert!(files.iter().all(|(name, _)| name.starts_with("stale-")));
    assert!(
        files
            .iter()
            .all(|(_, text)| String::from_utf8_lossy(text).contains("the film back was changed"))
    );
    let find = |wanted: &str| {
        Ok(files
            .iter()
            .find(|(name, _)| name == wanted)
            .unwrap()
            .1
            .clone())
        .map(|bytes: Vec<u8>| String::from_utf8(bytes).unwrap())
    };
    let receipt = made(&delivery, find).unwrap();
    assert!(
        receipt.files_agree,
        "the files agree although the camera is not good"
    );
    assert_eq!(receipt.stale, delivery.stale);
    let camera = receipt.camera.unwrap();
    assert_eq!((camera.good, camera.reasons.len()), (false, 1));
    for assumed in ["film back", "no scale", "no ground"] {
        assert!(
            receipt.assumptions.iter().any(|a| a.contains(assumed)),
            "{assumed}"
        );
    }
}
