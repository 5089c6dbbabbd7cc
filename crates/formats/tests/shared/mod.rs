//! A delivery that tests write, read back and spoil.
#![allow(dead_code, clippy::unwrap_used)]

use nalgebra::{Point3, Vector3};
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::guest::{Lie, What, stand_ins};
use parallax_core::lens::maps::Keep;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::scene::Receiver;
use parallax_core::solve::certain::PointCovariance;
use parallax_core::spaces::{FrameNumber, WorldPoint};
use parallax_formats::delivery::{
    Camera, CameraStanding, Delivered, Delivery, DeliveryError, Landmark, NamedBytes, Shot,
};
use parallax_formats::receipt::{self, Receipt};

/// A short walk past four landmarks and a box.
pub fn delivery(receiver: Receiver) -> Delivery<'static> {
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
        group: String::new(),
        colour: None,
        place: WorldPoint::new(x, y, z),
        covariance: PointCovariance::of_sigma([0.01, 0.02, 0.03]).ok(),
        residual_px: 0.2,
    };
    let lie = Lie {
        turn_deg: [20.0, 0.0, 0.0],
        ..Lie::default()
    };
    let size_m = [0.5, 0.8, 0.3];
    let there = Similarity {
        rotation: lie.rotation(),
        translation: Vector3::new(0.2, 0.0, -0.4),
        scale: 1.0,
    };
    let mesh = stand_ins::plain(&What::Box { size_m }).unwrap();
    let guest = Delivered::still("box", mesh.into(), there);
    let shot = Shot {
        name: "terrace-walk".to_owned(),
        rate: FrameRate::new(24000, 1001).unwrap(),
        film_back: FilmBack {
            width_mm: 36.0,
            height_mm: 20.25,
        },
        film_back_assumed: false,
        receiver,
        shutter_deg: Some(180.0),
        keep: Keep::All,
    };
    let points: Vec<Landmark> = places.into_iter().enumerate().map(landmark).collect();
    Delivery {
        cameras: (0..4)
            .map(|i| Camera {
                frame: FrameNumber(1001 + i),
                pose: pose(i),
                focal_px: 1100.0,
            })
            .collect(),
        probes: points.iter().map(|p| p.place).collect(),
        points,
        guests: vec![guest],
        scaled: true,
        levelled: true,
        standing: CameraStanding::doubted(Vec::new()),
        ..Delivery::empty(&shot, Intrinsics::centred(1280, 720, 1100.0))
    }
}

/// A file as text.
pub fn read(delivery: &Delivery<'_>, name: &str) -> Result<String, DeliveryError> {
    let files = delivery.files()?;
    let found = files.into_iter().find(|(n, _)| *n == name).unwrap();
    Ok(String::from_utf8(found.1).unwrap())
}

/// The receipt of a delivery whose files are as `read` has them by name.
pub fn made(
    delivery: &Delivery<'_>,
    read: impl Fn(&str) -> Result<String, DeliveryError>,
) -> Result<Receipt, DeliveryError> {
    let names = delivery.files()?.into_iter().map(|(name, _)| name);
    let file = |name: String| Ok((name.clone(), read(&name)?.into_bytes()));
    let files: Result<Vec<NamedBytes>, DeliveryError> = names.map(file).collect();
    receipt::make(delivery, &files?)
}
