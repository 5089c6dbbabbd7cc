//! What the server holds, and how it starts.

use crate::error::{Absent, ApiError, Refused};
use crate::flow::Files;
use crate::underway::{self, OnDisk};
use crate::view_cache::ViewCache;
use crate::{api, guard, pages, work};
use actix_web::{App as Actix, HttpServer, ResponseError, dev::Server, middleware::Compress, web};
use parallax_core::progress::Progress;
use parallax_core::spaces::FrameNumber;
use parallax_core::track::picture::Plane;
use parallax_formats::lens_json::LensFile;
use parallax_media::pin::Differences;
use parallax_media::{MediaError, Sequence, picture};
use parallax_store::attempts::KeptAttempt;
use parallax_store::shots::Shot;
use parallax_store::track_runs::TrackRun;
use parallax_store::{Store, StoreError};
use sha2::{Digest, Sha256};
use std::collections::HashMap;
use std::fs::{DirEntry, File, TryLockError};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};
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

    /// A panic elsewhere while this was held leaves a list that is at worst incomplete.
    fn kept(&self) -> MutexGuard<'_, Vec<(K, Arc<T>)>> {
        self.kept.lock().unwrap_or_else(PoisonError::into_inner)
    }

    fn get(&self, id: K) -> Option<Arc<T>> {
        let mut kept = self.kept();
        let at = kept.iter().position(|(k, _)| *k == id)?;
        // The latest stands last.
        kept[at..].rotate_left(1);
        kept.last().map(|(_, v)| v.clone())
    }

    fn put(&self, id: K, value: Arc<T>) {
        let mut kept = self.kept();
        kept.retain(|(k, _)| *k != id);
        kept.push((id, value));
        let mut total: usize = kept.iter().map(|(_, v)| (self.weight)(v)).sum();
        while kept.len() > 1 && total > self.budget {
            let (_, least) = kept.remove(0);
            total -= (self.weight)(&least);
        }
    }

    fn forget(&self, which: impl Fn(&K) -> bool) {
        self.kept().retain(|(k, _)| !which(k));
    }
}

/// What the server holds.
pub struct App {
    /// How it was started.
    pub config: Config,
    /// The database.
    pub store: Store,
    running: Mutex<HashMap<i64, Arc<JobProgress>>>,
    ending: AtomicBool,
    /// Wakes the workers.
    pub wake: Notify,
    runs: Recent<i64, TrackRun>,
    attempts: Recent<i64, KeptAttempt>,
    pictures: Recent<(i64, i32), Plane>,
    plates: Recent<i64, Files>,
    differences: Recent<i64, (Instant, Differences)>,
    /// Viewing copies.
    pub views: ViewCache,
    /// Held as long as this process works on the data folder.
    lock: Mutex<Option<File>>,
}

/// So many undistorted plates of a shot are kept, so that undo leads to one that is still there.
const UNDISTORTED_KEPT: usize = 3;
/// A plate's folder is looked at again after this.
const LOOK_AGAIN: Duration = Duration::from_secs(3);
/// Plates whose lists of files are kept in memory.
const PLATES: usize = 16;

/// Takes the data folder for this process alone.
fn locked(folder: &Path) -> Result<File, StoreError> {
    let failed = |source| StoreError::Folder {
        folder: folder.to_owned(),
        source,
    };
    std::fs::create_dir_all(folder).map_err(failed)?;
    let file = File::options()
        .create(true)
        .truncate(false)
        .write(true)
        .open(folder.join("in-use"))
        .map_err(failed)?;
    match file.try_lock() {
        Ok(()) => Ok(file),
        Err(TryLockError::WouldBlock) => Err(StoreError::InUse {
            folder: folder.to_owned(),
        }),
        Err(TryLockError::Error(source)) => Err(failed(source)),
    }
}

impl App {
    /// Opens the data folder; refused while another process works on it.
    pub async fn open(config: Config) -> Result<Arc<Self>, StoreError> {
        let lock = locked(&config.data)?;
        let failed = |source| StoreError::Folder {
            folder: config.data.clone(),
            source,
        };
        std::fs::create_dir_all(config.data.join("uploads")).map_err(failed)?;
        let views =
            ViewCache::open(config.data.join("views"), config.view_bytes).map_err(failed)?;
        let store = Store::open(&config.data.join("project.db")).await?;
        let app = Arc::new(Self {
            config,
            store,
            running: Mutex::new(HashMap::new()),
            ending: AtomicBool::new(false),
            wake: Notify::new(),
            runs: Recent::few(),
            attempts: Recent::few(),
            pictures: Recent::within(GREY_BYTES, |plane| std::mem::size_of_val(plane.levels())),
            plates: Recent::within(PLATES, |_| 1),
            differences: Recent::within(PLATES, |_| 1),
            views,
            lock: Mutex::new(Some(lock)),
        });
        app.clear_orphans().await?;
        Ok(app)
    }

    /// Jobs that are being done.
    pub fn running(&self) -> MutexGuard<'_, HashMap<i64, Arc<JobProgress>>> {
        self.running.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Stops all work in good order: it goes on when the application is started again.
    pub fn end(&self) {
        self.ending.store(true, Ordering::SeqCst);
        self.running()
            .values()
            .for_each(|progress| progress.cancel());
    }

    /// Waits until all work has stopped, or for as long as `most`, and lets go of the data folder.
    pub async fn ended(&self, most: Duration) {
        let begun = Instant::now();
        while !self.running().is_empty() && begun.elapsed() < most {
            tokio::time::sleep(Duration::from_millis(20)).await;
        }
        // Another process may work on the folder from here on.
        self.lock
            .lock()
            .unwrap_or_else(PoisonError::into_inner)
            .take();
    }

    /// Whether the application is ending.
    pub fn is_ending(&self) -> bool {
        self.ending.load(Ordering::SeqCst)
    }

    /// The folder that links of a plate may not lead out of: the allowed one, for plates in it.
    pub fn allowed_root(&self, folder: &Path) -> Option<PathBuf> {
        let root = self.config.plates.as_ref()?.canonicalize().ok()?;
        folder
            .canonicalize()
            .is_ok_and(|f| f.starts_with(&root))
            .then_some(root)
    }

    /// Removes uploads that no shot lies in: of drops that were broken off by a death.
    async fn clear_orphans(&self) -> Result<(), StoreError> {
        let used: Vec<PathBuf> = self
            .store
            .folders()
            .await?
            .into_iter()
            .map(PathBuf::from)
            .collect();
        let uploads = self.config.data.join("uploads");
        for entry in std::fs::read_dir(&uploads).into_iter().flatten().flatten() {
            let folder = entry.path();
            if !used.iter().any(|shot| shot.starts_with(&folder)) {
                clear(&folder);
            }
        }
        Ok(())
    }

    /// Deletes a shot from the bin with all that was made of it; plates that were picked stay.
    pub async fn delete_shot(&self, shot: &Shot) -> Result<(), ApiError> {
        if shot.binned.is_none() {
            return Err(Refused::NotInBin.into());
        }
        self.store.delete_shot(shot.id).await?;
        self.forget_plate(shot.id);
        let uploads = self.config.data.join("uploads");
        if let Ok(below) = Path::new(&shot.folder).strip_prefix(&uploads)
            && let Some(first) = below.components().next()
        {
            clear(&uploads.join(first));
        }
        self.views.forget(shot.id);
        underway::forget(&self.config.data, shot.id);
        self.remove_undistorted(shot.id, 0);
        Ok(())
    }

    /// Where a kind of work on a shot leaves what it needs to go on, for these inputs.
    pub(crate) fn underway(&self, shot: i64, kind: &str, inputs: &str) -> OnDisk {
        OnDisk::new(&self.config.data, shot, kind, fingerprint(inputs))
    }

    /// Folder of a shot's plate undistorted from these inputs.
    pub fn undistorted(&self, shot: i64, inputs: &str) -> PathBuf {
        let name = format!("{shot}-{}", &fingerprint(inputs)[..16]);
        self.config.data.join("undistorted").join(name)
    }

    /// Removes what a shot's plate was undistorted to before, except the last few: each takes as much room
    /// as the plate, and is made again from the same inputs. What cannot be removed stays.
    pub fn clear_undistorted(&self, shot: i64) {
        self.remove_undistorted(shot, UNDISTORTED_KEPT);
    }

    fn remove_undistorted(&self, shot: i64, kept: usize) {
        let begins = format!("{shot}-");
        let Ok(all) = std::fs::read_dir(self.config.data.join("undistorted")) else {
            return;
        };
        let is_own = |e: &DirEntry| e.file_name().to_string_lossy().starts_with(&begins);
        let mut own: Vec<_> = all
            .flatten()
            .filter(is_own)
            .filter_map(|e| Some((e.metadata().ok()?.modified().ok()?, e.path())))
            .collect();
        own.sort();
        own.truncate(own.len().saturating_sub(kept));
        own.iter().for_each(|(_, folder)| clear(folder));
    }

    /// The files of a shot's plate: those that it is pinned to, or what lies in the folder of a
    /// shot of before plates were pinned.
    pub async fn files(&self, shot: &Shot) -> Result<Arc<Files>, ApiError> {
        if let Some(files) = self.plates.get(shot.id) {
            return Ok(files);
        }
        let folder = PathBuf::from(&shot.folder);
        let files = match self.store.pin(shot.id).await? {
            Some(pin) => pin.paths(&folder),
            None => {
                tokio::task::spawn_blocking(move || Sequence::find(&folder))
                    .await??
                    .files
            }
        };
        let files = Arc::new(files);
        // A folder that is not pinned may change.
        if shot.plate.pinned.is_some() {
            self.plates.put(shot.id, files.clone());
        }
        Ok(files)
    }

    /// The file of one frame.
    pub async fn file_of(&self, shot: &Shot, frame: FrameNumber) -> Result<PathBuf, ApiError> {
        let files = self.files(shot).await?;
        let at = files.binary_search_by_key(&frame, |(f, _)| *f);
        Ok(files[at.map_err(|_| Absent::Frame(frame.0))?].1.clone())
    }

    /// In what a plate's folder differs from what was pinned, looked at every few seconds at most.
    pub async fn differences(&self, shot: &Shot) -> Result<Differences, ApiError> {
        if let Some(known) = self.differences.get(shot.id)
            && known.0.elapsed() < LOOK_AGAIN
        {
            return Ok(known.1.clone());
        }
        let Some(pin) = self.store.pin(shot.id).await? else {
            return Ok(Differences::default());
        };
        let folder = PathBuf::from(&shot.folder);
        let found = tokio::task::spawn_blocking(move || pin.differences(&folder)).await?;
        self.differences
            .put(shot.id, Arc::new((Instant::now(), found.clone())));
        Ok(found)
    }

    /// Forgets what is known of a plate's files and pictures.
    pub fn forget_plate(&self, shot: i64) {
        self.plates.forget(|id| *id == shot);
        self.differences.forget(|id| *id == shot);
        self.pictures.forget(|(id, _)| *id == shot);
    }

    /// The grey picture of one frame; lately used ones are kept.
    pub async fn grey(&self, shot: &Shot, frame: i32) -> Result<Arc<Plane>, ApiError> {
        let key = (shot.id, frame);
        if let Some(plane) = self.pictures.get(key) {
            return Ok(plane);
        }
        let file = self.file_of(shot, FrameNumber(frame)).await?;
        let read = tokio::task::spawn_blocking(move || {
            picture::grey(&picture::decode(&file)?).ok_or(MediaError::NoPictures { folder: file })
        });
        let plane = Arc::new(read.await??);
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

/// Removes a folder; what cannot be removed stays and is said.
fn clear(folder: &Path) {
    if let Err(error) = std::fs::remove_dir_all(folder) {
        tracing::warn!("{} stays: {error}", folder.display());
    }
}

/// Names what is kept on disk by all that it was made from: the same at any time, on any machine.
fn fingerprint(inputs: &str) -> String {
    Sha256::digest(inputs.as_bytes())
        .iter()
        .map(|b| format!("{b:02x}"))
        .collect()
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
    work::begin(&app);
    let shared = web::Data::from(app.clone());
    let unreadable = |what: &'static str| ApiError::Unreadable { what };
    let server = HttpServer::new(move || {
        Actix::new()
            .app_data(shared.clone())
            .app_data(
                web::JsonConfig::default()
                    .limit(4 << 20)
                    .error_handler(move |_, _| unreadable("the body").into()),
            )
            .app_data(
                web::PathConfig::default().error_handler(move |_, _| unreadable("the path").into()),
            )
            .app_data(
                web::QueryConfig::default()
                    .error_handler(move |_, _| unreadable("the query").into()),
            )
            .wrap(Compress::default())
            .wrap(actix_web::middleware::from_fn(guard::check))
            .configure(api::routes)
            .configure(pages::routes)
            .default_service(web::to(|| async {
                ApiError::from(Absent::Address).error_response()
            }))
    })
    .workers(2)
    .shutdown_timeout(1)
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
