//! Is a JPEG file whole?
//!
//! Decoders fill what is missing with grey. A whole file leads from segment to segment and through
//! the coded picture to the mark of its end (ITU-T T.81, annex B).

/// Whether the marks of a JPEG lead to its end.
pub fn is_whole(bytes: &[u8]) -> bool {
    const END: u8 = 0xd9;
    const SCAN: u8 = 0xda;
    if bytes.get(..2) != Some(&[0xff, 0xd8]) {
        return false;
    }
    let mut at = 2;
    while let Some(mark) = next_mark(bytes, at) {
        let (kind, behind) = (bytes[mark + 1], mark + 2);
        match kind {
            END => return true,
            // Restarts stand alone.
            0xd0..=0xd7 | 0x01 => at = behind,
            _ => {
                let Some(length) = bytes.get(behind..behind + 2) else {
                    return false;
                };
                let segment = behind + usize::from(u16::from_be_bytes([length[0], length[1]]));
                if segment > bytes.len() {
                    return false;
                }
                at = segment;
                if kind == SCAN {
                    at = end_of_scan(bytes, segment);
                }
            }
        }
    }
    false
}

/// The next mark: `ff` and a byte that is neither filling nor zero.
fn next_mark(bytes: &[u8], from: usize) -> Option<usize> {
    let pairs = bytes.get(from..)?.windows(2);
    pairs
        .enumerate()
        .find(|(_, p)| p[0] == 0xff && !matches!(p[1], 0 | 0xff))
        .map(|(k, _)| from + k)
}

/// Where the coded picture ends: at the next mark that is no restart.
fn end_of_scan(bytes: &[u8], mut from: usize) -> usize {
    while let Some(mark) = next_mark(bytes, from) {
        if !matches!(bytes[mark + 1], 0xd0..=0xd7) {
            return mark;
        }
        from = mark + 2;
    }
    bytes.len()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_jpeg_cut_off_anywhere_is_not_whole() {
        let picture = image::RgbImage::from_fn(64, 48, |x, y| {
            image::Rgb([(x * 4) as u8, (y * 5) as u8, ((x * y) % 251) as u8])
        });
        let mut bytes = Vec::new();
        let encoder = jpeg_encoder::Encoder::new(&mut bytes, 90);
        encoder
            .encode(picture.as_raw(), 64, 48, jpeg_encoder::ColorType::Rgb)
            .unwrap();
        assert!(is_whole(&bytes));
        for length in 0..bytes.len() {
            assert!(
                !is_whole(&bytes[..length]),
                "cut at {length} of {}",
                bytes.len()
            );
        }
        // A file that goes on behind its end is still whole.
        bytes.extend([0; 5]);
        assert!(is_whole(&bytes));
    }
}
