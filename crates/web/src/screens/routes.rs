//! Addresses with what answers them, so that a station states its own.

use actix_web::web::{self, ServiceConfig};
use actix_web::{FromRequest, Handler, Responder};

/// One address and its method.
pub struct Route {
    /// `GET`, `POST` or `DELETE`.
    pub method: &'static str,
    /// The path, with its members in braces.
    pub path: &'static str,
    /// Largest body that is taken, bytes, where it is another than that of all.
    most_bytes: Option<usize>,
    answer: actix_web::Route,
}

fn route<F, Args>(method: &'static str, path: &'static str, empty: actix_web::Route, f: F) -> Route
where
    F: Handler<Args>,
    Args: FromRequest + 'static,
    F::Output: Responder + 'static,
{
    Route {
        method,
        path,
        most_bytes: None,
        answer: empty.to(f),
    }
}

/// What is asked for.
pub fn get<F, Args>(path: &'static str, f: F) -> Route
where
    F: Handler<Args>,
    Args: FromRequest + 'static,
    F::Output: Responder + 'static,
{
    route("GET", path, web::get(), f)
}

/// What is done.
pub fn post<F, Args>(path: &'static str, f: F) -> Route
where
    F: Handler<Args>,
    Args: FromRequest + 'static,
    F::Output: Responder + 'static,
{
    route("POST", path, web::post(), f)
}

/// What is taken away.
pub fn delete<F, Args>(path: &'static str, f: F) -> Route
where
    F: Handler<Args>,
    Args: FromRequest + 'static,
    F::Output: Responder + 'static,
{
    route("DELETE", path, web::delete(), f)
}

impl Route {
    /// Takes bodies up to so many bytes.
    pub fn up_to(self, most_bytes: usize) -> Self {
        let most_bytes = Some(most_bytes);
        Self { most_bytes, ..self }
    }
}

/// Registers addresses.
pub fn register(config: &mut ServiceConfig, routes: Vec<Route>) {
    for route in routes {
        match route.most_bytes {
            None => config.route(route.path, route.answer),
            Some(most) => {
                let resource = web::resource(route.path).app_data(web::PayloadConfig::new(most));
                config.service(resource.route(route.answer))
            }
        };
    }
}
