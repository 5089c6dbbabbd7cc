//! What happens to a shot while its page is open, as server-sent events (WHATWG HTML, 9.2): `shot` when
//! somebody changed it or its work began or ended, `work` with how far running work is.

use crate::app::App;
use crate::error::ApiError;
use actix_web::http::header::ContentEncoding;
use actix_web::{HttpResponse, web};
use futures_util::stream;
use parallax_store::jobs::JobState;
use serde_json::{Value, json};
use std::convert::Infallible;
use std::time::Duration;
use tokio::sync::watch;
use web::Bytes;

/// How often it is said how far work is.
const WORK_EVERY: Duration = Duration::from_millis(250);
/// A line without meaning is sent after so long, so that a connection that is gone is noticed.
const BREATH: Duration = Duration::from_secs(15);

/// One page that listens.
struct Listener {
    app: web::Data<App>,
    shot: i64,
    stirred: watch::Receiver<u64>,
    /// How the shot and its work stood when it was last told.
    told: Option<Value>,
    told_work: String,
    is_working: bool,
}

impl Listener {
    /// What there is to say now, if anything.
    async fn news(&mut self) -> Result<Option<String>, ApiError> {
        let mark = self.app.store.mark_of(self.shot).await?;
        let jobs = self.app.store.jobs(self.shot).await?;
        self.is_working = jobs.iter().any(|j| j.state == JobState::Running);
        let standing: Vec<_> = jobs.iter().map(|j| (j.id, j.state)).collect();
        let mut now = json!(mark);
        now["jobs"] = json!(standing);
        if self.told.as_ref() != Some(&now) {
            let news = format!("event: shot\ndata: {now}\n\n");
            self.told = Some(now);
            return Ok(Some(news));
        }
        if !self.is_working {
            return Ok(None);
        }
        let rows: Vec<_> = jobs.iter().map(|j| self.app.job_row(j)).collect();
        let data = json!(rows).to_string();
        if data == self.told_work {
            return Ok(None);
        }
        self.told_work.clone_from(&data);
        Ok(Some(format!("event: work\ndata: {data}\n\n")))
    }

    /// The next thing to say; nothing when the page is to come again.
    async fn next(mut self) -> Option<(Result<Bytes, Infallible>, Self)> {
        loop {
            if self.app.is_ending() {
                return None;
            }
            self.stirred.mark_unchanged();
            if let Some(news) = self.news().await.ok()? {
                return Some((Ok(Bytes::from(news)), self));
            }
            let patience = if self.is_working { WORK_EVERY } else { BREATH };
            let stirred = tokio::time::timeout(patience, self.stirred.changed()).await;
            if stirred.is_err() && !self.is_working {
                return Some((Ok(Bytes::from_static(b":\n\n")), self));
            }
        }
    }
}

/// Tells a page what happens to its shot until it goes away.
pub async fn events(app: web::Data<App>, shot: web::Path<i64>) -> Result<HttpResponse, ApiError> {
    let shot = *shot;
    // Absent ones are said at once.
    app.store.mark_of(shot).await?;
    let stirred = app.store.stirred();
    let listener = Listener {
        app,
        shot,
        stirred,
        told: None,
        told_work: String::new(),
        is_working: false,
    };
    Ok(HttpResponse::Ok()
        .content_type("text/event-stream")
        .insert_header(("cache-control", "no-store"))
        .insert_header(ContentEncoding::Identity)
        .streaming(stream::unfold(listener, Listener::next)))
}
