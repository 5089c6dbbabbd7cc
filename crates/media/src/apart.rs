//! Decoding where it cannot take the application along.
//!
//! Limits and guards stop a decoder that reports or panics; one that aborts (memory that cannot be
//! had, a stack that overflows) ends its process. So pictures whose headers say how much is
//! allocated, OpenEXR and TIFF, are read by a process of its own, with bounded memory, wherever
//! [`use_program`] named one: the server does, the command line decodes in its own process.
//!
//! The process answers one request after the other, through pipes: how it is asked is a letter,
//! the length of a path and the path; how it answers is the length of a header, the header as JSON
//! and the picture's values as they lie in memory. It ends when nobody can ask any more.

use crate::picture::{self, Coding, MOST_BYTES, name_of};
use crate::{MediaError, stated_rate};
use image::error::{ImageError, ImageResult, LimitError, LimitErrorKind};
use image::{ColorType, DynamicImage, ImageDecoder, ImageFormat};
use parallax_core::plate::FrameRate;
use serde::{Deserialize, Serialize};
use std::ffi::OsStr;
use std::io::{self, Read, Write};
use std::os::unix::ffi::OsStrExt;
use std::path::{Path, PathBuf};
use std::process::{Child, ChildStdin, Command, Stdio};
use std::sync::mpsc::{Receiver, RecvTimeoutError, channel};
use std::sync::{Mutex, OnceLock};
use std::time::Duration;

/// Longest that one answer is waited for.
const LIMIT: Duration = Duration::from_secs(120);
/// Room of the process, bytes: the file, what is decoded, the answer, and threads' stacks.
const MOST_ROOM: u64 = 4 * MOST_BYTES;
/// Longest path that is read.
const LONGEST_PATH: u32 = 1 << 16;
/// Processes that are kept for later.
const MOST_IDLE: usize = 4;

/// What is asked of a picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Asked {
    Size,
    Coding,
    Picture,
    Rate,
}

const LETTERS: [(u8, Asked); 4] = [
    (b's', Asked::Size),
    (b'c', Asked::Coding),
    (b'p', Asked::Picture),
    (b'r', Asked::Rate),
];

#[derive(Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Answer {
    Size(u32, u32),
    Coding(Coding),
    Rate(Option<FrameRate>),
    /// Its place in [`COLOURS`], width, height and how many bytes follow.
    Picture(usize, u32, u32, u64),
    TooLarge(u32, u32),
    Unreadable(String),
}

const COLOURS: [ColorType; 10] = [
    ColorType::L8,
    ColorType::La8,
    ColorType::Rgb8,
    ColorType::Rgba8,
    ColorType::L16,
    ColorType::La16,
    ColorType::Rgb16,
    ColorType::Rgba16,
    ColorType::Rgb32F,
    ColorType::Rgba32F,
];

/// Where pictures are decoded apart from here on, by [`answer_requests`] of this program called
/// with these arguments. The first one counts.
pub fn use_program(program: PathBuf, arguments: &[&str]) {
    // Named once at the start; who comes later finds the same one.
    let _ = DECODER.set(Decoder::new(program, arguments));
}

static DECODER: OnceLock<Decoder> = OnceLock::new();

/// The decoder for a picture that is not read in this process.
pub(crate) fn decoder_for(path: &Path) -> Option<&'static Decoder> {
    let decoder = DECODER.get()?;
    let reader = image::ImageReader::open(path)
        .and_then(image::ImageReader::with_guessed_format)
        .ok()?;
    let is_apart = |format| matches!(format, ImageFormat::OpenExr | ImageFormat::Tiff);
    reader.format().is_some_and(is_apart).then_some(decoder)
}

/// Processes that decode.
pub struct Decoder {
    program: PathBuf,
    arguments: Vec<String>,
    idle: Mutex<Vec<Process>>,
}

struct Process {
    child: Child,
    requests: ChildStdin,
    answers: Receiver<(Answer, Vec<u8>)>,
}

impl Drop for Process {
    fn drop(&mut self) {
        // It may have ended by itself; then there is nothing to do.
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

/// How a process ended without an answer.
#[derive(Debug, thiserror::Error)]
enum Broken {
    #[error("its decoder broke down at what it holds, or for want of memory")]
    Ended,
    #[error("its decoder found no end in {} s", LIMIT.as_secs())]
    Slow,
}

impl Decoder {
    /// By a program that calls [`answer_requests`] when it is started with these arguments.
    pub fn new(program: PathBuf, arguments: &[&str]) -> Self {
        Self {
            program,
            arguments: arguments.iter().map(|a| (*a).to_owned()).collect(),
            idle: Mutex::default(),
        }
    }

    /// Upright width and height, px.
    pub fn size(&self, path: &Path) -> Result<(u32, u32), MediaError> {
        match self.asked(Asked::Size, path)?.0 {
            Answer::Size(width, height) => Ok((width, height)),
            other => Err(failure(path, other)),
        }
    }

    /// How the values are coded.
    pub fn coding(&self, path: &Path) -> Result<Coding, MediaError> {
        match self.asked(Asked::Coding, path)?.0 {
            Answer::Coding(coding) => Ok(coding),
            other => Err(failure(path, other)),
        }
    }

    /// The rate that the picture states.
    pub fn rate(&self, path: &Path) -> Result<Option<FrameRate>, MediaError> {
        match self.asked(Asked::Rate, path)?.0 {
            Answer::Rate(rate) => Ok(rate),
            other => Err(failure(path, other)),
        }
    }

    /// The whole picture, upright.
    pub fn decode(&self, path: &Path) -> Result<DynamicImage, MediaError> {
        match self.asked(Asked::Picture, path)? {
            (Answer::Picture(colour, width, height, _), values) => {
                let sent = Sent {
                    colour: COLOURS.get(colour).copied().unwrap_or(ColorType::Rgb8),
                    size: (width, height),
                    values,
                };
                DynamicImage::from_decoder(sent).map_err(|e| unreadable(path, e.to_string()))
            }
            (other, _) => Err(failure(path, other)),
        }
    }

    fn asked(&self, what: Asked, path: &Path) -> Result<(Answer, Vec<u8>), MediaError> {
        let kept = self.idle.lock().ok().and_then(|mut idle| idle.pop());
        // One that was kept may have been ended by somebody else meanwhile.
        match kept.map(|process| self.asked_of(process, what, path)) {
            Some(Ok(answer)) => Ok(answer),
            Some(Err(Broken::Slow)) => Err(Broken::Slow),
            Some(Err(Broken::Ended)) | None => self
                .started()
                .map_err(|e| unreadable(path, format!("its decoder does not start: {e}")))
                .map(|process| self.asked_of(process, what, path))?,
        }
        .map_err(|broken| unreadable(path, broken.to_string()))
    }

    /// Asks one process, and keeps it for later when it answered.
    fn asked_of(
        &self,
        mut process: Process,
        what: Asked,
        path: &Path,
    ) -> Result<(Answer, Vec<u8>), Broken> {
        send_request(&mut process.requests, what, path).map_err(|_| Broken::Ended)?;
        let answer = process.answers.recv_timeout(LIMIT).map_err(|e| match e {
            RecvTimeoutError::Timeout => Broken::Slow,
            RecvTimeoutError::Disconnected => Broken::Ended,
        })?;
        if let Ok(mut idle) = self.idle.lock()
            && idle.len() < MOST_IDLE
        {
            idle.push(process);
        }
        Ok(answer)
    }

    fn started(&self) -> io::Result<Process> {
        let mut child = Command::new(&self.program)
            .args(&self.arguments)
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()?;
        let missing = || io::Error::other("it has no pipes");
        let requests = child.stdin.take().ok_or_else(missing)?;
        let mut from = child.stdout.take().ok_or_else(missing)?;
        let (send, answers) = channel();
        std::thread::spawn(move || {
            // Ends with the process, or when nobody listens any more.
            while let Ok(answer) = read_answer(&mut from) {
                if send.send(answer).is_err() {
                    break;
                }
            }
        });
        Ok(Process {
            child,
            requests,
            answers,
        })
    }
}

fn unreadable(path: &Path, reason: String) -> MediaError {
    MediaError::NotAPicture {
        file: name_of(path),
        reason,
    }
}

fn failure(path: &Path, answer: Answer) -> MediaError {
    match answer {
        Answer::TooLarge(width, height) => MediaError::TooLarge {
            file: name_of(path),
            width,
            height,
        },
        Answer::Unreadable(reason) => unreadable(path, reason),
        _ => unreadable(path, "its decoder answered something else".to_owned()),
    }
}

/// A picture as it came through a pipe.
struct Sent {
    colour: ColorType,
    size: (u32, u32),
    values: Vec<u8>,
}

impl ImageDecoder for Sent {
    fn dimensions(&self) -> (u32, u32) {
        self.size
    }

    fn color_type(&self) -> ColorType {
        self.colour
    }

    fn read_image(self, into: &mut [u8]) -> ImageResult<()> {
        if into.len() != self.values.len() {
            let kind = LimitErrorKind::DimensionError;
            return Err(ImageError::Limits(LimitError::from_kind(kind)));
        }
        into.copy_from_slice(&self.values);
        Ok(())
    }

    fn read_image_boxed(self: Box<Self>, into: &mut [u8]) -> ImageResult<()> {
        (*self).read_image(into)
    }
}

fn send_request(to: &mut impl Write, what: Asked, path: &Path) -> io::Result<()> {
    let letter = LETTERS.iter().find(|(_, asked)| *asked == what);
    let path = path.as_os_str().as_bytes();
    let length = u32::try_from(path.len()).map_err(io::Error::other)?;
    to.write_all(&[letter.map_or(b's', |(letter, _)| *letter)])?;
    to.write_all(&length.to_le_bytes())?;
    to.write_all(path)?;
    to.flush()
}

fn read_request(from: &mut impl Read) -> io::Result<(Asked, PathBuf)> {
    let mut head = [0; 5];
    from.read_exact(&mut head)?;
    let asked = LETTERS.iter().find(|(letter, _)| *letter == head[0]);
    let (_, asked) = asked.ok_or_else(|| io::Error::other("no request"))?;
    let length = u32::from_le_bytes([head[1], head[2], head[3], head[4]]);
    if length > LONGEST_PATH {
        return Err(io::Error::other("no path"));
    }
    let mut path = vec![0; length as usize];
    from.read_exact(&mut path)?;
    Ok((*asked, PathBuf::from(OsStr::from_bytes(&path))))
}

fn read_answer(from: &mut impl Read) -> io::Result<(Answer, Vec<u8>)> {
    let mut length = [0; 4];
    from.read_exact(&mut length)?;
    let mut header = Vec::new();
    let wanted = u64::from(u32::from_le_bytes(length));
    if from.by_ref().take(wanted).read_to_end(&mut header)? as u64 != wanted {
        return Err(io::ErrorKind::UnexpectedEof.into());
    }
    let answer: Answer = serde_json::from_slice(&header).map_err(io::Error::other)?;
    let mut values = Vec::new();
    if let Answer::Picture(_, _, _, bytes) = answer {
        if bytes > 2 * MOST_BYTES {
            return Err(io::Error::other("no picture is that large"));
        }
        values.reserve_exact(usize::try_from(bytes).map_err(io::Error::other)?);
        if from.by_ref().take(bytes).read_to_end(&mut values)? as u64 != bytes {
            return Err(io::ErrorKind::UnexpectedEof.into());
        }
    }
    Ok((answer, values))
}

fn send_answer(to: &mut impl Write, answer: &Answer, values: &[u8]) -> io::Result<()> {
    let header = serde_json::to_vec(answer).map_err(io::Error::other)?;
    let length = u32::try_from(header.len()).map_err(io::Error::other)?;
    to.write_all(&length.to_le_bytes())?;
    to.write_all(&header)?;
    to.write_all(values)?;
    to.flush()
}

/// Answers requests until there are no more; memory beyond what pictures take is refused to the
/// whole process.
pub fn answer_requests(mut from: impl Read, mut to: impl Write) -> io::Result<()> {
    let room = rustix::process::Rlimit {
        current: Some(MOST_ROOM),
        maximum: Some(MOST_ROOM),
    };
    rustix::process::setrlimit(rustix::process::Resource::As, room)?;
    loop {
        let (asked, path) = match read_request(&mut from) {
            Err(e) if e.kind() == io::ErrorKind::UnexpectedEof => return Ok(()),
            request => request?,
        };
        let (answer, picture) = answered(asked, &path);
        let values = picture.as_ref().map_or(&[][..], DynamicImage::as_bytes);
        send_answer(&mut to, &answer, values)?;
    }
}

fn answered(asked: Asked, path: &Path) -> (Answer, Option<DynamicImage>) {
    let answer = match asked {
        Asked::Size => picture::size(path).map(|(width, height)| Answer::Size(width, height)),
        Asked::Coding => picture::coding(path).map(Answer::Coding),
        Asked::Rate => Ok(Answer::Rate(stated_rate::of_picture(path))),
        Asked::Picture => match picture::decode(path) {
            Ok(picture) => return sent(picture),
            Err(error) => Err(error),
        },
    };
    let refused = |error| match error {
        MediaError::TooLarge { width, height, .. } => Answer::TooLarge(width, height),
        MediaError::NotAPicture { reason, .. } => Answer::Unreadable(reason),
        other => Answer::Unreadable(other.to_string()),
    };
    (answer.unwrap_or_else(refused), None)
}

fn sent(picture: DynamicImage) -> (Answer, Option<DynamicImage>) {
    let bytes = picture.as_bytes().len() as u64;
    let (width, height) = (picture.width(), picture.height());
    match COLOURS.iter().position(|c| *c == picture.color()) {
        Some(colour) => (Answer::Picture(colour, width, height, bytes), Some(picture)),
        None => (
            Answer::Unreadable("its values are of a kind that is not read".to_owned()),
            None,
        ),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    fn shell(script: &str) -> Decoder {
        Decoder::new(PathBuf::from("sh"), &["-c", script])
    }

    #[rstest]
    #[case::aborts("read -n 1 x; kill -ABRT $$")]
    #[case::ends_without_an_answer("exit 0")]
    #[case::breaks_off_in_its_answer("printf '\\377\\0\\0\\0{'; exit 0")]
    #[case::answers_no_json("printf '\\2\\0\\0\\0{{'; cat > /dev/null")]
    fn a_decoder_that_breaks_down_is_an_error(#[case] script: &str) {
        let decoder = shell(script);
        for _ in 0..2 {
            let error = decoder.decode(Path::new("a.exr")).unwrap_err().to_string();
            assert!(error.contains("a.exr"), "{error}");
            assert!(error.contains("its decoder broke down"), "{error}");
        }
    }

    #[test]
    fn a_program_that_does_not_start_is_said() {
        let decoder = Decoder::new(PathBuf::from("/no/such/program"), &[]);
        let error = decoder.size(Path::new("a.exr")).unwrap_err().to_string();
        assert!(error.contains("does not start"), "{error}");
    }

    #[rstest]
    #[case(Asked::Size)]
    #[case(Asked::Coding)]
    #[case(Asked::Picture)]
    #[case(Asked::Rate)]
    fn requests_are_read_as_they_were_sent(#[case] asked: Asked) {
        let path = PathBuf::from(OsStr::from_bytes(b"/plates/odd \xff\nname.exr"));
        let mut bytes = Vec::new();
        send_request(&mut bytes, asked, &path).unwrap();
        assert_eq!(read_request(&mut bytes.as_slice()).unwrap(), (asked, path));
    }
}
