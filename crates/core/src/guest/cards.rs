//! Pictures on cards: squares, and a line of text in plain block letters.

use super::mesh::Texture;
use font8x8::{BASIC_FONTS, BOX_FONTS, GREEK_FONTS, LATIN_FONTS, MISC_FONTS, UnicodeFonts};

/// Px of a square's side.
const SQUARE_PX: u32 = 32;
/// Each point of a letter is so many px; letters are 8 by 8 points, with a margin of half a letter.
const POINT_PX: u32 = 6;
const LETTER: u32 = 8;
const MARGIN: u32 = 4;

const LIGHT: [u8; 4] = [232, 228, 220, 255];
const DARK: [u8; 4] = [38, 38, 40, 255];

/// The points of a letter, a row a byte, its first point lowest; a box for letters that are not known.
pub fn letter(c: char) -> [u8; 8] {
    const UNKNOWN: [u8; 8] = [0x7e, 0x42, 0x42, 0x42, 0x42, 0x42, 0x7e, 0];
    BASIC_FONTS
        .get(c)
        .or_else(|| LATIN_FONTS.get(c))
        .or_else(|| GREEK_FONTS.get(c))
        .or_else(|| BOX_FONTS.get(c))
        .or_else(|| MISC_FONTS.get(c))
        .unwrap_or(UNKNOWN)
}

fn drawn(width: u32, height: u32, is_light: impl Fn(u32, u32) -> bool) -> Texture {
    let px = (0..height).flat_map(|y| (0..width).map(move |x| (x, y)));
    let rgba = px.flat_map(|(x, y)| if is_light(x, y) { LIGHT } else { DARK });
    Texture {
        width,
        height,
        rgba: rgba.collect(),
    }
}

/// Squares, so many across, as nearly square as a card `tall` times as high as wide allows.
pub fn squares(across: u32, tall: f32) -> Texture {
    let down = (across as f32 * tall).round().clamp(1.0, 64.0) as u32;
    drawn(across * SQUARE_PX, down * SQUARE_PX, |x, y| {
        (x / SQUARE_PX + y / SQUARE_PX).is_multiple_of(2)
    })
}

/// A line of text, dark on light.
pub fn line(text: &str) -> Texture {
    let letters: Vec<[u8; 8]> = text.chars().map(letter).collect();
    let points = (
        LETTER * letters.len() as u32 + 2 * MARGIN,
        LETTER + 2 * MARGIN,
    );
    drawn(points.0 * POINT_PX, points.1 * POINT_PX, |x, y| {
        let inside = |v: u32, size: u32| (v / POINT_PX).checked_sub(MARGIN).filter(|v| *v < size);
        let at = inside(x, LETTER * letters.len() as u32).zip(inside(y, LETTER));
        at.is_none_or(|(x, y)| letters[(x / LETTER) as usize][y as usize] >> (x % LETTER) & 1 == 0)
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn squares_alternate() {
        let made = squares(3, 2.0 / 3.0);
        assert_eq!((made.width, made.height), (96, 64));
        let at = |x: u32, y: u32| made.rgba[4 * (y * made.width + x) as usize];
        assert_eq!(at(5, 5), LIGHT[0]);
        assert_eq!(at(40, 5), DARK[0]);
        assert_eq!(at(40, 40), LIGHT[0]);
    }

    #[test]
    fn a_line_is_as_long_as_its_letters_and_known_letters_differ() {
        let made = line("A12");
        assert_eq!(made.width, (3 * 8 + 8) * POINT_PX);
        assert_ne!(letter('A'), letter('B'));
        assert_eq!(
            letter('\u{4e2d}'),
            letter('\u{2fff}'),
            "what is not known is a box"
        );
        let dark = made.rgba.chunks(4).filter(|p| p[0] == DARK[0]).count();
        assert!(dark > 500, "{dark}");
    }
}
