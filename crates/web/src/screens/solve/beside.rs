//! What is said of two attempts beside each other, and of what a change would do.

use parallax_core::solve::limit::Limited;
use parallax_core::solve::smoothing::SmoothingCost;
use serde_json::Value;

/// What the members of an attempt's fingerprint are about, in their order ([`crate::flow::solve_inputs`]).
const MEMBERS: [&str; 8] = [
    "tracks",
    "what was set aside by hand",
    "what was kept by hand",
    "what is known of the focal length",
    "the film back",
    "the lens that was given",
    "whether the lens is solved along",
    "the limit",
];

/// The same of members that have names.
const NAMED: [(&str, &str); 7] = [
    ("move", "the stated move"),
    ("readout", "the read-out time"),
    ("terms", "which lens terms are solved along"),
    ("steady", "smoothing"),
    ("survey", "the survey"),
    ("constraints", "known lengths and planes"),
    ("start_from", "the frames it starts from"),
];

/// Of one that has none.
const BY_HAND: &str = "hand tracks, mattes or weights";

/// In what the settings of two attempts differ, by their fingerprints.
pub fn differs(one: &str, other: &str) -> Vec<&'static str> {
    let list = |text: &str| -> Vec<Value> { serde_json::from_str(text).unwrap_or_default() };
    let (one, other) = (list(one), list(other));
    let of = |list: &[Value], at: usize| list.get(at).cloned();
    let plain = MEMBERS.iter().enumerate();
    let plain = plain.filter(|(at, _)| of(&one, *at) != of(&other, *at));
    let extra = |list: &[Value], name: &str| {
        let mut more = list.iter().skip(MEMBERS.len());
        more.find_map(|m| m.get(name).cloned())
    };
    let named = NAMED.iter();
    let named = named.filter(|(name, _)| extra(&one, name) != extra(&other, name));
    let by_hand = |list: &[Value]| {
        let mut more = list.iter().skip(MEMBERS.len());
        more.find(|m| m.is_array()).cloned()
    };
    let hand = (by_hand(&one) != by_hand(&other)).then_some(BY_HAND);
    plain
        .map(|(_, said)| *said)
        .chain(named.map(|(_, said)| *said))
        .chain(hand)
        .collect()
}

/// What a limit would do, in a sentence.
pub fn limit_said(limited: &Limited) -> String {
    let dropped = match limited.dropped {
        0 => "It drops nothing".to_owned(),
        1 => format!("It drops 1 feature of {}", 1 + limited.kept),
        many => format!("It drops {many} features of {}", many + limited.kept),
    };
    let left = limited
        .poorest
        .map(|(frame, features)| format!("; frame {frame} is the poorest, with {features} left"))
        .unwrap_or_default();
    let stretch = |(a, b): &(_, _)| match a == b {
        true => format!("{a}"),
        false => format!("{a}–{b}"),
    };
    let starving: Vec<String> = limited.starving.iter().map(stretch).collect();
    match starving.is_empty() {
        true => format!("{dropped}{left}."),
        false => format!(
            "{dropped}{left}. Too few are left on {}.",
            starving.join(", ")
        ),
    }
}

/// What smoothing costs, in a sentence.
pub fn smoothing_said(cost: &SmoothingCost) -> String {
    let [before, after] = cost.rms_px;
    let shift = cost
        .shift
        .map(|(frame, px)| format!(" The picture shifts most on frame {frame}, by {px:.3} px."))
        .unwrap_or_default();
    format!("The residual goes from {before:.3} to {after:.3} px.{shift}")
}

#[cfg(test)]
mod tests {
    use super::*;
    use parallax_core::spaces::FrameNumber;
    use rstest::rstest;

    const ONE: &str = r#"[3,[],[],"unknown",null,null,false,null]"#;

    #[rstest]
    #[case::nothing(ONE, &[])]
    #[case::focal(r#"[3,[],[],{"mm":35.0},36.0,null,false,null]"#,
        &["what is known of the focal length", "the film back"])]
    #[case::hand(r#"[3,[],[],"unknown",null,null,false,null,[[],[],[[4,0.5]]]]"#,
        &["hand tracks, mattes or weights"])]
    #[case::move_and_limit(r#"[3,[],[],"unknown",null,null,false,0.5,{"move":"free"}]"#,
        &["the limit", "the stated move"])]
    #[case::no_fingerprint("?", &["tracks", "what was set aside by hand", "what was kept by hand",
        "what is known of the focal length", "the film back", "the lens that was given",
        "whether the lens is solved along", "the limit"])]
    fn what_differs_is_named(#[case] other: &str, #[case] said: &[&str]) {
        assert_eq!(differs(ONE, other), said);
        assert_eq!(differs(other, ONE), said);
    }

    #[test]
    fn a_limit_says_where_it_starves() {
        let frame = FrameNumber;
        let limited = Limited {
            dropped: 12,
            kept: 30,
            poorest: Some((frame(1007), 3)),
            starving: vec![(frame(1005), frame(1009)), (frame(1020), frame(1020))],
        };
        assert_eq!(
            limit_said(&limited),
            "It drops 12 features of 42; frame 1007 is the poorest, with 3 left. Too few are left on 1005–1009, 1020."
        );
    }
}
