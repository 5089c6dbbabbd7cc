//! Alignment to a reference against synthetic truth: how far off, and is the stated
//! uncertainty honest?

use nalgebra::Matrix2;
use parallax_core::spaces::PlatePx;
use parallax_core::track::follow::{Reference, Scratch, Warp};
use parallax_core::track::picture::Plane;

/// A texture of waves, as a continuous function.
struct Texture(Vec<[f64; 4]>);

impl Texture {
    fn new(seed: u64, amplitude: f64) -> Self {
        Self::from(3.0, seed, amplitude)
    }

    fn from(shortest_px: f64, seed: u64, amplitude: f64) -> Self {
        let mut random = fastrand::Rng::with_seed(seed);
        let waves = (0..60).map(|_| {
            let length = shortest_px * 20.0f64.powf(random.f64());
            let angle = random.f64() * std::f64::consts::TAU;
            let k = std::f64::consts::TAU / length;
            [
                k * angle.cos(),
                k * angle.sin(),
                random.f64() * 6.3,
                amplitude * (length / 60.0).sqrt(),
            ]
        });
        Self(waves.collect())
    }

    fn at(&self, x: f64, y: f64) -> f64 {
        128.0
            + self
                .0
                .iter()
                .map(|[u, v, phase, a]| a * (u * x + v * y + phase).sin())
                .sum::<f64>()
    }

    fn picture(&self, shift: (f64, f64), noise: f64, random: &mut fastrand::Rng) -> Plane {
        let side = 48;
        let mut normal = || (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
        let levels = (0..side * side)
            .map(|i| {
                let (x, y) = (
                    (i % side) as f64 + 0.5 - shift.0,
                    (i / side) as f64 + 0.5 - shift.1,
                );
                (self.at(x, y) + noise * normal()) as f32
            })
            .collect();
        Plane::new(side, side, levels).unwrap().smoothed()
    }
}

/// Root mean square error per axis over its stated standard error, and the error itself, px, of what
/// moved by `far` and up to 1.5 px more.
fn trial(noise: f64, amplitude: f64, far: (f64, f64)) -> (f64, f64) {
    let mut random = fastrand::Rng::with_seed(11);
    let mut scratch = Scratch::default();
    let (mut off, mut relative, mut count) = (0.0, 0.0, 0.0);
    for seed in 0..300 {
        let texture = Texture::new(seed, amplitude);
        let centre = PlatePx::new(24.0 + random.f64(), 24.0 + random.f64());
        let reference = Reference::cut(
            &texture.picture((0.0, 0.0), noise, &mut random),
            centre,
            25,
            &mut scratch,
        )
        .unwrap();
        let shift = (
            far.0 + random.f64() * 3.0 - 1.5,
            far.1 + random.f64() * 3.0 - 1.5,
        );
        let later = texture.picture(shift, noise, &mut random);
        let start = Warp {
            centre: PlatePx::new(centre.x + shift.0 + 0.4, centre.y + shift.1 - 0.3),
            shape: Matrix2::identity(),
        };
        let Some(found) = reference.align(&later, start, &mut scratch) else {
            continue;
        };
        let e = (
            found.warp.centre.x - centre.x - shift.0,
            found.warp.centre.y - centre.y - shift.1,
        );
        off += e.0 * e.0 + e.1 * e.1;
        relative += e.0 * e.0 / found.covariance.xx + e.1 * e.1 / found.covariance.yy;
        count += 2.0;
    }
    assert!(count > 560.0, "only {count} settled");
    ((relative / count).sqrt(), (off / count).sqrt())
}

/// The error follows the noise, and stays within the bias of interpolation without it.
#[rstest::rstest]
#[case::clean(0.0, 6.0, 0.008)]
#[case::usual_grain(1.5, 6.0, 0.025)]
#[case::heavy_grain(3.0, 6.0, 0.045)]
#[case::heavy_grain_on_soft_detail(2.5, 2.0, 0.12)]
fn the_position_is_found_to_hundredths_of_a_px(
    #[case] noise: f64,
    #[case] amplitude: f64,
    #[case] bound_px: f64,
) {
    let (relative, off) = trial(noise, amplitude, (0.0, 0.0));
    assert!(off < bound_px, "{off} px");
    // Stated standard errors are of the right size, neither boast nor bluff.
    assert!(
        (0.8..1.25).contains(&relative),
        "{relative} of the stated errors"
    );
}

/// What of a pattern of 25 px lies in a picture of 48 px still tells where it is.
#[rstest::rstest]
#[case::a_quarter_is_out((14.0, 0.0), 1.5, 0.03)]
#[case::a_third_is_out((0.0, -16.5), 1.5, 0.04)]
#[case::a_corner_is_left((-14.0, 14.0), 1.5, 0.05)]
#[case::without_noise((14.0, 0.0), 0.0, 0.012)]
fn a_pattern_across_the_border_is_found(
    #[case] far: (f64, f64),
    #[case] noise: f64,
    #[case] bound_px: f64,
) {
    let (relative, off) = trial(noise, 6.0, far);
    assert!(off < bound_px, "{off} px");
    assert!(
        (0.75..1.25).contains(&relative),
        "{relative} of the stated errors"
    );
}

#[test]
fn a_pattern_of_which_most_is_out_is_not_claimed() {
    let mut scratch = Scratch::default();
    let (texture, random) = (Texture::new(5, 6.0), &mut fastrand::Rng::with_seed(5));
    let centre = PlatePx::new(24.5, 24.5);
    let reference = Reference::cut(
        &texture.picture((0.0, 0.0), 1.0, random),
        centre,
        25,
        &mut scratch,
    )
    .unwrap();
    let mut align = |x: f64, y: f64, shape: Matrix2<f64>| {
        let later = texture.picture((x, y), 1.0, random);
        let start = Warp {
            centre: PlatePx::new(centre.x + x, centre.y + y),
            shape,
        };
        reference.align(&later, start, &mut scratch).is_some()
    };
    assert!(align(18.0, 0.0, Matrix2::identity()));
    assert!(!align(22.0, 0.0, Matrix2::identity()));
    assert!(!align(0.0, -60.0, Matrix2::identity()));
    assert!(!align(f64::NAN, 0.0, Matrix2::identity()));
    assert!(!align(14.0, 0.0, Matrix2::new(0.7, 0.7, -0.7, 0.7)));
}

/// Slopes of the texture, levels a px.
fn slope(texture: &Texture, x: f64, y: f64) -> (f64, f64) {
    let sum = |axis: usize| {
        texture
            .0
            .iter()
            .map(|w| w[3] * w[axis] * (w[0] * x + w[1] * y + w[2]).cos())
            .sum::<f64>()
    };
    (sum(0), sum(1))
}

/// What no estimate of a translation can beat that leaves the shape of the patch, gain and bias open
/// and uses all its px, when both pictures have white noise: from the inverse of the Fisher
/// information (Kay 1993, section 3.7), the sum of both variances, px².
fn cramer_rao(texture: &Texture, centre: PlatePx, side: i32, noise: f64) -> f64 {
    let half = side / 2;
    let corner = (centre.x.floor() + 0.5, centre.y.floor() + 0.5);
    let mut information = nalgebra::SMatrix::<f64, 8, 8>::zeros();
    for (x, y) in
        (-half..=half).flat_map(|x| (-half..=half).map(move |y| (f64::from(x), f64::from(y))))
    {
        let (at_x, at_y) = (corner.0 + x, corner.1 + y);
        let (across, down) = slope(texture, at_x, at_y);
        let (u, v) = (at_x - centre.x, at_y - centre.y);
        let level = (texture.at(at_x, at_y) - 128.0) / 50.0;
        let row = nalgebra::SVector::<f64, 8>::from([
            across,
            down,
            u * across,
            v * across,
            u * down,
            v * down,
            level,
            1.0,
        ]);
        information += row * row.transpose();
    }
    let inverse = (information / (2.0 * noise * noise)).try_inverse().unwrap();
    inverse[(0, 0)] + inverse[(1, 1)]
}

/// From what optics leave of detail down to waves of 3 px.
#[rstest::rstest]
#[case::sharp(3.0)]
#[case::usual(8.0)]
fn the_error_is_near_the_cramer_rao_bound(#[case] shortest_px: f64) {
    let mut random = fastrand::Rng::with_seed(3);
    let mut scratch = Scratch::default();
    let (noise, side) = (2.0, 25);
    let (mut square, mut bound) = (0.0, 0.0);
    for seed in 1000..1400 {
        let texture = Texture::from(shortest_px, seed, 6.0);
        let centre = PlatePx::new(24.0 + random.f64(), 24.0 + random.f64());
        let first = texture.picture((0.0, 0.0), noise, &mut random);
        let reference = Reference::cut(&first, centre, side as usize, &mut scratch).unwrap();
        let shift = (random.f64() * 2.0 - 1.0, random.f64() * 2.0 - 1.0);
        let later = texture.picture(shift, noise, &mut random);
        let truth = centre.moved(nalgebra::Vector2::new(shift.0, shift.1));
        let start = Warp {
            centre: truth,
            shape: Matrix2::identity(),
        };
        let found = reference.align(&later, start, &mut scratch).unwrap();
        square += found.warp.centre.distance_px(truth).powi(2);
        bound += cramer_rao(&texture, centre, side, noise);
    }
    let ratio = (square / bound).sqrt();
    assert!(ratio < 1.2, "{ratio} times the bound");
}

/// Stones with bright and dark edges, smeared in light by so many px while the shutter was open.
fn stones(at: PlatePx, smear: (f64, f64), noise: f64, random: &mut fastrand::Rng) -> Plane {
    const MOMENTS: i32 = 17;
    let side = 64;
    let soft = |d: f64| 1.0 / (1.0 + (-d / 0.8).exp());
    let level = |x: f64, y: f64| {
        let stone = soft(x) * (0.35 + 0.65 * soft(y)) + 0.3 * soft(-x - 5.0) * soft(y - 6.0);
        60.0 + 90.0 * stone + 12.0 * (0.9 * x - 0.5 * y).sin() + 9.0 * (0.4 * x + 0.7 * y).cos()
    };
    let levels = (0..side * side).map(|i| {
        let (x, y) = (
            (i % side) as f64 + 0.5 - at.x,
            (i / side) as f64 + 0.5 - at.y,
        );
        let light = |m: i32| {
            let open = f64::from(m) / f64::from(MOMENTS - 1) - 0.5;
            level(x - open * smear.0, y - open * smear.1).powf(2.2)
        };
        let mean = (0..MOMENTS).map(light).sum::<f64>() / f64::from(MOMENTS);
        let grain = (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
        (mean.powf(1.0 / 2.2) + noise * grain) as f32
    });
    Plane::new(side, side, levels.collect()).unwrap().smoothed()
}

/// A camera that jerks smears a picture. The middle of the smear is where the feature is, though its
/// bright sides spread and its dark ones shrink.
#[rstest::rstest]
#[case::across((6.0, 0.0))]
#[case::down((0.0, 5.0))]
#[case::aslant((4.0, 3.0))]
fn a_smear_does_not_move_the_position(#[case] smear: (f64, f64)) {
    let mut random = fastrand::Rng::with_seed(5);
    let mut scratch = Scratch::default();
    let (mut off, mut count) = (0.0, 0.0);
    for _ in 0..60 {
        let centre = PlatePx::new(32.0 + random.f64(), 32.0 + random.f64());
        let motion = nalgebra::Vector2::new(random.f64() * 2.0 - 1.0, random.f64() * 2.0 - 1.0);
        let first = stones(centre, (0.0, 0.0), 1.0, &mut random);
        let later = stones(centre.moved(motion), smear, 1.0, &mut random);
        let reference = Reference::cut(&first, centre, 31, &mut scratch).unwrap();
        let start = Warp {
            centre: centre.moved(motion),
            shape: Matrix2::identity(),
        };
        let Some(found) = reference.align(&later, start, &mut scratch) else {
            continue;
        };
        let e = found.warp.centre.offset_from(centre.moved(motion));
        off += e.norm_squared();
        count += 2.0;
    }
    assert!(count > 110.0, "only {count} of 120 settled");
    let off_px = (off / count).sqrt();
    // Seeing the smear it is 0.20, 0.07 and 0.13 px.
    assert!(off_px < 0.04, "{off_px} px");
}

/// A corner of two soft edges, bright to the right and below.
fn corner(at: PlatePx, noise: f64, random: &mut fastrand::Rng) -> Plane {
    let side = 48;
    let soft = |d: f64| 1.0 / (1.0 + (-d / 0.8).exp());
    let levels = (0..side * side).map(|i| {
        let (x, y) = ((i % side) as f64 + 0.5, (i / side) as f64 + 0.5);
        let grain = (0..12).map(|_| random.f64()).sum::<f64>() - 6.0;
        (90.0 + 60.0 * soft(x - at.x) * soft(y - at.y) + noise * grain) as f32
    });
    Plane::new(side, side, levels.collect()).unwrap().smoothed()
}

/// Beside the middle of its patch a corner moves as a change of shape does: the shape is believed
/// to stay nearly what it was, so the position is found, and is as certain as it is said to be.
#[test]
fn a_corner_off_the_middle_of_its_patch_is_found() {
    let mut random = fastrand::Rng::with_seed(7);
    let mut scratch = Scratch::default();
    let (mut off, mut relative, mut settled) = (0.0, 0.0, 0);
    for _ in 0..200 {
        let centre = PlatePx::new(24.0 + random.f64(), 24.0 + random.f64());
        let beside = nalgebra::Vector2::new(random.f64() * 10.0 - 5.0, random.f64() * 10.0 - 5.0);
        let motion = nalgebra::Vector2::new(random.f64() * 2.0 - 1.0, random.f64() * 2.0 - 1.0);
        let first = corner(centre.moved(beside), 1.5, &mut random);
        let later = corner(centre.moved(beside + motion), 1.5, &mut random);
        let Some(reference) = Reference::cut(&first, centre, 25, &mut scratch) else {
            continue;
        };
        let start = Warp {
            centre: centre.moved(motion),
            shape: Matrix2::identity(),
        };
        let Some(found) = reference.align(&later, start, &mut scratch) else {
            continue;
        };
        let e = found.warp.centre.offset_from(centre.moved(motion));
        off += e.norm_squared();
        relative += e.x * e.x / found.covariance.xx + e.y * e.y / found.covariance.yy;
        settled += 1;
    }
    let count = 2.0 * f64::from(settled);
    assert!(settled > 190, "{settled} of 200 settled");
    let (off_px, relative) = ((off / count).sqrt(), (relative / count).sqrt());
    // With the shape left to itself it is 0.17 px.
    assert!(off_px < 0.13, "{off_px} px");
    // 0.8 to 1.25, give or take two standard errors of 200 draws.
    assert!(
        (0.74..1.34).contains(&relative),
        "{relative} of the stated errors"
    );
}
