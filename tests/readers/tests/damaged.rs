//! A bounded run of a fixed corpus: good files, each damaged in many ways that are the same every
//! time. Whatever is read, nothing panics; a decoder that takes the process down fails the run.
#![allow(clippy::unwrap_used)]

use parallax_core::guest::{What, stand_ins};
use parallax_formats::model::glb;
use readers::Reader;
use rstest::rstest;
use std::io::Cursor;

/// Good files of a kind.
fn corpus(reader: Reader) -> Vec<Vec<u8>> {
    let texts: &[&str] = match reader {
        Reader::Camera => &[
            r#"{"schema":"true-parallax/camera@1","fps":"24000/1001","first_frame":1,"width":64,"height":48,"film_back_mm":[36.0,20.25],"distortion":{"model":"brown","k1":0.1,"k2":0},"frames":[{"frame":1,"focal_px":50.0,"cx":32,"cy":24,"world_from_camera":[1,0,0,0,0,1,0,0,0,0,1,0,0,0,0,1]}],"points":[{"name":"a","xyz":[0,0,-4],"sigma":null,"residual_px":0.2}]}"#,
        ],
        Reader::TracksCsv => &[
            "track,frame,x,y,sigma_x,weight,kind,name\na,1,2.5,3.5,0.1,1,auto,nail\na,2,2.6,3.4,0.1,1,auto,nail\n",
        ],
        Reader::TracksJson => &[
            r#"{"schema":"true-parallax/tracks@1","tracks":[{"track":"a","name":"nail","samples":[[1,2.5,3.5,0.1,0.1],[2,2.6,3.4]]}]}"#,
        ],
        Reader::Usda => &[
            "#usda 1.0\n(\n    upAxis = \"Y\"\n)\ndef Xform \"s\"\n{\n    def Camera \"c\" {\n        float focalLength = 35\n        matrix4d xformOp:transform.timeSamples = { 1: ((1,0,0,0),(0,1,0,0),(0,0,1,0),(0,0,0,1)), }\n    }\n}\n",
        ],
        Reader::Lens => &[
            r#"{"schema":"true-parallax/lens@1","width":64,"height":48,"focal_px":60,"centre":[32,24],"k1":-0.1,"k2":0.02,"k3":0,"p1":0,"p2":0}"#,
        ],
        Reader::Straights => &[
            r#"{"width":64,"height":48,"straights":[[[1,2],[30,3],[60,2]],[[1,40],[30,41],[60,40]]],"terms":1}"#,
        ],
        Reader::Photo => &[
            r#"{"width":200,"height":133,"rails":[{"axis":"x","a":[20,90],"b":[88,76]},{"axis":"x","a":[20,20],"b":[88,40]},{"axis":"z","a":[180,90],"b":[110,76]},{"axis":"z","a":[180,20],"b":[110,40]}],"origin":[93,110],"known_length":{"axis":"y","from":[86,88],"to":[86,40],"metres":2.04}}"#,
        ],
        Reader::Patch => &[
            r#"{"rate":"24000/1001","film_back":{"width_mm":36,"height_mm":24},"focal":{"mm":28},"range":[1,9],"track":{"count":200}}"#,
            r#"{"lens":{"source":"values","values":{"convention":"distorted_to_undistorted","terms":{"k1":0.1,"k2":0.01},"focal_px":640}}}"#,
            r#"{"lens":{"straights":[{"frame":1,"marks":[[10,10],[300,12],[600,10]]},{"frame":1,"marks":[[10,300],[300,305],[600,300]]}]}}"#,
            r#"{"photo":{"rails":[{"axis":"x","a":[1,2],"b":[30,4]}],"origin":[5,6],"known":{"axis":"y","from":[1,2],"to":[3,4],"metres":2}}}"#,
        ],
        Reader::Statements => &[
            r#"{"schema":"true-parallax/statements@1","statements":[{"kind":"plane","name":"floor","faces":"ground","on":["f0","f1","f2","f8"]},{"kind":"origin","at":"f2"},{"kind":"edge","edge":{"features":["f0","f1"]},"runs":"along"},{"kind":"length","between":[{"feature":"f0"},{"camera":2}],"length_m":2.5,"sigma_m":0.01}]}"#,
            r#"{"schema":"true-parallax/statements@1","statements":[{"kind":"edge","edge":{"rail":{"frame":1,"a":{"x":10,"y":20},"b":{"x":300,"y":40}}},"runs":"free"},{"kind":"edge","edge":{"features":["f4","f5"]},"runs":{"square_to":1}},{"kind":"horizon","rail":{"frame":2,"a":{"x":0,"y":180},"b":{"x":640,"y":170}}},{"kind":"plane","name":"wall","faces":"wall","on":["f0","f4","f8"]},{"kind":"length","between":[{"on_plane":{"sight":{"frame":1,"px":{"x":100,"y":300}},"plane":4}},{"marked":[{"frame":1,"px":{"x":300,"y":200}},{"frame":3,"px":{"x":290,"y":200}}]}],"length_m":1,"sigma_m":0.1},{"kind":"by_hand","turn_deg":[0,10,0],"shift_m":[0,1,0],"scale":2,"off":true},{"kind":"camera_height","frame":1,"height_m":1.6,"sigma_m":0.1}]}"#,
        ],
        Reader::Model("obj") => &[
            "v -1 0 -1\nv 1 0 -1\nv 1 2 1\nv -1 2 1\nvt 0 0\nvn 0 1 0\nusemtl a\nf 1/1/1 2/1/1 3/1/1 4/1/1\nf -4 -3 -2\n",
        ],
        Reader::Model("ply") => &[
            "ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n2 0 0\n2 3 0\n3 0 1 2\n",
        ],
        Reader::Model(_) => return vec![card()],
        Reader::Picture(ending) => return vec![picture(ending)],
    };
    texts.iter().map(|text| text.as_bytes().to_vec()).collect()
}

/// A card with a texture, as GLB.
fn card() -> Vec<u8> {
    let size_m = [0.3, 0.2];
    let mesh = stand_ins::plain(&What::Checker { size_m, squares: 3 }).unwrap();
    glb::write("card", &mesh)
}

fn picture(ending: &str) -> Vec<u8> {
    use image::{DynamicImage, ImageFormat, Rgb, Rgb32FImage, RgbImage};
    let level = |x: u32, y: u32, c: u32| ((x * 3 + y * 5 + c * 7) % 251) as u8;
    let plain = RgbImage::from_fn(40, 24, |x, y| Rgb([0, 1, 2].map(|c| level(x, y, c))));
    let light = Rgb32FImage::from_fn(40, 24, |x, y| {
        Rgb([0, 1, 2].map(|c| f32::from(level(x, y, c)) / 251.0))
    });
    let (picture, format) = match ending {
        "jpg" => (DynamicImage::from(plain), ImageFormat::Jpeg),
        "tif" => (DynamicImage::from(plain), ImageFormat::Tiff),
        "exr" => (DynamicImage::from(light), ImageFormat::OpenExr),
        _ => (DynamicImage::from(plain), ImageFormat::Png),
    };
    let mut bytes = Cursor::new(Vec::new());
    picture.write_to(&mut bytes, format).unwrap();
    bytes.into_inner()
}

/// Pieces that numbers and names are replaced by.
const PIECES: [&[u8]; 16] = [
    b"1e308",
    b"-1e308",
    b"1e-308",
    b"NaN",
    b"null",
    b"-1",
    b"99999999999999999999",
    b"[]",
    b"{}",
    b"\"\"",
    b"[[[[[[[[",
    b"\xff\xff\xff\xff",
    b"\x00\x00\x00\x00",
    b"\x7f\xff\xff\xff",
    b"\x80",
    b"0",
];

fn damaged(good: &[u8], random: &mut fastrand::Rng) -> Vec<u8> {
    let mut bytes = good.to_vec();
    for _ in 0..random.usize(1..5) {
        if bytes.is_empty() {
            break;
        }
        let at = random.usize(0..bytes.len());
        match random.u8(0..6) {
            0 => bytes[at] ^= 1 << random.u8(0..8),
            1 => bytes[at] = random.u8(..),
            2 => bytes.truncate(at),
            3 => {
                let end = (at + random.usize(1..16)).min(bytes.len());
                bytes.drain(at..end);
            }
            4 => {
                let piece = PIECES[random.usize(0..PIECES.len())];
                let end = (at + piece.len()).min(bytes.len());
                bytes.splice(at..end, piece.iter().copied());
            }
            _ => {
                let end = (at + random.usize(1..40)).min(bytes.len());
                let again = bytes[at..end].to_vec();
                let to = random.usize(0..=bytes.len());
                bytes.splice(to..to, again);
            }
        }
    }
    bytes
}

/// Damaged files of each kind.
const EACH: usize = 400;

#[rstest]
fn nothing_that_is_read_breaks_the_reader(
    #[values(0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15)] which: usize,
) {
    let reader = Reader::ALL[which];
    let mut random = fastrand::Rng::with_seed(which as u64 + 1);
    for good in corpus(reader) {
        reader.read(&good);
        for k in 0..EACH {
            let bad = damaged(&good, &mut random);
            let read = std::panic::catch_unwind(|| reader.read(&bad));
            assert!(
                read.is_ok(),
                "{reader:?}, number {k}: {}",
                bad.escape_ascii()
            );
        }
    }
}
