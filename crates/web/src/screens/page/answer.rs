//! What is answered of a shot: its whole view, or what changed in it since the one that the page has.
//!
//! Every view has a tag. Who names in the header `x-seen` the tag of a view that is still remembered gets the
//! places that differ ([`parallax_store::difference`]); everybody else gets the whole.

use super::view;
use crate::app::App;
use crate::edited::Edited;
use crate::error::ApiError;
use actix_web::body::{BoxBody, MessageBody};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header::HeaderMap;
use actix_web::middleware::Next;
use actix_web::{Error, HttpResponse, ResponseError, web};
use parallax_store::difference::Difference;
use serde_json::{Map, Value, json};
use std::sync::Arc;

/// The tag of the view that a request says its page has.
pub fn seen(headers: &HeaderMap) -> Option<String> {
    Some(headers.get("x-seen")?.to_str().ok()?.to_owned())
}

/// The view of a shot, or what changed in it since the one that was seen; `beside` goes with it.
pub async fn of(
    app: &App,
    shot: i64,
    seen: Option<&str>,
    beside: Map<String, Value>,
) -> Result<Value, ApiError> {
    let view = Arc::new(view::of(app, shot).await?);
    let tag = app.keep_view(shot, &view);
    let before = seen.and_then(|tag| app.view_of(shot, tag));
    let mut answer = match before {
        Some(before) => {
            let difference = Difference::between(&before, &view);
            json!({ "since": seen, "changes": difference.onwards() })
        }
        None => view.as_ref().clone(),
    };
    answer["tag"] = json!(tag);
    for (name, value) in beside {
        answer[name] = value;
    }
    Ok(answer)
}

/// Answers requests that changed a shot with what changed.
pub async fn edited(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<BoxBody>, Error> {
    let seen = seen(request.headers());
    let app = request.app_data::<web::Data<App>>().cloned();
    let mut response = next.call(request).await?.map_into_boxed_body();
    let edited = response.response_mut().extensions_mut().remove::<Edited>();
    let Some((Edited { shot, beside }, app)) = edited.zip(app) else {
        return Ok(response);
    };
    let (request, _) = response.into_parts();
    let answer = match of(&app, shot, seen.as_deref(), beside).await {
        Ok(answer) => HttpResponse::Ok().json(answer),
        Err(error) => error.error_response(),
    };
    Ok(ServiceResponse::new(request, answer))
}
