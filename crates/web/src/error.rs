//! Errors as the API answers them: a status and one sentence. Every cause is a variant with its
//! data; the sentence says what happened and what to do.

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, ResponseError};
use parallax_core::plate::FrameRate;
use parallax_core::track::matte::Matte;
use parallax_formats::delivery::DeliveryError;
use parallax_formats::lens_json::LensFileError;
use parallax_formats::model::ModelError;
use parallax_matching::following::NotOpened;
use parallax_matching::proofing::ProofError;
use parallax_media::MediaError;
use parallax_store::{Invalid, StoreError};
use std::path::{Path, PathBuf};

/// What went wrong, for the artist and for programs.
#[derive(Debug, thiserror::Error)]
pub enum ApiError {
    /// The store.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// The plate.
    #[error(transparent)]
    Media(#[from] MediaError),
    /// Opening the plate for following.
    #[error(transparent)]
    NotOpened(#[from] NotOpened),
    /// Delivering.
    #[error(transparent)]
    Delivery(#[from] DeliveryError),
    /// Something that makes no sense as things stand.
    #[error(transparent)]
    Refused(#[from] Refused),
    /// Something that is not there.
    #[error(transparent)]
    Absent(#[from] Absent),
    /// Something that is not allowed.
    #[error(transparent)]
    Forbidden(#[from] Forbidden),
    /// Something that is too much.
    #[error(transparent)]
    TooLarge(#[from] TooLarge),
    /// What was dropped cannot be taken in; the sentence names files as they were dropped.
    #[error("{sentence}")]
    OfDrop {
        /// What is wrong.
        sentence: String,
        /// What it is answered with.
        status: StatusCode,
    },
    /// A request that is not what its address takes.
    #[error(
        "the request cannot be read: {what} is not as docs/api.md describes it for this address"
    )]
    Unreadable {
        /// Body, path or query.
        what: &'static str,
    },
    /// A folder or file of the application's own cannot be used.
    #[error("{what} cannot be kept: {source}")]
    Disk {
        /// What.
        what: String,
        /// Why.
        source: std::io::Error,
    },
    /// Something cannot be put into words.
    #[error("an answer cannot be written: {0}")]
    Json(#[from] serde_json::Error),
    /// A page cannot be written.
    #[error("the page cannot be written: {0}")]
    Page(#[from] askama::Error),
    /// The work broke off.
    #[error("the work broke off at an error of this program. Nothing was changed")]
    BrokeOff,
}

/// What makes no sense as things stand.
#[derive(Debug, thiserror::Error)]
pub enum Refused {
    /// Tracks of a file have the names of tracks that there are.
    #[error(
        "{doubled} of the {all} tracks of the file have the names of tracks that there are; they can take the places of these, be left out, or come in besides"
    )]
    SameNames {
        /// How many.
        doubled: usize,
        /// How many the file has.
        all: usize,
    },
    /// A delivery without a rate.
    #[error("the rate of the plate is not known; state it in the facts row, then deliver")]
    NoRate,
    /// A delivery while two rates contradict each other.
    #[error(
        "{whose} {stated} frames a second, the shot says {rate}; settle at the Plate station which one holds, then deliver"
    )]
    RateContradicted {
        /// The rate that is stated elsewhere.
        stated: FrameRate,
        /// Who states it.
        whose: &'static str,
        /// The shot's.
        rate: FrameRate,
    },
    /// A delivery of a solve whose facts have changed.
    #[error(
        "the solve is stale: {}. Nothing was delivered. Solve again, or deliver it marked as stale",
        reasons.join("; ")
    )]
    Stale {
        /// What changed since.
        reasons: Vec<String>,
    },
    /// Nothing was followed yet.
    #[error("there are no tracks yet; follow features first")]
    NoTracks,
    /// Nothing was solved yet.
    #[error("there is no solved camera yet; solve first")]
    NoCamera,
    /// There is nothing to deliver by.
    #[error("the shot has no such recipe; add one at Deliver")]
    NoRecipe,
    /// The undistorted plate that a recipe asks for.
    #[error(
        "the recipe asks for the undistorted plate, and that was not made as the shot is now: it was cancelled, or lens or plate changed meanwhile. Nothing was delivered; deliver again, or take the undistorted plate out of the recipe"
    )]
    NoUndistorted,
    /// A folder of a recipe that cannot be made.
    #[error("the recipe's folder {folder} cannot be made: {reason}. Nothing was delivered")]
    NoFolder {
        /// The folder.
        folder: String,
        /// Why.
        reason: String,
    },
    /// A folder of a recipe that leads elsewhere.
    #[error("the recipe's folder {0} is not below the folder of plates; nothing was written")]
    Folder(String),
    /// Smoothing by nothing.
    #[error("state by how much the speed of the camera may change, in mm or in degrees")]
    NothingSteady,
    /// What a solve would refuse.
    #[error("{0}")]
    Unsolvable(String),
    /// Hand tracks wait to be followed.
    #[error(
        "hand tracks were changed and have not been followed since; follow them first. Nothing was solved"
    )]
    HandsWait,
    /// The same work is going on.
    #[error("that is being done already")]
    Busy,
    /// No lens to undistort with.
    #[error("nothing is known of the lens yet; mark straights, state its values or solve it along")]
    NoLens,
    /// A lens whose undistorted picture cannot be made.
    #[error("{0}")]
    Frame(parallax_core::lens::maps::MapError),
    /// A lens that was found on a picture of another shape.
    #[error(
        "this lens was found on {}x{} px, the plate has {}x{}: the proportions differ, so it was another part of the film back. Nothing was changed",
        lens.0, lens.1, plate.0, plate.1
    )]
    OtherShape {
        /// Picture size of the lens.
        lens: (u32, u32),
        /// Picture size of the plate.
        plate: (u32, u32),
    },
    /// A lens file that cannot be read.
    #[error("{0}. Nothing was kept")]
    LensFile(#[from] LensFileError),
    /// A lens file without a name.
    #[error("this lens file has no `label`, so it cannot be told from others; nothing was kept")]
    NoLabel,
    /// No edge beside marks.
    #[error(
        "the picture shows no edge within {reach_px:.0} px of most of these marks; they stay where they are"
    )]
    NoEdge {
        /// How far it was looked.
        reach_px: f64,
    },
    /// No edge beside a rail.
    #[error("no straight edge runs along this rail within {reach_px:.0} px; it stays where it is")]
    NoRail {
        /// How far it was looked.
        reach_px: f64,
    },
    /// A number out of its range.
    #[error("{what} lies between {range}")]
    OutOfRange {
        /// Which.
        what: &'static str,
        /// Between what and what.
        range: &'static str,
    },
    /// A photograph's request for a moving plate.
    #[error("this shot is a moving plate; rails are laid on photographs")]
    NotAPhotograph,
    /// A photograph that cannot be solved or placed.
    #[error("{0}")]
    Photo(parallax_core::photo::PhotoError),
    /// A picture that cannot be looked at.
    #[error("{0}")]
    Look(parallax_core::track::FrameError),
    /// Features that cannot be placed.
    #[error("{0}")]
    Placing(parallax_core::track::TrackError),
    /// An upload that ended early.
    #[error("the upload broke off: {0}. Nothing was kept")]
    BrokenUpload(String),
    /// A dropped file that is neither picture nor movie, or whose name cannot be a file's.
    #[error(
        "{name} is neither a picture (PNG, JPEG, TIFF, OpenEXR) nor a movie. Nothing was taken in"
    )]
    OtherKind {
        /// Its name.
        name: String,
    },
    /// Two files of one name or number.
    #[error(
        "{first} and {second} would be the same frame of the plate; take one of them out of the drop. Nothing was taken in"
    )]
    SameFrame {
        /// One.
        first: String,
        /// The other.
        second: String,
    },
    /// Pictures of another size in the place of a plate.
    #[error(
        "the pictures are {}x{} px now and were {}x{} px: what lies on the plate would lie elsewhere. Open them as a shot of their own",
        is.0, is.1, was.0, was.1
    )]
    OtherSize {
        /// What they were.
        was: (u32, u32),
        /// What they are.
        is: (u32, u32),
    },
    /// A model that cannot be drawn.
    #[error("{0}. Nothing was kept")]
    Model(#[from] ModelError),
    /// A picture with guests that cannot be drawn.
    #[error("{0}")]
    Proof(#[from] ProofError),
    /// A shot that is in the bin.
    #[error("this shot is in the bin; take it out first")]
    InBin,
    /// A shot that is not in the bin.
    #[error("only what is in the bin is deleted; put the shot into the bin first")]
    NotInBin,
}

/// What is not there.
#[derive(Debug, thiserror::Error)]
pub enum Absent {
    /// A frame of the plate.
    #[error("the plate has no frame {0}")]
    Frame(i32),
    /// A frame between in and out.
    #[error("frame {0} is not between in and out")]
    InRange(i32),
    /// A folder.
    #[error("there is no folder {}", .0.display())]
    Folder(PathBuf),
    /// A track on a frame.
    #[error("there is no track {track} on frame {frame}")]
    Track {
        /// The track.
        track: u32,
        /// The frame.
        frame: i32,
    },
    /// An attempt.
    #[error("this shot has no attempt {0}")]
    Attempt(i64),
    /// Work that goes on.
    #[error("that work is not going on")]
    Work,
    /// An undistorted plate on disk.
    #[error("the undistorted plate is not there any more; undistort it again")]
    Undistorted,
    /// That of a delivery.
    #[error(
        "the undistorted plate of this delivery was cleared for room; deliver again, and it is made again"
    )]
    DeliveredPlate,
    /// A file of one.
    #[error("the undistorted plate has no file {0}")]
    File(String),
    /// A movie with guests.
    #[error("no movie was made of this shot yet, or it was cleared away; make it again")]
    Movie,
    /// An address.
    #[error("there is nothing at this address; docs/api.md lists what there is")]
    Address,
}

/// What is not allowed.
#[derive(Debug, thiserror::Error)]
pub enum Forbidden {
    /// Picking folders without an allowed one.
    #[error(
        "the application was started without --plates, so no folder can be picked; drop the files instead"
    )]
    NoPlates,
    /// A path that leads outside.
    #[error("that is outside the folder that was allowed with --plates")]
    Outside,
    /// Another host.
    #[error("this address is not served here")]
    Host,
    /// Another origin.
    #[error("requests from other origins are refused")]
    Origin,
    /// Another site.
    #[error("requests from other sites are refused")]
    Site,
}

/// What is too much.
#[derive(Debug, thiserror::Error)]
pub enum TooLarge {
    /// Files of a drop.
    #[error("more than {most} files were dropped at once. Nothing was kept")]
    Files {
        /// How many are taken.
        most: usize,
    },
    /// Bytes of a file or a drop.
    #[error("{name} or the whole drop is too large. Nothing was kept")]
    Drop {
        /// The file.
        name: String,
    },
    /// Tracks of a shot.
    #[error("a shot holds up to {most} tracks. Nothing was taken in")]
    Tracks {
        /// How many.
        most: u32,
    },
    /// Folders of uploads.
    #[error("there are too many uploads; delete shots from the bin")]
    Uploads,
}

impl From<Invalid> for ApiError {
    fn from(invalid: Invalid) -> Self {
        Self::Store(invalid.into())
    }
}

impl From<tokio::task::JoinError> for ApiError {
    fn from(error: tokio::task::JoinError) -> Self {
        tracing::error!("work broke off: {error}");
        Self::BrokeOff
    }
}

impl From<actix_web::error::BlockingError> for ApiError {
    fn from(error: actix_web::error::BlockingError) -> Self {
        tracing::error!("work broke off: {error}");
        Self::BrokeOff
    }
}

impl ApiError {
    /// A mistake in what was said of a matte.
    pub fn of_matte(matte: &Matte) -> Option<Self> {
        matte
            .complaint()
            .map(|complaint| Invalid::Matte(complaint).into())
    }
}

impl ResponseError for ApiError {
    fn status_code(&self) -> StatusCode {
        match self {
            Self::Media(error) | Self::NotOpened(NotOpened::Media(error)) => of_media(error),
            Self::Store(StoreError::Missing { .. }) | Self::Absent(_) => StatusCode::NOT_FOUND,
            Self::Store(StoreError::Cleared { .. }) => StatusCode::GONE,
            Self::Store(StoreError::Late { .. } | StoreError::CannotStep { .. })
            | Self::Refused(_) => StatusCode::CONFLICT,
            Self::Store(StoreError::Invalid(_)) | Self::NotOpened(NotOpened::EmptyRange) => {
                StatusCode::UNPROCESSABLE_ENTITY
            }
            Self::Store(
                StoreError::Database(_)
                | StoreError::Migration(_)
                | StoreError::Damaged { .. }
                | StoreError::InUse { .. }
                | StoreError::Folder { .. },
            )
            | Self::Delivery(_)
            | Self::Disk { .. }
            | Self::Json(_)
            | Self::Page(_)
            | Self::BrokeOff => StatusCode::INTERNAL_SERVER_ERROR,
            Self::Forbidden(_) => StatusCode::FORBIDDEN,
            Self::TooLarge(_) => StatusCode::PAYLOAD_TOO_LARGE,
            Self::Unreadable { .. } => StatusCode::BAD_REQUEST,
            Self::OfDrop { status, .. } => *status,
        }
    }

    fn error_response(&self) -> HttpResponse {
        let status = self.status_code();
        if status.is_server_error() {
            tracing::error!("{self}");
        }
        let mut body = serde_json::json!({ "error": self.to_string() });
        if let Self::Store(StoreError::Late { since }) = self {
            body["since"] = serde_json::json!(since);
        }
        if let Self::Refused(Refused::SameNames { doubled, .. }) = self {
            body["same"] = serde_json::json!(doubled);
        }
        HttpResponse::build(status).json(body)
    }
}

fn of_media(error: &MediaError) -> StatusCode {
    match error {
        MediaError::NoFfmpeg => StatusCode::NOT_IMPLEMENTED,
        MediaError::Viewing { .. }
        | MediaError::NotWritten { .. }
        | MediaError::Ffmpeg { .. }
        | MediaError::Cancelled => StatusCode::INTERNAL_SERVER_ERROR,
        MediaError::Folder { .. }
        | MediaError::NoPictures { .. }
        | MediaError::NotAPicture { .. }
        | MediaError::TooLarge { .. }
        | MediaError::MixedSizes { .. }
        | MediaError::Gaps { .. }
        | MediaError::Matte { .. }
        | MediaError::NotAMovie { .. }
        | MediaError::TooSlow { .. }
        | MediaError::VariableRate { .. } => StatusCode::UNPROCESSABLE_ENTITY,
    }
}

impl ApiError {
    /// The same about files that were dropped: where they lie on this machine is nobody's business.
    pub fn of_drop(self, folder: &Path) -> Self {
        let (whole, status) = (self.to_string(), self.status_code());
        let place = folder.display().to_string();
        if !whole.contains(&place) {
            return self;
        }
        let named = whole.replace(&format!("{place}/"), "");
        let sentence = named.replace(&place, "what was dropped");
        Self::OfDrop { sentence, status }
    }
}
