//! How figures are put into words.

/// A value with one standard error, both to the digits that the error has: two of its own. An
/// error is never rounded to nothing; where there is none, none is stated.
pub fn uncertain(value: f64, sigma: f64, unit: &str) -> String {
    let text = match digits_of(sigma) {
        Some(digits) => format!("{value:.digits$} ±{sigma:.digits$}{unit}"),
        None => format!("{value:.2}{unit}"),
    };
    with_minus(text)
}

/// A figure has a minus, not a hyphen.
pub fn with_minus(figure: String) -> String {
    match figure.strip_prefix('-') {
        Some(rest) => format!("−{rest}"),
        None => figure,
    }
}

/// A standard error alone, to two digits of its own.
pub fn error_alone(sigma: f64, unit: &str) -> String {
    match digits_of(sigma) {
        Some(digits) => format!("±{sigma:.digits$}{unit}"),
        None => "unknown".to_owned(),
    }
}

/// Digits behind the point that show two digits of an error, `None` for what is no error.
fn digits_of(sigma: f64) -> Option<usize> {
    if !(sigma.is_finite() && sigma > 0.0) {
        return None;
    }
    let first = sigma.log10().floor();
    Some((1.0 - first).clamp(0.0, 12.0) as usize)
}

/// Rounded to so many digits behind the point: answers stay short.
pub fn short(value: f64, digits: i32) -> f64 {
    let scale = 10f64.powi(digits);
    (value * scale).round() / scale
}

/// With a capital letter at its head, as sentences have.
pub fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters
        .next()
        .map_or_else(String::new, |c| c.to_uppercase().chain(letters).collect())
}

/// What a cause says, as a sentence of its own.
pub fn sentence(cause: impl std::fmt::Display) -> String {
    format!("{}.", capital(&cause.to_string()))
}

/// A count with the right word.
pub fn several(count: usize, one: &str, many: &str) -> String {
    format!("{count} {}", if count == 1 { one } else { many })
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::usual(28.0134, 0.021, "28.013 ±0.021 mm")]
    #[case::small(28.0134, 0.0004213, "28.01340 ±0.00042 mm")]
    #[case::never_nothing(28.0, 0.000_000_3, "28.00000000 ±0.00000030 mm")]
    #[case::large(28.4, 12.0, "28 ±12 mm")]
    #[case::rounding_up(28.0, 0.0996, "28.000 ±0.100 mm")]
    #[case::exact(28.0, 0.0, "28.00 mm")]
    #[case::unknown(28.0, f64::NAN, "28.00 mm")]
    fn errors_keep_two_digits(#[case] value: f64, #[case] sigma: f64, #[case] text: &str) {
        assert_eq!(uncertain(value, sigma, " mm"), text);
        let alone = error_alone(sigma, " mm");
        assert!(text.ends_with(&alone) || alone == "unknown", "{alone}");
    }
}
