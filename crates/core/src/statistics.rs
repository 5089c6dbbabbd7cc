//! The middle of a list of numbers.

/// The median, of an even number of values the upper one of the middle two; `None` of nothing.
/// The values are left in another order.
pub fn median(values: &mut [f64]) -> Option<f64> {
    let middle = values.len() / 2;
    let is_empty = values.is_empty();
    (!is_empty).then(|| *values.select_nth_unstable_by(middle, f64::total_cmp).1)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

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
