//! The middle of a list of numbers, and how much places say by where they are.

/// The median, of an even number of values the upper one of the middle two; `None` of nothing.
/// The values are left in another order.
pub fn median(values: &mut [f64]) -> Option<f64> {
    let middle = values.len() / 2;
    let is_empty = values.is_empty();
    (!is_empty).then(|| *values.select_nth_unstable_by(middle, f64::total_cmp).1)
}

/// Number of places times the area over which they spread (the product of their standard deviations), in the
/// square of their unit; 0 of none.
pub fn spread(places: &[[f64; 2]]) -> f64 {
    let count = places.len() as f64;
    let variance = |axis: usize| {
        let mean = places.iter().map(|p| p[axis]).sum::<f64>() / count;
        places.iter().map(|p| (p[axis] - mean).powi(2)).sum::<f64>() / count
    };
    match places.is_empty() {
        true => 0.0,
        false => count * (variance(0) * variance(1)).sqrt(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::nothing(&[], 0.0)]
    #[case::on_a_line(&[[0.0, 5.0], [3.0, 5.0]], 0.0)]
    #[case::a_square(&[[1.0, 1.0], [3.0, 1.0], [1.0, 3.0], [3.0, 3.0]], 4.0)]
    fn spread_places_say_much(#[case] places: &[[f64; 2]], #[case] expected: f64) {
        assert!((spread(places) - expected).abs() < 1e-12);
    }

    #[rstest]
    #[case::nothing(&[], None)]
    #[case::one(&[3.0], Some(3.0))]
    #[case::two(&[5.0, 1.0], Some(5.0))]
    #[case::odd(&[9.0, 1.0, 4.0], Some(4.0))]
    #[case::with_infinity(&[f64::INFINITY, 1.0, 2.0], Some(2.0))]
    fn the_middle_is_found(#[case] values: &[f64], #[case] expected: Option<f64>) {
        assert_eq!(median(&mut values.to_vec()), expected);
    }
}
