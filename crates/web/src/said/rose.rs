//! Which of a receiver's axes each direction of the scene becomes: a small compass rose.

use parallax_core::scene::Receiver;
use serde::Serialize;

/// The receiver's axis of each direction, with its sign where that is turned round.
#[derive(Debug, PartialEq, Serialize)]
pub struct Rose {
    along: String,
    up: String,
    across: String,
}

impl Rose {
    /// Of a receiver.
    pub fn of(receiver: Receiver) -> Self {
        let [along, up, across] = receiver.from_world().map(|(axis, sign)| {
            let letter = ["X", "Y", "Z"][axis];
            format!("{}{letter}", if sign < 0.0 { "−" } else { "" })
        });
        Self { along, up, across }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use parallax_core::scene::{Hand, Up};
    use rstest::rstest;

    #[rstest]
    #[case::as_the_core(Up::Y, Hand::Right, ["X", "Y", "Z"])]
    #[case::turned_upright(Up::Z, Hand::Right, ["X", "Z", "−Y"])]
    #[case::left_handed(Up::Y, Hand::Left, ["X", "Y", "−Z"])]
    #[case::both(Up::Z, Hand::Left, ["X", "Z", "Y"])]
    fn directions_have_the_receivers_letters(
        #[case] up: Up,
        #[case] hand: Hand,
        #[case] letters: [&str; 3],
    ) {
        let [along, up_letter, across] = letters.map(str::to_owned);
        let rose = Rose {
            along,
            up: up_letter,
            across,
        };
        assert_eq!(Rose::of(Receiver::of_axes(up, hand)), rose);
    }
}
