//! Who may ask: requests for other hosts or from other origins are refused, so that no page
//! elsewhere in the browser can drive the application; and headers that keep the page to itself.

use crate::app::App;
use crate::error::Forbidden;
use actix_web::body::{BoxBody, EitherBody, MessageBody};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::Method;
use actix_web::http::header::{HeaderMap, HeaderName, HeaderValue};
use actix_web::middleware::Next;
use actix_web::{Error, ResponseError, web};

const POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' blob: data:; connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'";

/// Checks host and origin, then adds the headers.
pub async fn check(
    request: ServiceRequest,
    next: Next<impl MessageBody>,
) -> Result<ServiceResponse<EitherBody<impl MessageBody, BoxBody>>, Error> {
    let listening = request
        .app_data::<web::Data<App>>()
        .map(|a| a.config.host.clone())
        .unwrap_or_default();
    if let Some(reason) = refused(request.method(), request.headers(), &listening) {
        let error = crate::error::ApiError::from(reason);
        return Ok(request
            .into_response(error.error_response())
            .map_into_right_body());
    }
    let mut response = next.call(request).await?.map_into_left_body();
    let headers = response.headers_mut();
    for (name, value) in [
        ("content-security-policy", POLICY),
        ("x-content-type-options", "nosniff"),
        ("referrer-policy", "no-referrer"),
        ("cross-origin-opener-policy", "same-origin"),
        ("cross-origin-resource-policy", "same-origin"),
    ] {
        headers.insert(
            HeaderName::from_static(name),
            HeaderValue::from_static(value),
        );
    }
    Ok(response)
}

fn refused(method: &Method, headers: &HeaderMap, listening: &str) -> Option<Forbidden> {
    let text = |name: &str| headers.get(name).and_then(|v| v.to_str().ok());
    let host = text("host").unwrap_or_default();
    let name = host.rsplit_once(':').map_or(host, |(name, _)| name);
    if !matches!(name, "127.0.0.1" | "localhost" | "[::1]") && name != listening {
        return Some(Forbidden::Host);
    }
    if matches!(*method, Method::GET | Method::HEAD) {
        return None;
    }
    match text("origin") {
        Some(origin) if origin.strip_prefix("http://") != Some(host) => Some(Forbidden::Origin),
        None if matches!(text("sec-fetch-site"), Some("cross-site" | "same-site")) => {
            Some(Forbidden::Site)
        }
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::own_page(Method::POST, "127.0.0.1:80", Some("http://127.0.0.1:80"), true)]
    #[case::a_program(Method::POST, "localhost:80", None, true)]
    #[case::another_page(Method::POST, "127.0.0.1:80", Some("http://elsewhere.example"), false)]
    #[case::no_origin_at_all(Method::POST, "127.0.0.1:80", Some("null"), false)]
    #[case::another_name(Method::GET, "elsewhere.example", None, false)]
    fn hosts_and_origins(
        #[case] method: Method,
        #[case] host: &str,
        #[case] origin: Option<&str>,
        #[case] allowed: bool,
    ) {
        let mut headers = HeaderMap::new();
        headers.insert(
            HeaderName::from_static("host"),
            HeaderValue::from_str(host).unwrap(),
        );
        if let Some(origin) = origin {
            headers.insert(
                HeaderName::from_static("origin"),
                HeaderValue::from_str(origin).unwrap(),
            );
        }
        assert_eq!(refused(&method, &headers, "127.0.0.1").is_none(), allowed);
    }
}
