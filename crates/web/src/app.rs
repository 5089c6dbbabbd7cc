//! What the server holds, and how it starts.

use crate::error::ApiError;
use crate::view_cache::ViewCache;
use crate::{api, guard, pages, work};
use actix_web::{App as Actix, HttpServer, dev::Server, middleware::Compress, web};
use parallax_core::progress::Progress;
use parallax_core::track::picture::Plane;
use parallax_formats::lens_json::LensFile;
use parallax_media::{MediaError, Sequence, picture};
use parallax_store::attempts::KeptAttempt;
use parallax_store::shots::Shot;
use parallax_store::track_runs::TrackRun;
use parallax_store::{Store, StoreError};
use std::collections::HashMap;
use std::hash::{Hash, Hasher};
use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::sync::{Arc, Mutex};
use std::time::Instant;
use tokio::sync::Notify;

/// Where to listen and what may be opened.
#[derive(Clone, Debug)]
pub struct Config {
    /// Address to listen on; loopback unless told otherwise.
    pub host: String,
    /// Port, 0 for any.
    pub port: u16,
    /// Folder of the database, uploads and viewing copies.
    pub data: PathBuf,
    /// Folder below which plates may be picked.
    pub plates: Option<PathBuf>,
    /// Folders that are opened as shots when there are none yet: name, folder.
    pub demo: Vec<(String, PathBuf)>,
    /// Lenses that the library begins with when the demo is opened.
    pub lenses: Vec<LensFile>,
    /// Room for viewing copies on disk, bytes.
    pub view_bytes: u64,
}

/// Room for viewing copies unless told otherwise: some eight thousand frames of 1920x1080.
pub const USUAL_VIEW_BYTES: u64 = 4 << 30;

/// How far a running job is; also how it is told to stop.
pub struct JobProgress {
    stage: Mutex<(&'static str, Instant)>,
    done: AtomicUsize,
    total: AtomicUsize,
    cancelled: AtomicBool,
}

impl Default for JobProgress {
    fn default() -> Self {
        let (done, total, cancelled) = (
            AtomicUsize::new(0),
            AtomicUsize::new(0),
            AtomicBool::new(false),
        );
        Self {
            stage: Mutex::new(("", Instant::now())),
            done,
            total,
            cancelled,
        }
    }
}

/// How far a job is.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct JobStanding {
    /// What is being done.
    pub stage: &'static str,
    /// Steps done.
    pub done: usize,
    /// Steps in all.
    pub total: usize,
    /// Time that the stage will still take if it goes on as it has, s; unknown at its beginning.
    pub left_s: Option<f64>,
}

/// A stage has to have run so long before its end is guessed, s.
const LEAST_SEEN_S: f64 = 1.0;

impl Progress for JobProgress {
    fn report(&self, stage: &'static str, done: usize, total: usize) {
        if let Ok(mut current) = self.stage.lock()
            && current.0 != stage
        {
            *current = (stage, Instant::now());
        }
        self.done.store(done, Ordering::Relaxed);
        self.total.store(total, Ordering::Relaxed);
    }

    fn is_cancelled(&self) -> bool {
        self.cancelled.load(Ordering::Relaxed)
    }
}

impl JobProgress {
    /// Asks the job to stop.
    pub fn cancel(&self) {
        self.cancelled.store(true, Ordering::Relaxed);
    }

    /// How far it is now.
    pub fn now(&self) -> JobStanding {
        let (stage, since) = self
            .stage
            .lock()
            .map_or_else(|_| ("", Instant::now()), |s| *s);
        let (done, total) = (
            self.done.load(Ordering::Relaxed),
            self.total.load(Ordering::Relaxed),
        );
        let left_s = left_s(since.elapsed().as_secs_f64(), done, total);
        JobStanding {
            stage,
            done,
            total,
            left_s,
        }
    }
}

fn left_s(seen_s: f64, done: usize, total: usize) -> Option<f64> {
    let told = done > 0 && done <= total && seen_s >= LEAST_SEEN_S;
    told.then(|| seen_s * (total - done) as f64 / done as f64)
}

/// Results that were read lately, so that every overlay does not parse them again.
struct Recent<K, T> {
    kept: Mutex<Vec<(K, Arc<T>)>>,
    /// How much one takes of the budget.
    weight: fn(&T) -> usize,
    budget: usize,
}

/// How many results of a kind are kept parsed.
const RECENT: usize = 3;
/// Room for grey pictures, bytes; the latest is kept however large it is.
const GREY_BYTES: usize = 256 << 20;

impl<K: PartialEq, T> Recent<K, T> {
    fn within(budget: usize, weight: fn(&T) -> usize) -> Self {
        Self {
            kept: Mutex::new(Vec::new()),
            weight,
            budget,
        }
    }

    fn few() -> Self {
        Self::within(RECENT, |_| 1)
    }

    fn get(&self, id: K) -> Option<Arc<T>> {
        let mut kept = self.kept.lock().ok()?;
        let at = kept.iter().position(|(k, _)| *k == id)?;
        // The latest stands last.
        kept[at..].rotate_left(1);
        kept.last().map(|(_, v)| v.clone())
    }

    fn put(&self, id: K, value: Arc<T>) {
        if let Ok(mut kept) = self.kept.lock() {
            kept.retain(|(k, _)| *k != id);
            kept.push((id, value));
            let mut total: usize = kept.iter().map(|(_, v)| (self.weight)(v)).sum();
            while kept.len() > 1 && total > self.budget {
                let (_, least) = kept.remove(0);
                total -= (self.weight)(&least);
            }
        }
    }
}

/// What the server holds.
pub struct App {
    /// How it was started.
    pub config: Config,
    /// The database.
    pub store: Store,
    /// Running jobs.
    pub running: Mutex<HashMap<i64, Arc<JobProgress>>>,
    /// Wakes the worker.
    pub wake: Notify,
    runs: Recent<i64, TrackRun>,
    attempts: Recent<i64, KeptAttempt>,
    pictures: Recent<(i64, i32), Plane>,
    /// Viewing copies.
    pub views: ViewCache,
}

/// So many undistorted plates of a shot are kept, so that undo leads to one that is still there.
const UNDISTORTED_KEPT: usize = 3;

impl App {
    /// Opens the data folder.
    pub async fn open(config: Config) -> Result<Arc<Self>, StoreError> {
        let failed =
            |e: std::io::Error| StoreError::Invalid(format!("the data folder cannot be made: {e}"));
        std::fs::create_dir_all(config.data.join("uploads")).map_err(failed)?;
        let views =
            ViewCache::open(config.data.join("views"), config.view_bytes).map_err(failed)?;
        let store = Store::open(&config.data.join("project.db")).await?;
        Ok(Arc::new(Self {
            config,
            store,
            running: Mutex::new(HashMap::new()),
            wake: Notify::new(),
            runs: Recent::few(),
            attempts: Recent::few(),
            pictures: Recent::within(GREY_BYTES, |plane| std::mem::size_of_val(plane.levels())),
            views,
        }))
    }

    /// Folder of a shot's plate undistorted from these inputs.
    pub fn undistorted(&self, shot: i64, inputs: &str) -> PathBuf {
        let mut hasher = std::hash::DefaultHasher::new();
        inputs.hash(&mut hasher);
        self.config
            .data
            .join("undistorted")
            .join(format!("{shot}-{:016x}", hasher.finish()))
    }

    /// Removes what a shot's plate was undistorted to before, except the last few: each takes as much room
    /// as the plate, and is made again from the same inputs. What cannot be removed stays.
    pub fn clear_undistorted(&self, shot: i64) {
        let begins = format!("{shot}-");
        let Ok(all) = std::fs::read_dir(self.config.data.join("undistorted")) else {
            return;
        };
        let own = all
            .flatten()
            .filter(|entry| entry.file_name().to_string_lossy().starts_with(&begins));
        let mut own: Vec<_> = own
            .filter_map(|e| Some((e.metadata().ok()?.modified().ok()?, e.path())))
            .collect();
        own.sort();
        own.truncate(own.len().saturating_sub(UNDISTORTED_KEPT));
        for (_, folder) in own {
            if let Err(error) = std::fs::remove_dir_all(&folder) {
                tracing::warn!("{} stays: {error}", folder.display());
            }
        }
    }

    /// The grey picture of one frame; lately used ones are kept.
    pub async fn grey(&self, shot: &Shot, frame: i32) -> Result<Arc<Plane>, ApiError> {
        let key = (shot.id, frame);
        if let Some(plane) = self.pictures.get(key) {
            return Ok(plane);
        }
        let sequence = Sequence::find(std::path::Path::new(&shot.folder))?;
        let file = sequence.files.into_iter().find(|(n, _)| n.0 == frame);
        let (_, file) =
            file.ok_or_else(|| ApiError::NotFound(format!("the plate has no frame {frame}")))?;
        let read = tokio::task::spawn_blocking(move || {
            picture::grey(&picture::decode(&file)?).ok_or(MediaError::NoPictures { folder: file })
        });
        let plane = Arc::new(read.await.map_err(|e| ApiError::Failed(e.to_string()))??);
        self.pictures.put(key, plane.clone());
        Ok(plane)
    }

    /// A run of tracks, parsed once.
    pub async fn run(&self, id: i64) -> Result<Arc<TrackRun>, StoreError> {
        if let Some(run) = self.runs.get(id) {
            return Ok(run);
        }
        let run = Arc::new(self.store.track_run(id).await?);
        self.runs.put(id, run.clone());
        Ok(run)
    }

    /// An attempt, parsed once.
    pub async fn attempt(&self, id: i64) -> Result<Arc<KeptAttempt>, StoreError> {
        if let Some(attempt) = self.attempts.get(id) {
            return Ok(attempt);
        }
        let attempt = Arc::new(self.store.attempt(id).await?);
        self.attempts.put(id, attempt.clone());
        Ok(attempt)
    }
}

/// Opens the project, begins background work and listens. Returns the server (to be awaited)
/// and the address it listens on.
pub async fn start(
    config: Config,
) -> Result<(Server, String, Arc<App>), Box<dyn std::error::Error>> {
    let (host, port) = (config.host.clone(), config.port);
    let app = App::open(config).await?;
    crate::intake::open_demo(&app).await?;
    let again = app.store.requeue_interrupted().await?;
    if again > 0 {
        tracing::info!("{again} job(s) begin again after the application had stopped");
    }
    tokio::spawn(work::run(app.clone()));
    let shared = web::Data::from(app.clone());
    let server = HttpServer::new(move || {
        Actix::new()
            .app_data(shared.clone())
            .app_data(
                web::JsonConfig::default()
                    .limit(4 << 20)
                    .error_handler(|e, _| {
                        crate::error::ApiError::Store(StoreError::Invalid(format!(
                            "the request cannot be read: {e}"
                        )))
                        .into()
                    }),
            )
            .wrap(Compress::default())
            .wrap(actix_web::middleware::from_fn(guard::check))
            .configure(api::routes)
            .configure(pages::routes)
    })
    .workers(2)
    .shutdown_timeout(2)
    .bind((host.as_str(), port))?;
    let address = server
        .addrs()
        .first()
        .map(|a| format!("http://{a}"))
        .unwrap_or_default();
    Ok((server.run(), address, app))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::halfway(10.0, 50, 100, Some(10.0))]
    #[case::nearly(9.0, 90, 100, Some(1.0))]
    #[case::nothing_done(10.0, 0, 100, None)]
    #[case::too_soon(0.5, 1, 100, None)]
    #[case::nothing_to_do(10.0, 0, 0, None)]
    fn the_time_left_goes_by_what_was_done(
        #[case] seen_s: f64,
        #[case] done: usize,
        #[case] total: usize,
        #[case] left: Option<f64>,
    ) {
        assert_eq!(left_s(seen_s, done, total), left);
    }
}
