//! Errors as the API answers them: a status and one sentence.

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, ResponseError};
use parallax_core::scene::OrientError;
use parallax_formats::delivery::DeliveryError;
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
            Self::Store(StoreError::Missing { .. }) | Self::NotFound(_) => StatusCode::NOT_FOUND,
            Self::Store(StoreError::Invalid(_)) => StatusCode::UNPROCESSABLE_ENTITY,
            Self::Store(
                StoreError::Database(_) | StoreError::Migration(_) | StoreError::Damaged { .. },
            )
            | Self::Failed(_) => StatusCode::INTERNAL_SERVER_ERROR,
            Self::Media(MediaError::NoFfmpeg) => StatusCode::NOT_IMPLEMENTED,
            Self::Media(
                MediaError::Viewing { .. }
                | MediaError::NotWritten { .. }
                | MediaError::Ffmpeg { .. }
                | MediaError::Cancelled,
            ) => StatusCode::INTERNAL_SERVER_ERROR,
            Self::Media(
                MediaError::Folder { .. }
                | MediaError::NoPictures { .. }
                | MediaError::NotAPicture { .. }
                | MediaError::TooLarge { .. }
                | MediaError::MixedSizes { .. }
                | MediaError::Gaps { .. }
                | MediaError::Matte { .. }
                | MediaError::NotAMovie { .. }
                | MediaError::VariableRate { .. },
            )
            | Self::Orient(_) => StatusCode::UNPROCESSABLE_ENTITY,
            Self::Delivery(_) => StatusCode::INTERNAL_SERVER_ERROR,
            Self::Refused(_) => StatusCode::CONFLICT,
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
