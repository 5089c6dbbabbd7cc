//! What delivered files are called: a pattern with the shot, the recipe and the version, and names that any file
//! system takes.

use std::collections::BTreeMap;

/// Longest name of a part, bytes: a file's name of all parts is shorter than the 255 that file systems take.
const MOST_BYTES: usize = 64;
/// Longest pattern, bytes.
pub const MOST_PATTERN: usize = 80;
/// Words of a pattern that stand for something.
pub const WORDS: [&str; 4] = ["{shot}", "{recipe}", "{version}", "{file}"];

/// How the files of a delivery are called.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Names {
    pattern: String,
    package: String,
}

impl Default for Names {
    /// By what they are alone: `camera.json`, `scene.usda`.
    fn default() -> Self {
        Self {
            pattern: "{file}".to_owned(),
            package: String::new(),
        }
    }
}

impl Names {
    /// Of a pattern; `{file}` is what a file is (`scene`, `camera`, `tracks`), and is added where the pattern lacks it.
    pub fn of(pattern: &str, shot: &str, recipe: &str, version: u32) -> Self {
        let parts = BTreeMap::from([
            ("{shot}", safe(shot)),
            ("{recipe}", safe(recipe)),
            ("{version}", format!("{version:03}")),
        ]);
        let mut filled = String::new();
        let mut rest = pattern;
        while let Some(at) = rest.find('{') {
            filled.push_str(&plain(&rest[..at]));
            rest = &rest[at..];
            match WORDS.iter().find(|word| rest.starts_with(**word)) {
                Some(word) => {
                    filled.push_str(parts.get(word).map_or(word, String::as_str));
                    rest = &rest[word.len()..];
                }
                None => rest = &rest[1..],
            }
        }
        filled.push_str(&plain(rest));
        if !filled.contains("{file}") {
            filled.push_str(if filled.is_empty() {
                "{file}"
            } else {
                "-{file}"
            });
        }
        let filled = filled.trim_start_matches(['.', '-']).to_owned();
        let part = |word: &str| parts.get(word).map_or("", String::as_str);
        let package = format!(
            "{}-{}-v{}",
            part("{shot}"),
            part("{recipe}"),
            part("{version}")
        );
        Self {
            pattern: filled,
            package,
        }
    }

    /// What a file is called that is `file` by itself, such as `camera.json`.
    pub fn named(&self, file: &str) -> String {
        let (stem, extension) = file.split_once('.').unwrap_or((file, ""));
        let named = self.pattern.replace("{file}", stem);
        match extension {
            "" => named,
            extension => format!("{named}.{extension}"),
        }
    }

    /// What the whole delivery is called, by shot, recipe and version; `None` where there is no recipe.
    pub fn package(&self) -> Option<&str> {
        (!self.package.is_empty()).then_some(self.package.as_str())
    }
}

/// Without what file systems and archives trip over: letters and digits of any script, `-`, `_` and `.` stay.
fn plain(text: &str) -> String {
    let kept = |c: char| c.is_alphanumeric() || "-_.".contains(c);
    text.chars()
        .map(|c| if kept(c) { c } else { '-' })
        .collect()
}

/// A name as part of a file name; never empty, never a path, at most [`MOST_BYTES`] long.
pub fn safe(name: &str) -> String {
    let parts = plain(name);
    let parts: Vec<&str> = parts
        .split('-')
        .map(|p| p.trim_matches('.'))
        .filter(|p| !p.is_empty())
        .collect();
    let mut name = parts.join("-");
    while name.len() > MOST_BYTES {
        name.pop();
    }
    match name.is_empty() {
        true => "unnamed".to_owned(),
        false => name,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::plain("{file}", "camera.json")]
    #[case::all(
        "{shot}_{recipe}_v{version}_{file}",
        "terrace-walk_3D-scene_v007_camera.json"
    )]
    #[case::without_file("{shot}-v{version}", "terrace-walk-v007-camera.json")]
    #[case::nothing("", "camera.json")]
    #[case::a_path("../{shot}/{file}", "terrace-walk-camera.json")]
    #[case::unknown_word("{what}-{file}", "what--camera.json")]
    #[case::hidden(".{file}", "camera.json")]
    fn files_are_called_by_the_pattern(#[case] pattern: &str, #[case] wanted: &str) {
        let names = Names::of(pattern, "terrace-walk", "3D scene", 7);
        assert_eq!(names.named("camera.json"), wanted);
    }

    #[rstest]
    #[case::spaces("north wall  2", "north-wall-2")]
    #[case::slashes("../../etc/passwd", "etc-passwd")]
    #[case::quotes("the \"old\" one's", "the-old-one-s")]
    #[case::another_script("天文台 北", "天文台-北")]
    #[case::nothing("///", "unnamed")]
    #[case::dots("..", "unnamed")]
    fn names_are_made_safe(#[case] name: &str, #[case] wanted: &str) {
        assert_eq!(safe(name), wanted);
    }

    #[test]
    fn a_long_name_is_cut() {
        assert_eq!(safe(&"a".repeat(300)).len(), MOST_BYTES);
        let (shot, recipe) = ("天".repeat(300), "文".repeat(300));
        let longest = Names::of(&"x".repeat(MOST_PATTERN), &shot, &recipe, 7);
        assert!(longest.named("guest-200-picture-9.png").len() < 255);
        let both = Names::of("{shot}{recipe}{version}{file}", &shot, &recipe, 7);
        assert!(both.named("guest-200-picture-9.png").len() < 255);
    }

    #[test]
    fn the_package_is_called_by_shot_recipe_and_version() {
        let names = Names::of("{file}", "walk", "3D scene", 3);
        assert_eq!(names.package(), Some("walk-3D-scene-v003"));
        assert_eq!(Names::default().package(), None);
    }
}
