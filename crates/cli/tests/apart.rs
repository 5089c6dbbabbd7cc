//! Pictures are decoded by a process of its own, and what ends that process ends nothing else.
#![allow(clippy::unwrap_used)]

use image::{DynamicImage, ImageBuffer, Rgb};
use parallax_media::apart::Decoder;
use parallax_media::picture;
use rstest::rstest;
use std::path::{Path, PathBuf};

fn decoder() -> Decoder {
    let program = PathBuf::from(env!("CARGO_BIN_EXE_true-parallax"));
    Decoder::new(program, &["decode-apart"])
}

fn floats(seed: u32) -> DynamicImage {
    let value = |x: u32, y: u32, c: u32| ((x * 7 + y * 13 + c + seed) % 97) as f32 / 31.0;
    DynamicImage::ImageRgb32F(ImageBuffer::from_fn(96, 64, |x, y| {
        Rgb([0, 1, 2].map(|c| value(x, y, c)))
    }))
}

fn sixteen_bit() -> DynamicImage {
    DynamicImage::ImageRgb16(ImageBuffer::from_fn(96, 64, |x, y| {
        Rgb([0, 1, 2].map(|c| (x * 601 + y * 37 + c) as u16))
    }))
}

#[rstest]
#[case::openexr("a.exr", floats(1))]
#[case::tiff("a.tif", sixteen_bit())]
fn what_is_decoded_apart_is_what_is_decoded_here(
    #[case] name: &str,
    #[case] written: DynamicImage,
) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join(name);
    written.save(&path).unwrap();
    let apart = decoder();
    assert_eq!(apart.size(&path).unwrap(), picture::size(&path).unwrap());
    assert_eq!(
        apart.coding(&path).unwrap(),
        picture::coding(&path).unwrap()
    );
    let (there, here) = (
        apart.decode(&path).unwrap(),
        picture::decode(&path).unwrap(),
    );
    assert_eq!(there.color(), here.color());
    assert!(there.as_bytes() == here.as_bytes(), "values differ");
}

#[test]
fn what_cannot_be_read_is_said_as_here() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("a.exr");
    floats(2).save(&path).unwrap();
    let whole = std::fs::read(&path).unwrap();
    std::fs::write(&path, &whole[..whole.len() / 2]).unwrap();
    let apart = decoder();
    let there = apart.decode(&path).unwrap_err().to_string();
    assert_eq!(there, picture::decode(&path).unwrap_err().to_string());
    let none = apart.decode(Path::new("/no/such/picture.exr"));
    assert!(none.is_err());
}

#[test]
fn a_decoder_that_was_killed_is_begun_again() {
    let folder = tempfile::tempdir().unwrap();
    let (path, pids) = (folder.path().join("a.exr"), folder.path().join("pids"));
    floats(3).save(&path).unwrap();
    let script = format!(
        "echo $$ >> {}; exec {} decode-apart",
        pids.display(),
        env!("CARGO_BIN_EXE_true-parallax")
    );
    let apart = Decoder::new(PathBuf::from("sh"), &["-c", &script]);
    let started = || std::fs::read_to_string(&pids).unwrap();
    for _ in 0..3 {
        apart.decode(&path).unwrap();
    }
    let first = started().trim().to_owned();
    assert!(
        !first.contains('\n'),
        "one process answers one after the other"
    );
    let killed = std::process::Command::new("kill")
        .args(["-9", &first])
        .status();
    assert!(killed.unwrap().success());
    assert!(apart.decode(&path).is_ok());
    assert_eq!(started().lines().count(), 2);
}
