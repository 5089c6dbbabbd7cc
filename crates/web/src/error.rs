//! Errors as the API answers them: a status and one sentence.

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, ResponseError};
use parallax_core::plate::FrameRate;
use parallax_core::scene::OrientError;
use parallax_formats::delivery::DeliveryError;
use parallax_matching::following::NotOpened;
use parallax_media::MediaError;
use parallax_store::StoreError;

/// What went wrong, for the artist and for programs.
#[derive(Debug, thiserror::Error)]
pub enum ApiError {
    /// The store.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// The plate.
    #[error(transparent)]
    Media(#[from] MediaError),
    /// Orienting.
    #[error(transparent)]
    Orient(#[from] OrientError),
    /// Delivering.
    #[error(transparent)]
    Delivery(#[from] DeliveryError),
    /// Opening the plate for following.
    #[error(transparent)]
    NotOpened(#[from] NotOpened),
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
    /// The request makes no sense as things stand.
    #[error("{0}")]
    Refused(String),
    /// Nothing there.
    #[error("{0}")]
    NotFound(String),
    /// Not allowed.
    #[error("{0}")]
    Forbidden(String),
    /// Too much.
    #[error("{0}")]
    TooLarge(String),
    /// The machine failed.
    #[error("{0}")]
    Failed(String),
}

impl ResponseError for ApiError {
    fn status_code(&self) -> StatusCode {
        match self {
            Self::Media(error) | Self::NotOpened(NotOpened::Media(error)) => of_media(error),
            Self::Store(StoreError::Missing { .. }) | Self::NotFound(_) => StatusCode::NOT_FOUND,
            Self::Store(StoreError::Invalid(_)) => StatusCode::UNPROCESSABLE_ENTITY,
            Self::Store(
                StoreError::Database(_) | StoreError::Migration(_) | StoreError::Damaged { .. },
            )
            | Self::Failed(_) => StatusCode::INTERNAL_SERVER_ERROR,
            Self::NotOpened(NotOpened::EmptyRange) | Self::Orient(_) => {
                StatusCode::UNPROCESSABLE_ENTITY
            }
            Self::Delivery(_) => StatusCode::INTERNAL_SERVER_ERROR,
            Self::NoRate
            | Self::RateContradicted { .. }
            | Self::Stale { .. }
            | Self::Refused(_) => StatusCode::CONFLICT,
            Self::Forbidden(_) => StatusCode::FORBIDDEN,
            Self::TooLarge(_) => StatusCode::PAYLOAD_TOO_LARGE,
        }
    }

    fn error_response(&self) -> HttpResponse {
        let status = self.status_code();
        if status.is_server_error() {
            tracing::error!("{self}");
        }
        HttpResponse::build(status).json(serde_json::json!({ "error": self.to_string() }))
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
