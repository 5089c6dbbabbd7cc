//! Values as they are written on the command line.

use parallax_core::lens::Distortion;
use parallax_core::lens::maps::Keep;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::scene::{Hand, Receiver, Up};
use parallax_core::solve::{LensTerms, Readout, Steady};
use parallax_core::track::adjust::Adjustment;
use parallax_matching::solving::Stated;

/// The axes of the program that receives the files.
#[derive(clap::Args)]
pub struct ReceiverArgs {
    /// Up axis of the receiver.
    #[arg(long, value_enum, default_value = "y")]
    up: UpArg,
    /// Hand of the receiver's axes; OpenUSD stays right-handed.
    #[arg(long, value_enum, default_value = "right")]
    hand: HandArg,
}

/// An up axis.
#[derive(Clone, Copy, clap::ValueEnum)]
pub enum UpArg {
    /// Y.
    Y,
    /// Z.
    Z,
}

impl UpArg {
    /// Right-handed axes with it.
    pub fn axes(self) -> Receiver {
        let up = match self {
            Self::Y => Up::Y,
            Self::Z => Up::Z,
        };
        Receiver::of_axes(up, Hand::Right)
    }
}

#[derive(Clone, Copy, clap::ValueEnum)]
enum HandArg {
    Right,
    Left,
}

impl ReceiverArgs {
    /// As the core has it.
    pub fn receiver(&self) -> Receiver {
        let up = self.up.axes().up;
        let hand = match self.hand {
            HandArg::Right => Hand::Right,
            HandArg::Left => Hand::Left,
        };
        Receiver::of_axes(up, hand)
    }
}

/// How long a shutter is open, degrees.
pub fn shutter(text: &str) -> Result<f64, String> {
    let degrees: f64 = text.parse().map_err(|_| format!("{text} is no number"))?;
    match (0.0..=360.0).contains(&degrees) {
        true => Ok(degrees),
        false => Err("a shutter is open for 0 to 360 degrees".to_owned()),
    }
}

/// What an undistorted picture keeps.
#[derive(Clone, Copy, clap::ValueEnum)]
pub enum KeepArg {
    /// Every px of the plate.
    All,
    /// The size of the plate.
    Size,
}

impl KeepArg {
    /// As the core has it.
    pub fn keep(self) -> Keep {
        match self {
            Self::All => Keep::All,
            Self::Size => Keep::Size,
        }
    }
}

/// `36x20.25`
pub fn film_back(text: &str) -> Result<FilmBack, String> {
    let (width_mm, height_mm) = pair(text)?;
    let back = FilmBack {
        width_mm,
        height_mm,
    };
    if back.is_plausible() {
        Ok(back)
    } else {
        Err("both sides have to be 0.5 to 500 mm".to_owned())
    }
}

/// `A x B`, both numbers.
pub fn pair(text: &str) -> Result<(f64, f64), String> {
    let wrong = || format!("`{text}` is not of the form 36x20.25");
    let (a, b) = text.split_once('x').ok_or_else(wrong)?;
    Ok((
        a.trim().parse().map_err(|_| wrong())?,
        b.trim().parse().map_err(|_| wrong())?,
    ))
}

/// `k1=-0.1,k2=0.02`, any of k1, k2, k3, p1, p2 and k1-by-zoom (by how much k1 changes while a zoom grows to e times).
pub fn distortion(text: &str) -> Result<Distortion, String> {
    let mut lens = Distortion::NONE;
    for part in text.split(',') {
        let wrong = || format!("`{part}` is not of the form k1=-0.1");
        let (name, value) = part.split_once('=').ok_or_else(wrong)?;
        let value: f64 = value.trim().parse().map_err(|_| wrong())?;
        if !(value.is_finite() && value.abs() <= 10.0) {
            return Err(format!("`{part}` is out of range"));
        }
        match name.trim() {
            "k1" => lens.k1 = value,
            "k2" => lens.k2 = value,
            "k3" => lens.k3 = value,
            "p1" => lens.p1 = value,
            "p2" => lens.p2 = value,
            "k1-by-zoom" => lens.k1_by_zoom = value,
            other => {
                return Err(format!(
                    "`{other}` is no lens term; there are k1, k2, k3, p1, p2 and k1-by-zoom"
                ));
            }
        }
    }
    Ok(lens)
}

/// `exposure=1,contrast=1.3,gamma=1.2,mix=0:1:0,denoise=yes`, any of them.
pub fn adjustment(text: &str) -> Result<Adjustment, String> {
    let mut out = Adjustment::default();
    for part in text.split(',') {
        let wrong = || format!("`{part}` is not of the form contrast=1.3");
        let (name, value) = part.split_once('=').ok_or_else(wrong)?;
        let number = || value.trim().parse::<f64>().map_err(|_| wrong());
        match name.trim() {
            "exposure" => out.exposure_stops = number()?,
            "contrast" => out.contrast = number()?,
            "gamma" => out.gamma = number()?,
            "mix" => {
                let shares: Result<Vec<f64>, _> =
                    value.split(':').map(|v| v.trim().parse()).collect();
                out.mix = shares
                    .ok()
                    .and_then(|s| s.try_into().ok())
                    .ok_or("mix is of the form 0.2:0.7:0.1")?;
            }
            "denoise" if matches!(value, "yes" | "no") => out.denoise = value == "yes",
            "denoise" => return Err("denoise is yes or no".to_owned()),
            other => {
                return Err(format!(
                    "`{other}` adjusts nothing; there are exposure, contrast, gamma, mix and denoise"
                ));
            }
        }
    }
    out.complaint().map_or(Ok(out), |c| Err(c.to_owned()))
}

/// What is said of a rolling shutter.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum RollingShutter {
    /// Nothing.
    Auto,
    /// There is none.
    None,
    /// Its read-out time, ms.
    Ms(f64),
}

impl RollingShutter {
    /// At a rate.
    pub fn at(self, rate: FrameRate) -> Readout {
        match self {
            Self::Auto => Readout::Unknown,
            Self::None => Readout::None,
            Self::Ms(ms) => Readout::Known(rate.frames_in_ms(ms)),
        }
    }
}

/// `auto`, `none` or ms, such as 16.7
pub fn readout(text: &str) -> Result<RollingShutter, String> {
    let wrong =
        || format!("`{text}` is neither auto nor none nor a read-out time in ms, such as 16.7");
    match text {
        "auto" => Ok(RollingShutter::Auto),
        "none" => Ok(RollingShutter::None),
        _ => {
            let ms: f64 = text.parse().map_err(|_| wrong())?;
            let is_plausible = (0.0..=200.0).contains(&ms);
            is_plausible
                .then_some(RollingShutter::Ms(ms))
                .ok_or_else(wrong)
        }
    }
}

/// `35`, or `35±1` where it is known to one standard error; `+-` does as well.
pub fn about(text: &str) -> Result<Stated, String> {
    let wrong = || format!("`{text}` is not of the form 35 or 35±1");
    let number = |text: &str| -> Result<f64, String> {
        let value: f64 = text.trim().parse().map_err(|_| wrong())?;
        let is_possible = value.is_finite() && value > 0.0;
        is_possible.then_some(value).ok_or_else(wrong)
    };
    let parts = ["±", "+/-", "+-"]
        .iter()
        .find_map(|sign| text.split_once(sign));
    Ok(match parts {
        None => number(text)?.into(),
        Some((value, sigma)) => Stated {
            value: number(value)?,
            sigma: Some(number(sigma)?),
        },
    })
}

/// Radial terms in their order.
const RADIAL: [&str; 3] = ["k1", "k2", "k3"];

/// `k1,k2`, `k1,k2,k3,p,centre`: lens terms to solve along, radial ones from the first on.
pub fn lens_terms(text: &str) -> Result<LensTerms, String> {
    let mut terms = LensTerms::NONE;
    for name in text.split(',').map(str::trim) {
        match name {
            "k1" | "k2" | "k3" if RADIAL.get(terms.radial) == Some(&name) => {
                terms.radial += 1;
            }
            "k1" | "k2" | "k3" => {
                return Err("radial terms come in order: k1, then k2, then k3".to_owned());
            }
            "p" => terms.tangential = true,
            "centre" => terms.centre = true,
            other => {
                return Err(format!(
                    "`{other}` cannot be solved along; there are k1, k2, k3, p and centre"
                ));
            }
        }
    }
    Ok(terms)
}

/// `20,0.1`: how much the speed of a camera changes within a frame, mm and degrees per frame; `-` where
/// nothing is believed of one of them.
pub fn steady(text: &str) -> Result<Steady, String> {
    let wrong =
        || format!("`{text}` is not of the form 20,0.1 in mm and degrees, nor 20,- or -,0.1");
    let (place, turn) = text.split_once(',').ok_or_else(wrong)?;
    let number = |text: &str| -> Result<Option<f64>, String> {
        match text.trim() {
            "-" => Ok(None),
            text => {
                let value: f64 = text.parse().map_err(|_| wrong())?;
                let is_possible = value.is_finite() && value > 0.0;
                is_possible.then_some(Some(value)).ok_or_else(wrong)
            }
        }
    };
    let steady = Steady {
        place: number(place)?.map(|mm| mm / 1000.0),
        turn_deg: number(turn)?,
    };
    steady.any().then_some(steady).ok_or_else(wrong)
}

/// `1001-1072`
pub fn range(text: &str) -> Result<(i32, i32), String> {
    let wrong = || format!("`{text}` is not of the form 1001-1072");
    // The first character may be the sign of a negative frame.
    let at = text
        .char_indices()
        .skip(1)
        .find(|(_, c)| *c == '-')
        .ok_or_else(wrong)?
        .0;
    let (a, b) = (
        text[..at].parse().map_err(|_| wrong())?,
        text[at + 1..].parse().map_err(|_| wrong())?,
    );
    if a <= b {
        Ok((a, b))
    } else {
        Err(format!("`{text}` ends before it begins"))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::plain("1001-1072", Some((1001, 1072)))]
    #[case::negative("-3-4", Some((-3, 4)))]
    #[case::backwards("9-3", None)]
    #[case::open("9-", None)]
    fn ranges(#[case] text: &str, #[case] expected: Option<(i32, i32)>) {
        assert_eq!(range(text).ok(), expected);
    }

    #[rstest]
    #[case::two("k1=-0.1,k2=0.02", Some(Distortion::radial(-0.1, 0.02)))]
    #[case::unknown("q1=1", None)]
    #[case::follows("k1=0.1,k1-by-zoom=-0.2", Some(Distortion { k1_by_zoom: -0.2, ..Distortion::radial(0.1, 0.0) }))]
    #[case::not_finite("k1=NaN", None)]
    fn lenses(#[case] text: &str, #[case] expected: Option<Distortion>) {
        assert_eq!(distortion(text).ok(), expected);
    }

    #[rstest]
    #[case::one("contrast=1.3", Some(Adjustment { contrast: 1.3, ..Adjustment::default() }))]
    #[case::two("mix=0:1:0,denoise=yes", Some(Adjustment { mix: [0.0, 1.0, 0.0], denoise: true, ..Adjustment::default() }))]
    #[case::unknown("sharpen=2", None)]
    #[case::impossible("gamma=0", None)]
    fn adjustments(#[case] text: &str, #[case] expected: Option<Adjustment>) {
        assert_eq!(adjustment(text).ok(), expected);
    }

    #[rstest]
    #[case::exact("35", Some((35.0, None)))]
    #[case::about("35±1", Some((35.0, Some(1.0))))]
    #[case::typed("35 +- 0.5", Some((35.0, Some(0.5))))]
    #[case::nothing("35±", None)]
    #[case::negative("-35", None)]
    #[case::zero_error("35±0", None)]
    #[case::more("35mm", None)]
    fn focal_lengths(#[case] text: &str, #[case] expected: Option<(f64, Option<f64>)>) {
        assert_eq!(about(text).ok().map(|s| (s.value, s.sigma)), expected);
    }

    #[rstest]
    #[case::two("k1,k2", Some(LensTerms::TWO))]
    #[case::all("k1,k2,k3,p,centre", Some(LensTerms { radial: 3, tangential: true, centre: true, ..LensTerms::NONE }))]
    #[case::centre("centre", Some(LensTerms { centre: true, ..LensTerms::NONE }))]
    #[case::gap("k1,k3", None)]
    #[case::twice("k1,k1", None)]
    #[case::four("k1,k2,k3,k3", None)]
    #[case::unknown("q", None)]
    fn terms(#[case] text: &str, #[case] expected: Option<LensTerms>) {
        assert_eq!(lens_terms(text).ok(), expected);
    }

    #[rstest]
    #[case::both("20,0.1", Some((Some(0.02), Some(0.1))))]
    #[case::turn("-,0.1", Some((None, Some(0.1))))]
    #[case::neither("-,-", None)]
    #[case::one("20", None)]
    #[case::zero("0,0.1", None)]
    fn steadiness(#[case] text: &str, #[case] expected: Option<(Option<f64>, Option<f64>)>) {
        assert_eq!(steady(text).ok().map(|s| (s.place, s.turn_deg)), expected);
    }

    #[rstest]
    #[case("36x20.25", true)]
    #[case("0x20", false)]
    #[case("36", false)]
    fn film_backs(#[case] text: &str, #[case] good: bool) {
        assert_eq!(film_back(text).is_ok(), good);
    }
}
