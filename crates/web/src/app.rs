//! What the server holds.

use crate::error::{Absent, ApiError, Refused};
use crate::jobs::{JobProgress, JobRow, JobStanding};
use crate::movies;
use crate::recent::Recent;
use crate::underway;
use crate::underway::OnDisk;
use crate::used::Used;
use crate::view_cache::ViewCache;
use parallax_core::guest::Mesh;
use parallax_core::orient::Orientation;
use parallax_core::render::Traced;
use parallax_core::slip::Joint;
use parallax_core::solve::information::Information;
use parallax_core::spaces::FrameNumber;
use parallax_core::track::picture::Plane;
use parallax_formats::lens_json::LensFile;
use parallax_matching::delivering::Bodies;
use parallax_media::pin::Differences;
use parallax_media::{MediaError, Sequence, picture};
use parallax_store::attempts::KeptAttempt;
use parallax_store::jobs::{Job, JobState};
use parallax_store::shots::Shot;
use parallax_store::track_runs::TrackRun;
use parallax_store::{Store, StoreError};
use serde_json::Value;
use sha2::{Digest, Sha256};
use std::collections::HashMap;
use std::fs::{DirEntry, File, TryLockError};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};
use tokio::sync::Notify;

/// Frames of a plate with their files.
pub type Files = Vec<(FrameNumber, PathBuf)>;

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
    /// Models that can be put into plates when the demo is opened.
    pub models: Vec<(String, Mesh)>,
    /// Room for viewing copies on disk, bytes.
    pub view_bytes: u64,
}

/// Room for viewing copies unless told otherwise: some eight thousand frames of 1920x1080.
pub const USUAL_VIEW_BYTES: u64 = 4 << 30;

/// Room for surfaces of guests that were used lately, bytes.
const SURFACE_BYTES: usize = 512 << 20;

/// Room for grey pictures, bytes; the latest is kept however large it is.
const GREY_BYTES: usize = 256 << 20;

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
    /// Where worlds lie, by attempt and what is stated, with what says how certain that is.
    pub orientations: Recent<(i64, String), Orientation>,
    /// Normal equations of attempts, by attempt and tracks; `None` where the tracks do not determine it.
    pub informations: Recent<(i64, String), Option<Information>>,
    /// What they say of cameras and lens together, for slip.
    pub joints: Recent<(i64, String), Option<Joint>>,
    /// Things that move by themselves, by attempt and all else that they are known by.
    pub moving: Recent<(i64, String), Bodies>,
    /// Surfaces of guests, by what these are.
    pub surfaces: Recent<String, Traced>,
    pictures: Recent<(i64, i32), Plane>,
    plates: Recent<i64, Files>,
    differences: Recent<i64, (Instant, Differences)>,
    seen: Recent<(i64, String), Seen>,
    /// Tracks as they are used.
    pub used: Recent<String, Used>,
    /// What pages have of the tracks of shots: of each its positions and its figures, as marks.
    pub listed: Recent<(i64, String), HashMap<u32, [u64; 2]>>,
    /// Viewing copies.
    pub views: ViewCache,
    /// Held as long as this process works on the data folder.
    lock: Mutex<Option<File>>,
}

/// A view of a shot that a page has.
struct Seen {
    view: Arc<Value>,
    bytes: usize,
}

/// So many lists of tracks that pages have are remembered.
const LISTS: usize = 16;
/// Room for views that pages have, bytes of their text; in memory they take a few times as much.
const SEEN_BYTES: usize = 8 << 20;

/// So many undistorted plates of a shot are kept, so that undo leads to one that is still there.
const UNDISTORTED_KEPT: usize = 3;

/// A plate's folder is looked at again after this.
const LOOK_AGAIN: Duration = Duration::from_secs(3);

/// Worlds that are remembered.
const ORIENTATIONS: usize = 16;

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
            orientations: Recent::within(ORIENTATIONS, |_| 1),
            informations: Recent::few(),
            joints: Recent::few(),
            moving: Recent::few(),
            surfaces: Recent::within(SURFACE_BYTES, Traced::bytes),
            pictures: Recent::within(GREY_BYTES, |plane| std::mem::size_of_val(plane.levels())),
            plates: Recent::within(PLATES, |_| 1),
            differences: Recent::within(PLATES, |_| 1),
            used: Recent::few(),
            listed: Recent::within(LISTS, |_| 1),
            seen: Recent::within(SEEN_BYTES, |seen| seen.bytes),
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

    /// Jobs of a shot that wait or run.
    pub async fn active_jobs(&self, shot: i64) -> Result<Vec<Job>, StoreError> {
        let mut jobs = self.store.jobs(shot).await?;
        jobs.retain(|j| matches!(j.state, JobState::Queued | JobState::Running));
        Ok(jobs)
    }

    /// A job with how far it is.
    pub fn job_row(&self, job: &Job) -> JobRow {
        let progress = self.running().get(&job.id).cloned();
        let standing = progress.map_or_else(JobStanding::default, |p| p.now());
        JobRow::of(job, standing)
    }

    /// Remembers a view of a shot; its tag.
    pub fn keep_view(&self, shot: i64, view: &Arc<Value>) -> String {
        let text = view.to_string();
        let tag = fingerprint(&text)[..16].to_owned();
        let (view, bytes) = (view.clone(), text.len());
        self.seen
            .put((shot, tag.clone()), Arc::new(Seen { view, bytes }));
        tag
    }

    /// A view of a shot by its tag, while it is remembered.
    pub fn view_of(&self, shot: i64, tag: &str) -> Option<Arc<Value>> {
        Some(self.seen.get((shot, tag.to_owned()))?.view.clone())
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
        self.remove_undistorted(shot.id, 0, &[]);
        movies::forget(&self.config.data, shot.id);
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
    /// as the plate, and is made again from the same inputs. Those that were delivered stay, and what cannot be
    /// removed.
    pub fn clear_undistorted(&self, shot: i64, delivered: &[String]) {
        self.remove_undistorted(shot, UNDISTORTED_KEPT, delivered);
    }

    fn remove_undistorted(&self, shot: i64, kept: usize, delivered: &[String]) {
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
        own.retain(|(_, folder)| !delivered.iter().any(|d| Path::new(d) == folder));
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
pub fn fingerprint(inputs: &str) -> String {
    Sha256::digest(inputs.as_bytes())
        .iter()
        .map(|b| format!("{b:02x}"))
        .collect()
}
