//! What does the file itself say of its camera, and can it be believed?
//!
//! Cameras write their focal length, often the focal length that would show the same on 36x24
//! (whole mm, so within half a mm), sometimes the density of the sensor. Programs that crop
//! or reshape a picture seldom mend these values. So the statements are held against each
//! other and against the picture; what agrees is offered, what does not is said, and nothing
//! is ever taken over silently. Tags: Exif 3.0, CIPA DC-008.

use crate::plate::FilmBack;
use serde::{Deserialize, Serialize};

/// Values as they stand in the file, none of them checked.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct Stated {
    /// Maker and model.
    pub camera: Option<String>,
    /// Model of the lens.
    pub lens: Option<String>,
    /// Focal length, mm.
    pub focal_mm: Option<f64>,
    /// The focal length that shows the same on 36x24, mm, a whole number.
    pub focal_on_full_frame_mm: Option<f64>,
    /// Width and height that the camera wrote, px, upright.
    pub picture_px: Option<(u32, u32)>,
    /// Sensor px per mm across.
    pub px_per_mm: Option<f64>,
    /// Whether the file asks to be turned or mirrored for viewing, which has been done.
    pub turned: bool,
}

/// Film back and focal length that the file's statements come to.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct Offer {
    /// Film back.
    pub film_back: FilmBack,
    /// Focal length, mm.
    pub focal_mm: f64,
}

/// What there is to say of the statements.
#[derive(Clone, Debug, PartialEq, Serialize, thiserror::Error)]
#[serde(rename_all = "snake_case", tag = "kind")]
pub enum StatedFinding {
    /// Nothing is stated.
    #[error(
        "the file says nothing of its camera: the film back is an assumption, and mm follow from it. State it if you know it"
    )]
    Absent,
    /// Film back and focal length follow.
    #[error(
        "{} {focal_mm:.1} mm on a film back of about {width_mm:.1}x{height_mm:.1} mm. Nothing of it is used until you take it",
        of(camera, "states")
    )]
    Offered {
        /// Who says so.
        camera: Option<String>,
        /// Focal length, mm.
        focal_mm: f64,
        /// Film back, mm.
        width_mm: f64,
        /// Film back, mm.
        height_mm: f64,
    },
    /// A focal length without a film back.
    #[error(
        "{} a focal length of {focal_mm:.1} mm but not the size of the sensor. State the film back, then the focal length",
        of(camera, "states")
    )]
    NoFilmBack {
        /// Who says so.
        camera: Option<String>,
        /// Focal length, mm.
        focal_mm: f64,
    },
    /// A camera without a focal length.
    #[error("{} no focal length", of(camera, "states"))]
    NoFocal {
        /// Who says so.
        camera: Option<String>,
    },
    /// Other proportions than the camera wrote.
    #[error("the camera wrote {}x{} px, this is {}x{}: the picture was cropped, so its focal length and film back hold no more. Free the centre if it was cropped to one side", wrote.0, wrote.1, is.0, is.1)]
    Cropped {
        /// Size that the camera wrote, px.
        wrote: (u32, u32),
        /// Size of the picture, px.
        is: (u32, u32),
    },
    /// Two ways to the film back that do not agree.
    #[error(
        "the file contradicts itself: its focal lengths come to a film back {by_focal_mm:.1} mm wide, its sensor density to {by_density_mm:.1} mm. Neither is offered"
    )]
    Contradictory {
        /// From the two focal lengths, mm.
        by_focal_mm: f64,
        /// From the density, mm.
        by_density_mm: f64,
    },
    /// A value that no camera has.
    #[error("the file states {what} of {value}, which no camera has. It is left aside")]
    Impossible {
        /// Which.
        what: &'static str,
        /// Its value.
        value: f64,
    },
    /// The picture is shown upright.
    #[error(
        "the file asks to be turned for viewing; it is shown and solved upright, {width}x{height} px. The receiver has to turn it too"
    )]
    Turned {
        /// Upright width, px.
        width: u32,
        /// Upright height, px.
        height: u32,
    },
    /// Rails and file disagree.
    #[error(
        "the file's focal length would be {stated_px:.0} px on this picture, the rails say {solved_px:.0} ±{sigma_px:.0}: it was cropped, or the wrong edges carry rails"
    )]
    RailsDisagree {
        /// From the offer.
        stated_px: f64,
        /// From the rails.
        solved_px: f64,
        /// Standard error of the latter.
        sigma_px: f64,
    },
}

fn of(camera: &Option<String>, says: &str) -> String {
    camera.as_ref().map_or_else(
        || format!("the file {says}"),
        |c| format!("the file ({c}) {says}"),
    )
}

/// Diagonal of 36x24, mm.
const FULL_FRAME_DIAGONAL_MM: f64 = 43.266_615;
/// Proportions that differ by more than this are a crop, not a rounded reduction.
const SAME_SHAPE: f64 = 0.01;
/// Film backs that differ by more than this contradict each other; a focal length on 36x24 is
/// rounded to whole mm, which at 24 mm alone makes 2 %.
const SAME_BACK: f64 = 0.1;

/// Holds the statements against each other and against the picture of `width_px` x `height_px`.
pub fn weigh(
    stated: &Stated,
    width_px: u32,
    height_px: u32,
) -> (Option<Offer>, Vec<StatedFinding>) {
    let mut said = Vec::new();
    if stated.turned {
        said.push(StatedFinding::Turned {
            width: width_px,
            height: height_px,
        });
    }
    let possible =
        |what, value: Option<f64>, range: std::ops::RangeInclusive<f64>, said: &mut Vec<_>| {
            // 0 and infinity stand for "unknown".
            let value = value.filter(|v| v.is_finite() && *v != 0.0)?;
            if range.contains(&value) {
                return Some(value);
            }
            said.push(StatedFinding::Impossible { what, value });
            None
        };
    let focal = possible("a focal length", stated.focal_mm, 0.5..=5000.0, &mut said);
    let on_full_frame = possible(
        "a focal length on 36x24",
        stated.focal_on_full_frame_mm,
        1.0..=10_000.0,
        &mut said,
    );
    let density = possible(
        "a sensor density",
        stated.px_per_mm,
        1.0..=5000.0,
        &mut said,
    );
    let shape = f64::from(height_px) / f64::from(width_px.max(1));
    if let Some((wide, high)) = stated.picture_px.filter(|(w, h)| *w > 0 && *h > 0)
        && (f64::from(high) / f64::from(wide) / shape).ln().abs() > SAME_SHAPE
    {
        said.push(StatedFinding::Cropped {
            wrote: (wide, high),
            is: (width_px, height_px),
        });
        return (None, said);
    }
    // The diagonal is what the focal length on 36x24 refers to.
    let by_diagonal = |diagonal: f64| diagonal / 1f64.hypot(shape);
    let by_focal = focal
        .zip(on_full_frame)
        .map(|(f, full)| by_diagonal(FULL_FRAME_DIAGONAL_MM * f / full));
    let by_density = density
        .zip(stated.picture_px)
        .map(|(d, (wide, _))| f64::from(wide) / d);
    if let Some((a, b)) = by_focal.zip(by_density)
        && (a / b).ln().abs() > SAME_BACK
    {
        said.push(StatedFinding::Contradictory {
            by_focal_mm: a,
            by_density_mm: b,
        });
        return (None, said);
    }
    let offer = match (focal, by_density.or(by_focal), on_full_frame) {
        (Some(focal), Some(width), _) => Some((focal, width)),
        // On 36x24 itself: as good for the picture, though not what stood in the camera.
        (None, _, Some(full)) => Some((full, by_diagonal(FULL_FRAME_DIAGONAL_MM))),
        _ => None,
    };
    let camera = stated.camera.clone();
    let offer = offer
        .map(|(focal_mm, width)| Offer {
            film_back: FilmBack {
                width_mm: width,
                height_mm: width * shape,
            },
            focal_mm,
        })
        .filter(|offer| offer.film_back.is_plausible());
    said.push(match (offer, focal) {
        (
            Some(Offer {
                film_back:
                    FilmBack {
                        width_mm,
                        height_mm,
                    },
                focal_mm,
            }),
            _,
        ) => StatedFinding::Offered {
            camera,
            focal_mm,
            width_mm,
            height_mm,
        },
        (None, Some(focal_mm)) => StatedFinding::NoFilmBack { camera, focal_mm },
        (None, None) if camera.is_some() => StatedFinding::NoFocal { camera },
        _ => StatedFinding::Absent,
    });
    (offer, said)
}

/// Said when the rails give another focal length than the offer: by more than 4 % and three
/// standard errors. A focal length in a file is rounded and leaves out focusing.
pub fn against_rails(
    offer: &Offer,
    width_px: u32,
    solved_px: f64,
    sigma_px: f64,
) -> Option<StatedFinding> {
    let stated_px = offer.film_back.focal_px(offer.focal_mm, width_px);
    let off = (solved_px - stated_px).abs();
    (off > 0.04 * stated_px && off > 3.0 * sigma_px).then_some(StatedFinding::RailsDisagree {
        stated_px,
        solved_px,
        sigma_px,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn stated(
        focal: Option<f64>,
        full: Option<f64>,
        picture: (u32, u32),
        density: Option<f64>,
    ) -> Stated {
        Stated {
            camera: Some("Aldermoor A1".to_owned()),
            focal_mm: focal,
            focal_on_full_frame_mm: full,
            picture_px: Some(picture),
            px_per_mm: density,
            ..Stated::default()
        }
    }

    #[rstest]
    #[case::full_frame(stated(Some(28.0), Some(28.0), (6000, 4000), None), 36.0, 28.0)]
    #[case::smaller_sensor(stated(Some(28.0), Some(42.0), (6000, 4000), None), 24.0, 28.0)]
    #[case::by_density(stated(Some(28.0), None, (6000, 4000), Some(250.0)), 24.0, 28.0)]
    #[case::both_agree(stated(Some(28.0), Some(43.0), (6000, 4000), Some(250.0)), 24.0, 28.0)]
    #[case::only_on_full_frame(stated(None, Some(42.0), (6000, 4000), None), 36.0, 42.0)]
    #[case::reduced_picture(stated(Some(28.0), Some(28.0), (3000, 2000), None), 36.0, 28.0)]
    fn what_agrees_is_offered(
        #[case] stated: Stated,
        #[case] width_mm: f64,
        #[case] focal_mm: f64,
    ) {
        let (offer, said) = weigh(&stated, 6000, 4000);
        let offer = offer.unwrap();
        assert!(
            (offer.film_back.width_mm / width_mm - 1.0).abs() < 0.001,
            "{offer:?}"
        );
        assert_eq!(offer.focal_mm, focal_mm);
        assert!(
            matches!(said[..], [StatedFinding::Offered { .. }]),
            "{said:?}"
        );
    }

    #[rstest]
    #[case::cropped(stated(Some(28.0), Some(28.0), (6000, 3000), None), "cropped")]
    #[case::other_back(stated(Some(28.0), Some(28.0), (6000, 4000), Some(250.0)), "contradicts itself")]
    #[case::no_back(stated(Some(28.0), None, (6000, 4000), None), "not the size of the sensor")]
    #[case::unknown_focal(stated(Some(0.0), Some(0.0), (6000, 4000), None), "no focal length")]
    #[case::absurd(stated(Some(1e7), None, (6000, 4000), None), "which no camera has")]
    #[case::nothing(Stated::default(), "says nothing of its camera")]
    fn what_cannot_be_believed_is_said_and_not_offered(
        #[case] stated: Stated,
        #[case] words: &str,
    ) {
        let (offer, said) = weigh(&stated, 6000, 4000);
        assert_eq!(offer, None);
        assert!(
            said.iter().any(|s| s.to_string().contains(words)),
            "{said:?}"
        );
    }

    #[rstest]
    #[case::agrees(4700.0, 20.0, false)]
    #[case::uncertain(5200.0, 400.0, false)]
    #[case::disagrees(5200.0, 40.0, true)]
    fn rails_speak_up(#[case] solved_px: f64, #[case] sigma_px: f64, #[case] raised: bool) {
        let offer = Offer {
            film_back: FilmBack {
                width_mm: 36.0,
                height_mm: 24.0,
            },
            focal_mm: 28.0,
        };
        assert_eq!(
            against_rails(&offer, 6000, solved_px, sigma_px).is_some(),
            raised
        );
    }
}
