//! Undistorted plates: single files, and all of one as a package that is made while it is sent.

use crate::app::App;
use crate::archive::Archive;
use crate::error::{Absent, ApiError};
use crate::shot::facts;
use actix_web::{HttpResponse, web};
use futures_util::stream;
use parallax_formats::undistorted::is_finished;
use parallax_store::undistortions::Undistortion;
use percent_encoding::{NON_ALPHANUMERIC, utf8_percent_encode};
use std::io::Write;
use std::path::PathBuf;
use tokio::sync::mpsc;

type Answer = Result<HttpResponse, ApiError>;

async fn found(app: &App, shot: i64, id: i64) -> Result<(Undistortion, PathBuf), ApiError> {
    let kept = app.store.undistortion(shot, id).await?;
    let folder = PathBuf::from(&kept.folder);
    if !folder.is_dir() {
        return Err(Absent::Undistorted.into());
    }
    Ok((kept, folder))
}

/// One file of an undistorted plate: a frame, a map, the receipt.
pub async fn file(app: web::Data<App>, path: web::Path<(i64, i64, String)>) -> Answer {
    let (shot, id, name) = path.into_inner();
    let (_, folder) = found(&app, shot, id).await?;
    let missing = || ApiError::from(Absent::File(name.clone()));
    if !is_finished(&name) {
        return Err(missing());
    }
    let bytes = tokio::fs::read(folder.join(&name))
        .await
        .map_err(|_| missing())?;
    Ok(HttpResponse::Ok()
        .content_type(
            mime_guess::from_path(&name)
                .first_or_octet_stream()
                .as_ref(),
        )
        .insert_header(("content-encoding", "identity"))
        .insert_header((
            "content-disposition",
            format!("attachment; filename=\"{name}\""),
        ))
        .body(bytes))
}

/// Pieces of a package that may wait for the receiver.
const WAITING: usize = 8;

/// Sends what is written to it.
struct Pipe {
    to: mpsc::Sender<Result<web::Bytes, std::io::Error>>,
}

impl Write for Pipe {
    fn write(&mut self, bytes: &[u8]) -> std::io::Result<usize> {
        let gone = |_| std::io::Error::from(std::io::ErrorKind::BrokenPipe);
        self.to
            .blocking_send(Ok(web::Bytes::copy_from_slice(bytes)))
            .map_err(gone)?;
        Ok(bytes.len())
    }

    fn flush(&mut self) -> std::io::Result<()> {
        Ok(())
    }
}

/// An archive that is made while it is sent: what is written to it goes to whoever asked.
pub fn streamed(
    name: &str,
    write: impl FnOnce(&mut dyn Write) -> std::io::Result<()> + Send + 'static,
) -> HttpResponse {
    let (to, from) = mpsc::channel(WAITING);
    let failing = to.clone();
    tokio::task::spawn_blocking(move || {
        let mut pipe = std::io::BufWriter::with_capacity(256 << 10, Pipe { to });
        if let Err(error) = write(&mut pipe).and_then(|()| pipe.flush()) {
            // A receiver that went away has nobody to tell.
            let _ = failing.blocking_send(Err(error));
        }
    });
    let pieces = stream::unfold(from, |mut from| async move {
        from.recv().await.map(|piece| (piece, from))
    });
    HttpResponse::Ok()
        .content_type("application/zip")
        .insert_header(("content-encoding", "identity"))
        .insert_header(attached(name))
        .streaming(pieces)
}

/// The header that names an archive. Letters of other scripts by RFC 5987; those who do not read that get the plain
/// ones.
pub fn attached(name: &str) -> (&'static str, String) {
    let plain: String = name.chars().filter(char::is_ascii).collect();
    let encoded = utf8_percent_encode(name, NON_ALPHANUMERIC);
    let value = format!("attachment; filename=\"{plain}.zip\"; filename*=UTF-8''{encoded}.zip");
    ("content-disposition", value)
}

/// All files of an undistorted plate, one after the other, as a zip archive without compression.
pub async fn package(app: web::Data<App>, path: web::Path<(i64, i64)>) -> Answer {
    let (shot, id) = path.into_inner();
    let (_, folder) = found(&app, shot, id).await?;
    let name = facts::file_stem(&app.store.shot(shot).await?.name);
    Ok(streamed(&format!("{name}-undistorted"), move |to| {
        let mut archive = Archive::to(to);
        archive.add_plate(&folder, 0, "")?;
        archive.finish()
    }))
}
