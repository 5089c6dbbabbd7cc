//! Movies that ffmpeg writes: looked at, taken out frame by frame, refused where they lie.
#![allow(clippy::unwrap_used)]

use parallax_core::plate::FrameRate;
use parallax_core::progress::{Progress, Silent};
use parallax_media::{MediaError, Movie, Sequence, picture};
use rstest::rstest;
use std::path::{Path, PathBuf};
use std::process::Command;

/// Writes a movie with ffmpeg; the arguments stand between source and target.
fn movie(folder: &Path, name: &str, source: &str, arguments: &[&str]) -> PathBuf {
    let path = folder.join(name);
    let mut command = Command::new("ffmpeg");
    command
        .args(["-nostdin", "-v", "error", "-f", "lavfi", "-i", source])
        .args(arguments)
        .arg(&path);
    let done = command.output().unwrap();
    assert!(
        done.status.success(),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
    path
}

/// Every frame is one grey, brighter by 8 levels from frame to frame.
fn stairs(rate: &str, count: u32) -> String {
    format!(
        "color=c=black:s=64x48:r={rate}:d=1000,format=gray,geq=lum='16+8*N',trim=end_frame={count}"
    )
}

fn rate(text: &str) -> FrameRate {
    text.parse().unwrap()
}

#[rstest]
#[case::mov_lossless("a.mov", "24000/1001", &["-c:v", "ffv1", "-pix_fmt", "gray"][..])]
#[case::mkv_in_milliseconds("a.mkv", "30000/1001", &["-c:v", "ffv1", "-pix_fmt", "gray"][..])]
#[case::avi("a.avi", "25", &["-c:v", "ffv1", "-pix_fmt", "gray"][..])]
#[case::mp4_with_b_frames("a.mp4", "24", &["-c:v", "libx264", "-bf", "3", "-qp", "0", "-pix_fmt", "yuv444p"][..])]
#[case::webm("a.webm", "30", &["-c:v", "libvpx-vp9", "-lossless", "1", "-pix_fmt", "yuv444p"][..])]
fn frames_come_out_in_order(#[case] name: &str, #[case] at: &str, #[case] coding: &[&str]) {
    let folder = tempfile::tempdir().unwrap();
    let path = movie(folder.path(), name, &stairs(at, 20), coding);
    let movie = Movie::open(&path).unwrap();
    assert_eq!(
        (movie.facts.count, movie.facts.rate, movie.facts.width),
        (20, rate(at), 64)
    );
    let out = folder.path().join("plate");
    movie.extract(&out, &Silent).unwrap();
    let plate = Sequence::find(&out).unwrap();
    assert_eq!(plate.files.len(), 20);
    let levels: Vec<f64> = plate
        .files
        .iter()
        .map(|(_, file)| {
            f64::from(
                picture::grey(&picture::decode(file).unwrap())
                    .unwrap()
                    .levels()[20 * 64 + 30],
            )
        })
        .collect();
    // Whatever range the levels are spread to, each frame is one even step above the last.
    let step = (levels[19] - levels[0]) / 19.0;
    assert!(step > 7.0, "{levels:?}");
    for (k, level) in levels.iter().enumerate() {
        assert!(
            (level - levels[0] - step * k as f64).abs() < 1.6,
            "frame {k} of {levels:?}"
        );
    }
}

#[test]
fn twelve_bits_are_kept() {
    let folder = tempfile::tempdir().unwrap();
    let ramp = "nullsrc=s=256x32:r=24:d=1000,format=gray16,geq=lum='256+X*16',trim=end_frame=3";
    let path = movie(
        folder.path(),
        "a.mkv",
        ramp,
        &["-c:v", "ffv1", "-pix_fmt", "yuv444p12le"],
    );
    let movie = Movie::open(&path).unwrap();
    assert_eq!(movie.facts.bits, 12);
    let out = folder.path().join("plate");
    movie.extract(&out, &Silent).unwrap();
    let file = &Sequence::find(&out).unwrap().files[0].1;
    assert_eq!(picture::coding(file).unwrap().bits, 16);
    let row: Vec<f32> = picture::grey(&picture::decode(file).unwrap())
        .unwrap()
        .row(16)
        .to_vec();
    let steps = row.windows(2).filter(|w| w[1] > w[0]).count();
    assert!(
        steps > 200,
        "{steps} of 255 steps of a sixteenth of a level are left"
    );
}

#[test]
fn a_variable_rate_is_refused_with_the_remedy() {
    let folder = tempfile::tempdir().unwrap();
    let uneven = format!("{},setpts='(N+0.5*mod(N,3))/25/TB'", stairs("25", 20));
    let path = movie(
        folder.path(),
        "a.mkv",
        &uneven,
        &["-fps_mode", "passthrough", "-c:v", "ffv1"],
    );
    let error = Movie::open(&path).unwrap_err();
    assert!(matches!(error, MediaError::VariableRate { .. }), "{error}");
    assert!(error.to_string().contains("constant rate"), "{error}");
}

#[test]
fn sound_alone_is_no_plate() {
    let folder = tempfile::tempdir().unwrap();
    let path = movie(folder.path(), "a.mkv", "sine=d=1", &["-c:a", "pcm_s16le"]);
    let error = Movie::open(&path).unwrap_err().to_string();
    assert!(error.contains("no pictures"), "{error}");
}

#[rstest]
#[case::cut_off(|b: &mut Vec<u8>| b.truncate(b.len() * 2 / 3))]
#[case::garbled(|b: &mut Vec<u8>| { let (from, to) = (b.len() / 3, b.len() / 2); b[from..to].fill(0x5a); })]
fn a_container_that_lies_about_its_length_is_refused(#[case] spoil: fn(&mut Vec<u8>)) {
    let folder = tempfile::tempdir().unwrap();
    let noise = "nullsrc=s=64x48:r=25:d=1000,format=gray,geq=lum='random(1)*255',trim=end_frame=30";
    // The index stands in front, so that it survives and still promises 30 pictures.
    let path = movie(
        folder.path(),
        "a.mp4",
        noise,
        &[
            "-c:v",
            "libx264",
            "-pix_fmt",
            "yuv420p",
            "-movflags",
            "+faststart",
        ],
    );
    let mut bytes = std::fs::read(&path).unwrap();
    spoil(&mut bytes);
    std::fs::write(&path, bytes).unwrap();
    let out = folder.path().join("plate");
    let error = Movie::open(&path)
        .and_then(|m| m.extract(&out, &Silent))
        .unwrap_err();
    assert!(matches!(error, MediaError::NotAMovie { .. }), "{error}");
    assert!(!out.exists() && !out.with_extension("part").exists());
}

#[rstest]
#[case::text("a.mov", b"once upon a time".to_vec())]
#[case::nothing("a.mkv", Vec::new())]
#[case::playlist("a.mp4", b"#EXTM3U\n#EXTINF:1,\nfile:///etc/passwd\n".to_vec())]
#[case::list("a.avi", b"ffconcat version 1.0\nfile /etc/passwd\n".to_vec())]
fn what_is_no_movie_is_refused(#[case] name: &str, #[case] bytes: Vec<u8>) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join(name);
    std::fs::write(&path, bytes).unwrap();
    let error = Movie::open(&path).unwrap_err();
    assert!(matches!(error, MediaError::NotAMovie { .. }), "{error}");
}

/// Asks to stop at once.
struct Stop;

impl Progress for Stop {
    fn report(&self, _: &'static str, _: usize, _: usize) {}
    fn is_cancelled(&self) -> bool {
        true
    }
}

#[test]
fn taking_out_can_be_cancelled() {
    let folder = tempfile::tempdir().unwrap();
    let path = movie(folder.path(), "a.mov", &stairs("24", 20), &["-c:v", "ffv1"]);
    let out = folder.path().join("plate");
    let error = Movie::open(&path)
        .unwrap()
        .extract(&out, &Stop)
        .unwrap_err();
    assert!(matches!(error, MediaError::Cancelled), "{error}");
    assert!(!out.exists() && !out.with_extension("part").exists());
}
