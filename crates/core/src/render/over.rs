//! Guests over the plate, and the frame's number on it.

use super::frame::Drawn;
use super::surface::linear;
use crate::guest::cards::letter;

/// 8 bit as shown on screens of linear light (IEC 61966-2-1).
fn shown(light: f32) -> u8 {
    let light = light.clamp(0.0, 1.0);
    let level = if light <= 0.003_130_8 {
        12.92 * light
    } else {
        1.055 * light.powf(1.0 / 2.4) - 0.055
    };
    (255.0 * level).round() as u8
}

/// Bright light falls off towards white instead of being cut.
fn rolled(light: f32) -> f32 {
    const KNEE: f32 = 0.8;
    match light > KNEE {
        true => KNEE + (1.0 - KNEE) * (1.0 - (-(light - KNEE) / (1.0 - KNEE)).exp()),
        false => light,
    }
}

/// Lays guests over a plate of 8-bit red, green and blue of the same size; px that nothing covers stay as they are,
/// to the last bit.
pub fn over(plate: &mut [u8], drawn: &Drawn) {
    let levels: Vec<f32> = (0..=255u8).map(|l| linear(f32::from(l) / 255.0)).collect();
    for (px, [r, g, b, a]) in plate.chunks_exact_mut(3).zip(&drawn.rgba) {
        if *a <= 0.0 {
            continue;
        }
        for (level, light) in px.iter_mut().zip([r, g, b]) {
            // Of the part that is covered, so that shadows darken and do not lift.
            let own = rolled(light / a) * a;
            *level = shown(own + levels[usize::from(*level)] * (1.0 - a));
        }
    }
}

/// Writes a line of text into a corner of a plate, light on a dark strip, its height a thirtieth of the picture's.
pub fn stamped(plate: &mut [u8], width: usize, height: usize, text: &str) {
    const POINTS: usize = 8;
    let point = (height / 30 / POINTS).max(1);
    let letters: Vec<[u8; 8]> = text.chars().map(letter).collect();
    let (wide, tall) = ((POINTS * letters.len() + 8) * point, (POINTS + 6) * point);
    let (left, top) = (2 * point, height.saturating_sub(tall + 2 * point));
    for y in top..(top + tall).min(height) {
        for x in left..(left + wide).min(width) {
            let inside = |v: usize, margin: usize, size: usize| {
                (v / point).checked_sub(margin).filter(|p| *p < size)
            };
            let at = inside(x - left, 4, POINTS * letters.len()).zip(inside(y - top, 3, POINTS));
            let is_light = at.is_some_and(|(x, y)| letters[x / POINTS][y] >> (x % POINTS) & 1 == 1);
            let k = 3 * (y * width + x);
            for level in &mut plate[k..k + 3] {
                *level = if is_light { 236 } else { *level / 3 };
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn one(rgba: [f32; 4]) -> Drawn {
        Drawn {
            width: 1,
            height: 1,
            rgba: vec![rgba],
        }
    }

    #[test]
    fn what_is_not_covered_stays_to_the_last_bit() {
        for level in 0..=255u8 {
            let mut plate = [level, 255 - level, 7];
            over(&mut plate, &one([0.0; 4]));
            assert_eq!(plate, [level, 255 - level, 7]);
            over(&mut plate, &one([0.0, 0.0, 0.0, 1e-7]));
            assert_eq!(
                plate,
                [level, 255 - level, 7],
                "and what is hardly covered changes by nothing"
            );
        }
    }

    /// Half the light is kept off: the plate holds half the light that it held.
    #[test]
    fn a_shadow_halves_the_light() {
        let mut plate = [200, 120, 40];
        over(&mut plate, &one([0.0, 0.0, 0.0, 0.5]));
        for (after, before) in plate.iter().zip([200u8, 120, 40]) {
            let light = |l: u8| linear(f32::from(l) / 255.0);
            assert!(
                (light(*after) / light(before) - 0.5).abs() < 0.02,
                "{after} of {before}"
            );
        }
    }

    #[test]
    fn a_number_is_written_into_the_lower_left() {
        let (width, height) = (320, 240);
        let mut plate = vec![90u8; width * height * 3];
        stamped(&mut plate, width, height, "1042");
        let light = |x: std::ops::Range<usize>, y: std::ops::Range<usize>| {
            y.flat_map(|y| x.clone().map(move |x| 3 * (y * width + x)))
                .filter(|k| plate[*k] == 236)
                .count()
        };
        assert!(light(0..width / 2, height / 2..height) > 40);
        assert_eq!(light(0..width, 0..height / 2), 0);
        stamped(&mut [0; 3], 1, 1, "1");
    }
}
