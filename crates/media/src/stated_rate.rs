//! The rate that pictures state themselves: OpenEXR's `framesPerSecond`. Read from headers, never
//! guessed; files that contradict each other state none.

use crate::{Sequence, apart, exr_header};
use parallax_core::plate::FrameRate;
use rayon::prelude::*;
use std::path::Path;

/// The rate that all pictures of a sequence state that state one.
pub fn of_sequence(sequence: &Sequence) -> Option<FrameRate> {
    let stated: Vec<FrameRate> = sequence
        .files
        .par_iter()
        .filter_map(|(_, path)| of_picture(path))
        .collect();
    let first = stated.first()?;
    stated.iter().all(|rate| rate == first).then_some(*first)
}

/// The rate that a picture states.
pub fn of_picture(path: &Path) -> Option<FrameRate> {
    if !path
        .extension()
        .is_some_and(|ending| ending.eq_ignore_ascii_case("exr"))
    {
        return None;
    }
    if let Some(apart) = apart::decoder_for(path) {
        return apart.rate(path).ok().flatten();
    }
    let meta = exr_header::header(path).ok()?;
    let (above, below) = meta.headers.first()?.own_attributes.frames_per_second?;
    FrameRate::new(u32::try_from(above).ok()?, below)
}

#[cfg(test)]
mod tests {
    use super::*;
    use exr::prelude::{Encoding, Image, Layer, LayerAttributes, SpecificChannels, WritableImage};
    use rstest::rstest;

    fn picture(path: &Path, rate: Option<(i32, u32)>) {
        let attributes = LayerAttributes {
            frames_per_second: rate,
            ..LayerAttributes::default()
        };
        let channels = SpecificChannels::rgb(|_| (0.2f32, 0.3f32, 0.4f32));
        let layer = Layer::new((32, 24), attributes, Encoding::FAST_LOSSLESS, channels);
        Image::from_layer(layer).write().to_file(path).unwrap();
    }

    #[rstest]
    #[case::agreed(&[Some((24_000, 1_001)), Some((24_000, 1_001))], Some("24000/1001"))]
    #[case::not_reduced(&[Some((50, 2)), None], Some("25"))]
    #[case::none(&[None, None], None)]
    #[case::contradicting(&[Some((24, 1)), Some((25, 1))], None)]
    #[case::impossible(&[Some((-24, 1)), Some((0, 1))], None)]
    fn a_rate_is_read_where_files_agree(
        #[case] rates: &[Option<(i32, u32)>],
        #[case] wanted: Option<&str>,
    ) {
        let folder = tempfile::tempdir().unwrap();
        for (k, rate) in rates.iter().enumerate() {
            picture(&folder.path().join(format!("a.{k:04}.exr")), *rate);
        }
        let sequence = Sequence::find(folder.path()).unwrap();
        assert_eq!(
            of_sequence(&sequence)
                .map(|rate| rate.to_string())
                .as_deref(),
            wanted
        );
    }
}
