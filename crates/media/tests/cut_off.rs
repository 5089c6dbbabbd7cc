//! Pictures that end too early.
#![allow(clippy::unwrap_used)]

use parallax_media::picture;

fn coded(format: image::ImageFormat) -> Vec<u8> {
    let whole = image::RgbImage::from_fn(64, 48, |x, y| {
        image::Rgb([(x * 4) as u8, (y * 5) as u8, ((x * y) % 251) as u8])
    });
    let mut bytes = std::io::Cursor::new(Vec::new());
    whole.write_to(&mut bytes, format).unwrap();
    bytes.into_inner()
}

#[test]
fn a_picture_cut_off_is_refused_when_it_is_decoded() {
    let root = tempfile::tempdir().unwrap();
    for (ending, format) in [
        ("jpg", image::ImageFormat::Jpeg),
        ("png", image::ImageFormat::Png),
        ("tif", image::ImageFormat::Tiff),
    ] {
        let bytes = coded(format);
        let file = root.path().join(format!("a.{ending}"));
        std::fs::write(&file, &bytes).unwrap();
        assert!(picture::decode(&file).is_ok(), "{ending}");
        for share in 1..20 {
            std::fs::write(&file, &bytes[..bytes.len() * share / 20]).unwrap();
            let decoded = picture::decode(&file);
            assert!(decoded.is_err(), "{ending} cut at {share} of 20");
        }
    }
}
