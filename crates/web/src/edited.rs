//! What a station answers after an edit: which shot it was. The page's answer to it, which is what changed in
//! what the page shows, is made where all stations are known ([`crate::screens::page::answer`]).

use actix_web::body::BoxBody;
use actix_web::{HttpRequest, HttpResponse, Responder};
use serde::Serialize;
use serde_json::{Map, Value, json};

/// A shot was changed.
#[derive(Debug)]
pub struct Edited {
    /// Which one.
    pub shot: i64,
    /// What is answered beside the view of the shot.
    pub beside: Map<String, Value>,
}

impl Edited {
    /// A shot was changed.
    pub fn of(shot: i64) -> Self {
        let beside = Map::new();
        Self { shot, beside }
    }

    /// With more to say.
    pub fn with(mut self, name: &str, value: impl Serialize) -> Self {
        self.beside.insert(name.to_owned(), json!(value));
        self
    }
}

impl Responder for Edited {
    type Body = BoxBody;

    fn respond_to(self, _: &HttpRequest) -> HttpResponse {
        let mut answer = HttpResponse::Ok().finish();
        answer.extensions_mut().insert(self);
        answer
    }
}
