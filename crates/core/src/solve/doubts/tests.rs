//! What raises which doubt, and how it is said.

use super::*;
use crate::camera::Pose;
use rstest::rstest;

fn frame(number: i32, features: usize) -> SolvedFrame {
    SolvedFrame {
        frame: FrameNumber(number),
        pose: Pose::identity(),
        rms_px: 0.1,
        features,
        covariance: None,
        focal_px: None,
        focal_sigma_px: None,
    }
}

fn good(frames: &[SolvedFrame]) -> Figures<'_> {
    Figures {
        frames,
        all_frames: frames.len(),
        focal_px: Some((1000.0, Some(3.0))),
        determined: true,
        px_scale: 1.0,
        rms_px: 0.1,
        parallax_deg: Some(5.0),
        lens_suspected: false,
        zoom: None,
        jump: None,
        carried: &[],
        carried_px: None,
        slip_px: Some(0.1),
        contradiction: None,
        converged: true,
        survey: &[],
        survey_unused: None,
        constrained: false,
        constraints: &[],
    }
}

#[rstest]
#[case::nothing(|_: &mut Figures<'_>| (), None)]
#[case::ran_out_of_steps(|f: &mut Figures<'_>| f.converged = false, Some(Doubt::NotConverged))]
#[case::lens(|f: &mut Figures<'_>| f.lens_suspected = true, Some(Doubt::LensLeftOut))]
#[case::another_focal_length(
    |f: &mut Figures<'_>| f.contradiction = Some(Contradiction { longer: 0.05, rms_px: 0.08 }),
    Some(Doubt::FocalContradicted { percent: 5.0, rms_px: [0.1, 0.08] })
)]
#[case::no_errors(|f: &mut Figures<'_>| f.determined = false, Some(Doubt::Undetermined))]
#[case::parallel(
    |f: &mut Figures<'_>| f.parallax_deg = Some(0.4),
    Some(Doubt::LittleParallax { parallax_deg: 0.4 })
)]
#[case::vague(
    |f: &mut Figures<'_>| f.focal_px = Some((1000.0, Some(40.0))),
    Some(Doubt::FocalUncertain { percent: 4.0 })
)]
#[case::slip(
    |f: &mut Figures<'_>| { f.px_scale = 1.5; f.slip_px = Some(0.9) },
    Some(Doubt::Slips { px: 0.9 })
)]
#[case::jump(
    |f: &mut Figures<'_>| {
        f.px_scale = 0.5;
        f.jump = Some(Jump { before: FrameNumber(7), after: FrameNumber(19), px: 0.4 });
    },
    Some(Doubt::Jumps { before: FrameNumber(7), after: FrameNumber(19), px: 0.4 })
)]
#[case::turning(|f: &mut Figures<'_>| f.parallax_deg = None, None)]
#[case::zoom(
    |f: &mut Figures<'_>| f.zoom = Some(ZoomSuspicion {
        shortest_px: 900.0, longest_px: 1200.0, rms_px: 0.07,
    }),
    Some(Doubt::FocalChanges { shortest_px: 900.0, longest_px: 1200.0, rms_px: [0.1, 0.07] })
)]
#[case::large(
    |f: &mut Figures<'_>| { f.px_scale = 1.5; f.rms_px = 1.05 },
    Some(Doubt::LargeResiduals { rms_px: 1.05 })
)]
#[case::lost(
    |f: &mut Figures<'_>| f.all_frames = 4,
    Some(Doubt::FramesLost { solved: 3, all: 4 })
)]
fn each_weakness_is_a_reason_and_takes_good_away(
    #[case] change: fn(&mut Figures<'_>),
    #[case] expected: Option<Doubt>,
) {
    let frames = [frame(1, 40), frame(2, 12), frame(3, 40)];
    let mut figures = good(&frames);
    change(&mut figures);
    let doubts = raised(&figures);
    assert_eq!(doubts, expected.into_iter().collect::<Vec<_>>());
    assert_eq!(verdict(&doubts) == Verdict::Good, doubts.is_empty());
}

#[test]
fn the_frame_with_the_fewest_features_is_named() {
    let frames = [frame(1001, 11), frame(1002, 7), frame(1003, 40)];
    let expected = Doubt::FewFeatures {
        frame: FrameNumber(1002),
        features: 7,
    };
    assert_eq!(raised(&good(&frames)), [expected]);
}

#[rstest]
#[case::one(258, 1, "frame 258 sees too little of the scene: its camera stands")]
#[case::several(
    260,
    3,
    "3 frames (258 to 260) see too little of the scene: their cameras stand"
)]
fn frames_that_stand_on_others_are_counted_in_words(
    #[case] last: i32,
    #[case] frames: usize,
    #[case] expected: &str,
) {
    let doubt = Doubt::Carried {
        first: FrameNumber(258),
        last: FrameNumber(last),
        frames,
        px: Some(1.08),
    };
    let said = doubt.to_string();
    assert!(said.starts_with(expected), "{said}");
    assert!(
        said.contains("off by 1.1 px (one standard error)"),
        "{said}"
    );
}

#[test]
fn frames_that_stand_on_others_are_named_as_such() {
    let frames = [
        frame(1, 40),
        frame(2, 5),
        frame(3, 0),
        frame(4, 8),
        frame(5, 40),
    ];
    let carried = [2, 3].map(FrameNumber);
    let doubts = raised(&Figures {
        carried: &carried,
        carried_px: Some(3.0),
        ..good(&frames)
    });
    let (first, last) = (FrameNumber(2), FrameNumber(3));
    let over = Doubt::Carried {
        first,
        last,
        frames: 2,
        px: Some(3.0),
    };
    let few = Doubt::FewFeatures {
        frame: FrameNumber(4),
        features: 8,
    };
    assert_eq!(doubts, [over, few]);
}

/// A residual that does not fall is not said to.
#[rstest]
#[case::seen(5.0, [0.17, 0.12], "5.0 % longer than the stated one, with which the residual falls from 0.170 to 0.120 px;")]
#[case::pulled(-3.0, [0.17, 0.17], "3.0 % shorter than the stated one;")]
fn a_contradiction_says_what_is_gained(
    #[case] percent: f64,
    #[case] rms_px: [f64; 2],
    #[case] said: &str,
) {
    let sentence = Doubt::FocalContradicted { percent, rms_px }.to_string();
    assert!(sentence.contains(said), "{sentence}");
}
