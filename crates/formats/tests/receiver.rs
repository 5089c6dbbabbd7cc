//! Deliveries in the axes of every receiver: what is read back is the camera that was solved,
//! and a file in other axes than stated is found.
#![allow(clippy::unwrap_used)]

use nalgebra::{Point3, Vector3};
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::scene::{Hand, Receiver, StandIn, Up};
use parallax_core::spaces::{FrameNumber, TrackId, WorldPoint};
use parallax_formats::camera_json::CameraFile;
use parallax_formats::delivery::{CAMERA_FILE, Delivery, DeliveryError, Landmark, SCENE_FILE};
use parallax_formats::receipt;
use rstest::rstest;

fn delivery(receiver: Receiver) -> Delivery<'static> {
    let pose = |i: i32| {
        let eye = Point3::new(0.3 * f64::from(i), 1.6, 4.0);
        Pose::looking_at(
            &eye,
            &Point3::new(0.2, 0.9, -1.0),
            &Vector3::new(0.1, 1.0, 0.0),
        )
    };
    let places = [
        [0.0, 0.0, 0.0],
        [1.0, 0.2, -0.5],
        [-0.7, 1.4, 0.3],
        [0.1, 0.8, -3.0],
    ];
    let landmark = |(i, [x, y, z]): (usize, [f64; 3])| Landmark {
        name: format!("t{i:04}"),
        place: WorldPoint::new(x, y, z),
        sigma: [0.01, 0.02, 0.03],
        residual_px: 0.2,
    };
    let stand_in = StandIn {
        name: "box".to_owned(),
        at: TrackId(0),
        size_m: [0.5, 0.8, 0.3],
        turn_deg: 20.0,
    };
    Delivery {
        shot: "terrace-walk".to_owned(),
        rate: FrameRate::new(24000, 1001).unwrap(),
        film_back: FilmBack {
            width_mm: 36.0,
            height_mm: 20.25,
        },
        lens: Intrinsics::centred(1280, 720, 1100.0),
        cameras: (0..4).map(|i| (FrameNumber(1001 + i), pose(i))).collect(),
        points: places.into_iter().enumerate().map(landmark).collect(),
        stand_ins: vec![(stand_in, WorldPoint::new(0.2, 0.0, -0.4))],
        tracks: Vec::new(),
        scaled: true,
        receiver,
    }
}

fn read(delivery: &Delivery<'_>, name: &str) -> Result<String, DeliveryError> {
    Ok(delivery
        .files()?
        .into_iter()
        .find(|(n, _)| *n == name)
        .unwrap()
        .1)
}

#[rstest]
#[case::ours(Up::Y, Hand::Right)]
#[case::z_up(Up::Z, Hand::Right)]
#[case::y_left(Up::Y, Hand::Left)]
#[case::z_left(Up::Z, Hand::Left)]
fn every_receiver_gets_the_same_camera(#[case] up: Up, #[case] hand: Hand) {
    let delivery = delivery(Receiver { up, hand });
    let receipt = receipt::make(&delivery, |name| read(&delivery, name)).unwrap();
    assert!(
        receipt.proven && receipt.largest_difference_px < 1e-6,
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
    assert_eq!(file.points[2].sigma[above], 0.02);
    let off =
        (file.pose(&file.frames[0]).unwrap().centre().0 - delivery.cameras[0].1.centre().0).norm();
    assert!(off < 1e-12);
}

#[rstest]
#[case::z_for_y(Up::Y, Up::Z)]
#[case::y_for_z(Up::Z, Up::Y)]
fn a_scene_that_only_claims_its_axes_is_found(#[case] asked: Up, #[case] written: Up) {
    let (asked, written) = (
        Receiver {
            up: asked,
            hand: Hand::Right,
        },
        Receiver {
            up: written,
            hand: Hand::Right,
        },
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
    let receipt = receipt::make(&delivery, |file| match file {
        SCENE_FILE => read(&other, file).map(claim),
        _ => read(&delivery, file),
    });
    // Wrong by far more than px, or even behind the camera.
    assert!(receipt.is_err() || receipt.is_ok_and(|r| !r.proven));
}
