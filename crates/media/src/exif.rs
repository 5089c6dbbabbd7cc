//! What a photograph's file says of its camera: Exif tags, read and nothing more. Whether they
//! can be believed is for `parallax_core::photo::stated` to say.

use exif::{In, Reader, Tag, Value};
use parallax_core::photo::stated::Stated;
use std::path::Path;

/// Longest text that is taken over.
const LONGEST_TEXT: usize = 80;

/// The statements of a file; all empty where it has none or they cannot be read.
pub fn stated(path: &Path) -> Stated {
    let Ok(file) = std::fs::File::open(path) else {
        return Stated::default();
    };
    let read = Reader::new()
        .continue_on_error(true)
        .read_from_container(&mut std::io::BufReader::new(file));
    match read.or_else(|e| e.distill_partial_result(|_| {})) {
        Ok(tags) => of_tags(&tags),
        Err(_) => Stated::default(),
    }
}

fn of_tags(tags: &exif::Exif) -> Stated {
    let value = |tag: Tag| tags.get_field(tag, In::PRIMARY).map(|f| &f.value);
    let number = |tag: Tag| value(tag).and_then(number);
    let words = |tag: Tag| value(tag).and_then(text);
    let orientation = number(Tag::Orientation).map_or(1, |o| o as u32);
    let size = number(Tag::PixelXDimension).zip(number(Tag::PixelYDimension));
    let on_its_side = (5..=8).contains(&orientation);
    Stated {
        camera: camera(words(Tag::Make), words(Tag::Model)),
        lens: words(Tag::LensModel),
        focal_mm: number(Tag::FocalLength),
        focal_on_full_frame_mm: number(Tag::FocalLengthIn35mmFilm),
        picture_px: size
            .map(|(w, h)| (w as u32, h as u32))
            .map(|(w, h)| if on_its_side { (h, w) } else { (w, h) }),
        // On its side, the density across is that of the other direction; sensors have the same.
        px_per_mm: number(Tag::FocalPlaneXResolution)
            .zip(mm_per_unit(number(Tag::FocalPlaneResolutionUnit)))
            .map(|(density, mm)| density / mm),
        turned: (2..=8).contains(&orientation),
    }
}

/// Many models repeat their maker.
fn camera(make: Option<String>, model: Option<String>) -> Option<String> {
    match (make, model) {
        (Some(make), Some(model)) if !model.to_lowercase().starts_with(&make.to_lowercase()) => {
            Some(format!("{make} {model}"))
        }
        (make, model) => model.or(make),
    }
}

/// 2 is the inch, which is also what is meant when nothing is stated; 3 the centimetre, 4 the millimetre.
fn mm_per_unit(unit: Option<f64>) -> Option<f64> {
    match unit.map_or(2, |u| u as u32) {
        2 => Some(25.4),
        3 => Some(10.0),
        4 => Some(1.0),
        _ => None,
    }
}

fn number(value: &Value) -> Option<f64> {
    let number = match value {
        Value::Rational(v) => v.first().filter(|r| r.denom != 0)?.to_f64(),
        other => f64::from(other.get_uint(0)?),
    };
    number.is_finite().then_some(number)
}

fn text(value: &Value) -> Option<String> {
    let Value::Ascii(parts) = value else {
        return None;
    };
    let text = String::from_utf8_lossy(parts.first()?);
    let plain: String = text
        .chars()
        .filter(|c| !c.is_control())
        .take(LONGEST_TEXT)
        .collect();
    let plain = plain.trim().to_owned();
    (!plain.is_empty()).then_some(plain)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::picture;
    use exif::experimental::Writer;
    use exif::{Field, Rational};
    use rstest::rstest;

    fn rational(num: u32, denom: u32) -> Value {
        Value::Rational(vec![Rational { num, denom }])
    }

    /// A JPEG of 60x40 px with these tags.
    fn photograph(folder: &Path, tags: &[(Tag, Value)]) -> std::path::PathBuf {
        let path = folder.join("photograph.jpg");
        image::RgbImage::from_pixel(60, 40, image::Rgb([90, 120, 70]))
            .save(&path)
            .unwrap();
        let plain = std::fs::read(&path).unwrap();
        let fields: Vec<Field> = tags
            .iter()
            .map(|(tag, value)| Field {
                tag: *tag,
                ifd_num: In::PRIMARY,
                value: value.clone(),
            })
            .collect();
        let mut writer = Writer::new();
        fields.iter().for_each(|f| writer.push_field(f));
        let mut body = std::io::Cursor::new(Vec::new());
        writer.write(&mut body, false).unwrap();
        let body = [b"Exif\0\0".to_vec(), body.into_inner()].concat();
        let length = (body.len() as u16 + 2).to_be_bytes();
        // Behind the two bytes with which every JPEG begins.
        let whole = [&plain[..2], &[0xff, 0xe1], &length, &body, &plain[2..]].concat();
        std::fs::write(&path, whole).unwrap();
        path
    }

    #[test]
    fn what_a_camera_writes_is_read() {
        let folder = tempfile::tempdir().unwrap();
        let ascii = |t: &str| Value::Ascii(vec![t.as_bytes().to_vec()]);
        let path = photograph(
            folder.path(),
            &[
                (Tag::Make, ascii("Aldermoor")),
                (Tag::Model, ascii("A1")),
                (Tag::LensModel, ascii("Dome 28")),
                (Tag::FocalLength, rational(280, 10)),
                (Tag::FocalLengthIn35mmFilm, Value::Short(vec![42])),
                (Tag::PixelXDimension, Value::Long(vec![60])),
                (Tag::PixelYDimension, Value::Long(vec![40])),
                (Tag::FocalPlaneXResolution, rational(2540, 1)),
                (Tag::FocalPlaneResolutionUnit, Value::Short(vec![2])),
            ],
        );
        let wanted = Stated {
            camera: Some("Aldermoor A1".to_owned()),
            lens: Some("Dome 28".to_owned()),
            focal_mm: Some(28.0),
            focal_on_full_frame_mm: Some(42.0),
            picture_px: Some((60, 40)),
            px_per_mm: Some(100.0),
            turned: false,
        };
        assert_eq!(stated(&path), wanted);
    }

    #[rstest]
    #[case::on_its_side(6, (40, 60))]
    #[case::upside_down(3, (60, 40))]
    #[case::upright(1, (60, 40))]
    fn a_turned_photograph_is_taken_upright(#[case] orientation: u16, #[case] size: (u32, u32)) {
        let folder = tempfile::tempdir().unwrap();
        let tags = [
            (Tag::Orientation, Value::Short(vec![orientation])),
            (Tag::PixelXDimension, Value::Long(vec![60])),
            (Tag::PixelYDimension, Value::Long(vec![40])),
        ];
        let path = photograph(folder.path(), &tags);
        assert_eq!(picture::size(&path).unwrap(), size);
        let decoded = picture::decode(&path).unwrap();
        assert_eq!((decoded.width(), decoded.height()), size);
        assert_eq!(stated(&path).picture_px, Some(size));
        assert_eq!(stated(&path).turned, orientation != 1);
    }

    #[rstest]
    #[case::no_denominator(&[(Tag::FocalLength, Value::Rational(vec![Rational { num: 28, denom: 0 }]))])]
    #[case::text_for_a_number(&[(Tag::FocalLength, Value::Ascii(vec![b"long".to_vec()]))])]
    #[case::empty_text(&[(Tag::Model, Value::Ascii(vec![b"  ".to_vec()]))])]
    fn nonsense_is_nothing(#[case] tags: &[(Tag, Value)]) {
        let folder = tempfile::tempdir().unwrap();
        assert_eq!(stated(&photograph(folder.path(), tags)), Stated::default());
    }

    #[rstest]
    #[case::no_picture(b"no picture at all".to_vec())]
    #[case::cut_off(vec![0xff, 0xd8, 0xff, 0xe1, 0x40, 0x00, b'E', b'x', b'i', b'f', 0, 0, b'M', b'M'])]
    fn damaged_files_say_nothing(#[case] bytes: Vec<u8>) {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("a.jpg");
        std::fs::write(&path, bytes).unwrap();
        assert_eq!(stated(&path), Stated::default());
    }
}
