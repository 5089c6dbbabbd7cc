//! Doubts in words: what speaks against a camera, and what to do about it.

use super::Doubt;
use crate::solve::survey::NoHold;
use std::fmt;

impl fmt::Display for Doubt {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Rival {
                scene_percent,
                rival_percent,
            } => write!(
                f,
                "two things move rigidly and either may be the scene: one covers {scene_percent:.0} % of the picture, the other {rival_percent:.0} %"
            ),
            Self::FewFeatures { frame, features } => {
                write!(f, "frame {frame} rests on too few features ({features})")
            }
            Self::FramesLost { solved, all } => {
                write!(f, "only {solved} of {all} frames have a camera")
            }
            Self::LittleUsed { percent } => write!(
                f,
                "only {percent:.0} % of what was followed takes part; look at what was set aside"
            ),
            Self::LittleCover { frame, percent } => write!(
                f,
                "on frame {frame} the scene's features explain only {percent:.0} % of the picture; add features there or matte what moves"
            ),
            Self::FocalUncertain { percent } => write!(
                f,
                "the focal length is uncertain by {percent:.1} % (one standard error)"
            ),
            Self::Slips { px } => write!(
                f,
                "CG of true proportions may slip by {px:.1} px (one standard error), since the focal length is not known better; state it if you know it, or add features at other depths"
            ),
            Self::Undetermined => write!(
                f,
                "the evidence does not determine everything that was solved, so that no errors can be stated"
            ),
            Self::LargeResiduals { rms_px } => {
                write!(f, "landmarks miss their features by {rms_px:.2} px (rms)")
            }
            Self::LittleParallax { parallax_deg } => write!(
                f,
                "there is little parallax: the rays of most landmarks differ by {parallax_deg:.1}° only"
            ),
            Self::Jumps { before, after, px } => write!(
                f,
                "little links frame {before} to frame {after}: what stands on both may jump by {px:.1} px (one standard error). Key features by hand that are seen before and after"
            ),
            Self::Carried {
                first,
                last,
                frames,
                px,
            } => {
                let off = px.map_or_else(String::new, |px| {
                    format!(" and may be off by {px:.1} px (one standard error)")
                });
                let (those, stand) = match frames {
                    1 => (format!("frame {first} sees"), "its camera stands"),
                    _ => (
                        format!("{frames} frames ({first} to {last}) see"),
                        "their cameras stand",
                    ),
                };
                write!(
                    f,
                    "{those} too little of the scene: {stand} on how steadily it moves before and after{off}. Key features by hand there to be sure",
                )
            }
            Self::LensLeftOut => write!(
                f,
                "the lens bends the picture and the solve does not know it"
            ),
            Self::MayRestAndZoom { factor } => write!(
                f,
                "the picture does nothing but grow by a factor of {factor:.2} about its middle, which the zoom of a camera that rests explains as well; if it zooms, state from which focal length"
            ),
            Self::FocalContradicted {
                percent,
                rms_px: [stated, freed],
            } => {
                let falls = match freed < stated {
                    true => {
                        format!(", with which the residual falls from {stated:.3} to {freed:.3} px")
                    }
                    false => String::new(),
                };
                write!(
                    f,
                    "the picture speaks for a focal length {:.1} % {} than the stated one{falls}; look at what is stated of focal length, film back and lens",
                    percent.abs(),
                    if *percent > 0.0 { "longer" } else { "shorter" }
                )
            }
            Self::FocalChanges {
                shortest_px,
                longest_px,
                rms_px: [fixed, freed],
            } => write!(
                f,
                "the focal length seems to change, from {shortest_px:.0} to {longest_px:.0} px: with one of its own for each frame the residual falls from {fixed:.3} to {freed:.3} px"
            ),
            Self::SurveyUnused { because } => write!(
                f,
                "the survey is not used, and the world is not in metres: {}",
                match because {
                    NoHold::NoPlaces => "the camera does not travel, so that nothing has a place",
                    NoHold::TooFew =>
                        "three solved landmarks are needed that were measured in all coordinates",
                    NoHold::OnALine => "its points lie on a line",
                    NoHold::NoAgreement =>
                        "no three of its points agree with the rest; some may be given to the wrong features",
                }
            ),
            Self::SurveyContradicted { points, most_m } => write!(
                f,
                "{} of the survey {} the others, by up to {most_m:.3} m; look whether the right {} measured",
                counted(*points, "point", "points"),
                if *points == 1 {
                    "contradicts"
                } else {
                    "contradict"
                },
                if *points == 1 { "one was" } else { "ones were" },
            ),
            Self::SurveyMissed { most_m, errors } => write!(
                f,
                "a surveyed landmark is missed by {most_m:.3} m, {errors:.0} standard errors of its measurement"
            ),
            Self::ConstraintsUnused { contradict: true } => write!(
                f,
                "the lengths and planes that were stated contradict the picture and are not used; look whether the right features were named"
            ),
            Self::ConstraintsUnused { contradict: false } => write!(
                f,
                "the lengths and planes that were stated are not used: the camera does not travel, so that nothing has a place"
            ),
            Self::ConstraintMissed { most_m, errors } => write!(
                f,
                "a length or plane that was stated is missed by {most_m:.3} m, {errors:.0} standard errors of what was stated"
            ),
            Self::NotConverged => write!(
                f,
                "the adjustment had not come to rest when it ran out of steps; solve again from where it stands"
            ),
        }
    }
}

fn counted(count: usize, one: &str, many: &str) -> String {
    format!("{count} {}", if count == 1 { one } else { many })
}
