//! Losses: how much a large residual may say.
//!
//! Each maps the squared whitened residual s to ρ(s); the weight in the normal equations is
//! ρ'(s) (Triggs et al. 2000, section 4.3, without the second-order term, so that the
//! weighted matrix stays positive).

/// A robust loss with its scale in standard errors.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Loss {
    /// Plain least squares.
    Squares,
    /// Quadratic within the scale, linear beyond (Huber 1964).
    Huber(f64),
    /// Logarithmic growth.
    Cauchy(f64),
    /// Bounded: beyond the scale an observation says nothing more.
    GemanMcClure(f64),
}

impl Loss {
    /// ρ(s).
    pub fn cost(self, s: f64) -> f64 {
        match self {
            Self::Squares => s,
            Self::Huber(c) if s <= c * c => s,
            Self::Huber(c) => 2.0 * c * s.sqrt() - c * c,
            Self::Cauchy(c) => c * c * (s / (c * c)).ln_1p(),
            Self::GemanMcClure(c) => s * c * c / (c * c + s),
        }
    }

    /// ρ'(s), 1 at s = 0.
    pub fn weight(self, s: f64) -> f64 {
        match self {
            Self::Squares => 1.0,
            Self::Huber(c) if s <= c * c => 1.0,
            Self::Huber(c) => c / s.sqrt(),
            Self::Cauchy(c) => 1.0 / (1.0 + s / (c * c)),
            Self::GemanMcClure(c) => (c * c / (c * c + s)).powi(2),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    fn the_weight_is_the_slope_of_the_cost(
        #[values(
            Loss::Squares,
            Loss::Huber(1.5),
            Loss::Cauchy(2.0),
            Loss::GemanMcClure(3.0)
        )]
        loss: Loss,
        #[values(0.01, 1.0, 2.0, 7.0, 400.0)] s: f64,
    ) {
        let h = 1e-6 * s;
        let slope = (loss.cost(s + h) - loss.cost(s - h)) / (2.0 * h);
        assert!((slope - loss.weight(s)).abs() < 1e-6);
    }
}
