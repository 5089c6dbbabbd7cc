//! What a project survives: other people's edits, undo, deaths, full disks, damaged rows, and the
//! versions of the program that came before.

mod earlier;
mod slips;

use crate::deliveries::NewDelivery;
use crate::jobs::{Class, JobKind, JobState};
use crate::shots::{Damage, PlateFacts};
use crate::{Invalid, ShotState, Store, StoreError};
use parallax_core::guest::{Guest, What};
use parallax_core::spaces::{FrameNumber, PlatePx, TrackId};
use parallax_core::tracks::{Covariance, Sample, Track, TrackKind};
use rstest::rstest;
use serde_json::json;
use std::collections::BTreeMap;
use std::path::Path;

fn facts() -> PlateFacts {
    let facts = json!({
        "pattern": "walk.####.png", "padding": 4, "first": 1, "last": 24, "count": 24,
        "gaps": [], "others": [],
    });
    serde_json::from_value(facts).unwrap()
}

/// Frames between in and out that there are.
#[rstest]
#[case::whole(None, &[], 24)]
#[case::range(Some((5, 8)), &[], 4)]
#[case::range_beyond_the_plate(Some((20, 90)), &[], 5)]
#[case::gaps(None, &[(3, 4), (10, 10)], 21)]
#[case::gaps_within_the_range(Some((4, 12)), &[(3, 4), (10, 10), (20, 22)], 7)]
fn frames_that_are_missing_do_not_count(
    #[case] range: Option<(i32, i32)>,
    #[case] gaps: &[(i32, i32)],
    #[case] expected: usize,
) {
    let facts = PlateFacts {
        gaps: gaps.to_vec(),
        ..facts()
    };
    assert_eq!(facts.count_within(range), expected);
}

pub(crate) async fn with_shot(folder: &Path) -> (Store, i64) {
    let store = Store::open(&folder.join("project.db")).await.unwrap();
    let state = ShotState::new(640, 360);
    let shot = store
        .add_shot("walk", "/plates/walk", &facts(), (640, 360), &state)
        .await
        .unwrap();
    (store, shot)
}

fn with_box(state: &ShotState, name: &str) -> ShotState {
    let size_m = [1.0; 3];
    let stood = Guest::new(name, What::Box { size_m }, Some(TrackId(1)));
    ShotState {
        guests: state.guests.plain().into_iter().chain([stood]).collect(),
        ..state.clone()
    }
}

/// A track of one position.
pub(crate) fn track(id: u32, frame: i32) -> Track {
    let first = Sample {
        frame: FrameNumber(frame),
        px: PlatePx::new(1.0, 2.0),
        covariance: Covariance::isotropic(0.1),
    };
    Track::new(TrackId(id), TrackKind::Auto, vec![first])
}

#[tokio::test]
async fn undo_and_redo_lead_through_all_states() {
    let folder = tempfile::tempdir().unwrap();
    let (store, shot) = with_shot(folder.path()).await;
    let mut states = vec![store.shot(shot).await.unwrap().state];
    for k in 0..6 {
        let name = format!("box {k}");
        states.push(
            store
                .edit(shot, &name, |s| Ok(with_box(s, &name)))
                .await
                .unwrap(),
        );
    }
    let now = async || store.shot(shot).await.unwrap().state;
    for k in (0..6).rev() {
        assert_eq!(store.undo(shot).await.unwrap(), Some(format!("box {k}")));
        assert!(now().await == states[k], "state {k} is another after undo");
    }
    assert_eq!(store.undo(shot).await.unwrap(), None);
    for k in 0..6 {
        assert_eq!(store.redo(shot).await.unwrap(), Some(format!("box {k}")));
        assert!(
            now().await == states[k + 1],
            "state {} is another after redo",
            k + 1
        );
    }
    store.undo(shot).await.unwrap();
    store
        .edit(shot, "another", |s| Ok(with_box(s, "another")))
        .await
        .unwrap();
    assert_eq!(
        store.redo(shot).await.unwrap(),
        None,
        "what was undone is forgotten"
    );
}

/// Two thousand edits of a shot whose whole state is large took 440 MB.
#[tokio::test]
async fn edits_keep_what_differs_and_not_the_whole() {
    let folder = tempfile::tempdir().unwrap();
    let (store, shot) = with_shot(folder.path()).await;
    let large = |s: &ShotState| {
        Ok((0..400).fold(s.clone(), |s, k| {
            with_box(&s, &format!("a box with a name, {k}"))
        }))
    };
    store.edit(shot, "many boxes", large).await.unwrap();
    for k in 0..100 {
        let name = format!("one more, {k}");
        store
            .edit(shot, &name, |s| Ok(with_box(s, &name)))
            .await
            .unwrap();
    }
    let kept: i64 = sqlx::query_scalar(
        "SELECT SUM(LENGTH(change) + LENGTH(before) + LENGTH(after)) FROM edits WHERE label LIKE 'one more%'",
    )
    .fetch_one(&store.pool)
    .await
    .unwrap();
    assert!(kept < 100 * 300, "{kept} bytes for a hundred boxes");
}

/// Ten clients who append to one list lost 84 of 100: each sees a state, and says which.
#[tokio::test]
async fn no_client_overwrites_what_another_did() {
    let folder = tempfile::tempdir().unwrap();
    let (store, shot) = with_shot(folder.path()).await;
    let client = async |client: usize| {
        let mut late = 0;
        for k in 0..10 {
            loop {
                let seen = store.shot(shot).await.unwrap();
                let wanted = with_box(&seen.state, &format!("{client}-{k}")).guests;
                let patch = json!({ "guests": wanted });
                let on = Some(seen.version);
                match store
                    .edit_on(shot, "add a box", on, |s| s.patched(&patch))
                    .await
                {
                    Ok(_) => break,
                    Err(StoreError::Late { since }) => {
                        assert!(since.iter().all(|label| label == "add a box"), "{since:?}");
                        late += 1;
                    }
                    Err(error) => panic!("{error}"),
                }
            }
        }
        late
    };
    futures_util::future::join_all((0..10).map(client)).await;
    let mut names: Vec<String> = store
        .shot(shot)
        .await
        .unwrap()
        .state
        .guests
        .iter()
        .map(|b| b.name.clone())
        .collect();
    names.sort();
    names.dedup();
    assert_eq!(names.len(), 100);
}

#[tokio::test]
async fn a_late_edit_of_something_else_is_no_conflict() {
    let folder = tempfile::tempdir().unwrap();
    let (store, shot) = with_shot(folder.path()).await;
    let seen = store.shot(shot).await.unwrap().version;
    let grid = json!({ "grid_m": 2.0 });
    store
        .edit(shot, "set the grid", |s| s.patched(&grid))
        .await
        .unwrap();
    let rate = json!({ "rate": "25" });
    store
        .edit_on(shot, "state the rate", Some(seen), |s| s.patched(&rate))
        .await
        .unwrap();
    let other = json!({ "grid_m": 3.0 });
    let late = store
        .edit_on(shot, "set the grid", Some(seen), |s| s.patched(&other))
        .await;
    let Err(StoreError::Late { since }) = late else {
        panic!("{late:?}")
    };
    assert_eq!(since, ["set the grid"]);
    // What was taken back is a change as well.
    let seen = store.shot(shot).await.unwrap().version;
    store.undo(shot).await.unwrap();
    let again = json!({ "rate": "30" });
    let late = store
        .edit_on(shot, "state the rate", Some(seen), |s| s.patched(&again))
        .await;
    assert!(matches!(late, Err(StoreError::Late { .. })), "{late:?}");
}

#[tokio::test]
async fn the_same_work_is_queued_once_and_short_work_does_not_wait() {
    let folder = tempfile::tempdir().unwrap();
    let (store, shot) = with_shot(folder.path()).await;
    let all = (0..20).map(|_| store.add_job(shot, JobKind::Solve));
    let added = futures_util::future::join_all(all).await;
    assert_eq!(
        added
            .into_iter()
            .filter(|job| job.as_ref().unwrap().is_some())
            .count(),
        1
    );
    store.add_job(shot, JobKind::Hand).await.unwrap().unwrap();
    let long = store.take_job(Class::Long).await.unwrap().unwrap();
    let short = store.take_job(Class::Short).await.unwrap().unwrap();
    assert_eq!((long.kind, short.kind), (JobKind::Solve, JobKind::Hand));
    assert!(
        store.add_job(shot, JobKind::Solve).await.unwrap().is_none(),
        "it is being done"
    );
    // What follows a change is queued behind what runs, and once.
    store.add_job_after(shot, JobKind::Hand).await.unwrap();
    store.add_job_after(shot, JobKind::Hand).await.unwrap();
    assert!(store.take_job(Class::Short).await.unwrap().is_some());
    assert!(store.take_job(Class::Short).await.unwrap().is_none());
}

/// A job that takes the process down with it did so at every start.
#[tokio::test]
async fn a_job_fails_at_the_second_death() {
    let folder = tempfile::tempdir().unwrap();
    let (store, shot) = with_shot(folder.path()).await;
    let job = store.add_job(shot, JobKind::Ingest).await.unwrap().unwrap();
    for death in 1..=2 {
        assert_eq!(
            store.take_job(Class::Long).await.unwrap().unwrap().id,
            job,
            "{death}"
        );
        let again = store.requeue_interrupted().await.unwrap();
        assert_eq!(again, u64::from(death == 1));
    }
    assert!(store.take_job(Class::Long).await.unwrap().is_none());
    let failed = &store.jobs(shot).await.unwrap()[0];
    assert_eq!(failed.state, JobState::Failed);
    assert!(failed.message.contains("died twice"), "{}", failed.message);
    // An end in good order is no death.
    let job = store.add_job(shot, JobKind::Track).await.unwrap().unwrap();
    for _ in 0..5 {
        assert_eq!(store.take_job(Class::Long).await.unwrap().unwrap().id, job);
        store.put_back(job).await.unwrap();
    }
}

/// After a full disk up to 43 % of edits failed until the next start.
#[tokio::test]
async fn a_full_disk_spoils_no_connection() {
    let folder = tempfile::tempdir().unwrap();
    let (store, shot) = with_shot(folder.path()).await;
    // All connections are held but one, which has no room.
    let mut held = Vec::new();
    for _ in 0..3 {
        held.push(store.pool.acquire().await.unwrap());
    }
    let mut full = store.pool.acquire().await.unwrap();
    let pages: i64 = sqlx::query_scalar("PRAGMA page_count")
        .fetch_one(&mut *full)
        .await
        .unwrap();
    let limit = format!("PRAGMA max_page_count = {pages}");
    sqlx::query(sqlx::AssertSqlSafe(limit))
        .execute(&mut *full)
        .await
        .unwrap();
    drop(full);
    let name = "x".repeat(300_000);
    let refused = store
        .edit(shot, "a large box", |s| Ok(with_box(s, &name)))
        .await;
    assert!(refused.is_err(), "the disk was full");
    let boxes = store.shot(shot).await.unwrap().state.guests.len();
    assert_eq!(boxes, 0, "what was refused left nothing behind");
    // Whoever comes next gets another connection.
    for k in 0..20 {
        store
            .edit(shot, "a box", |s| Ok(with_box(s, &k.to_string())))
            .await
            .unwrap();
    }
}

/// How many boxes a shot shows, and whether it is damaged.
async fn seen_boxes(store: &Store, shot: i64) -> (usize, bool) {
    let shot = store.shot(shot).await.unwrap();
    (shot.state.guests.len(), shot.damage.is_some())
}

/// A shot whose state cannot be read made all shots unreadable.
#[rstest]
#[case::nulls("json_set(state, '$.grid_m', null)", true)]
#[case::a_list("'[1, 2, 3]'", false)]
#[case::no_json("'{\"rate\": '", false)]
#[tokio::test]
async fn a_damaged_shot_opens_and_can_be_mended_or_deleted(
    #[case] damage: &str,
    #[case] is_partly_read: bool,
) {
    let folder = tempfile::tempdir().unwrap();
    let (store, shot) = with_shot(folder.path()).await;
    store
        .edit(shot, "add a box", |s| Ok(with_box(s, "a")))
        .await
        .unwrap();
    let spoil = format!("UPDATE shots SET state = {damage}");
    sqlx::query(sqlx::AssertSqlSafe(spoil))
        .execute(&store.pool)
        .await
        .unwrap();
    let seen = &store.shots(false).await.unwrap()[0];
    assert_eq!(
        (seen.damage, seen.name.as_str()),
        (Some(Damage::State), "walk")
    );
    let refused = store
        .edit(shot, "add a box", |s| Ok(with_box(s, "b")))
        .await;
    assert!(
        refused.is_err(),
        "an edit of what cannot be read would lose it"
    );
    let boxes = usize::from(is_partly_read);
    assert_eq!(seen_boxes(&store, shot).await, (boxes, true));
    store.mend(shot).await.unwrap();
    assert_eq!(seen_boxes(&store, shot).await, (boxes, false));
    store
        .edit(shot, "add a box", |s| Ok(with_box(s, "b")))
        .await
        .unwrap();
    // What could not be read stays in the project: undo never loses it.
    store.undo(shot).await.unwrap();
    drop(store.undo(shot).await);
    let kept: i64 = sqlx::query_scalar("SELECT COUNT(*) FROM edits WHERE before <> ''")
        .fetch_one(&store.pool)
        .await
        .unwrap();
    assert_eq!(kept, 1);
    store.bin_shot(shot, Some(1)).await.unwrap();
    store.delete_shot(shot).await.unwrap();
    assert!(store.shots(true).await.unwrap().is_empty());
}

#[tokio::test]
async fn shots_are_renamed_binned_brought_back_and_deleted() {
    let folder = tempfile::tempdir().unwrap();
    let (store, shot) = with_shot(folder.path()).await;
    store.rename_shot(shot, " terrace ").await.unwrap();
    assert_eq!(store.shot(shot).await.unwrap().name, "terrace");
    for name in ["", "a\nb", &"x".repeat(200)] {
        let error = store.rename_shot(shot, name).await.unwrap_err();
        assert!(
            matches!(error, StoreError::Invalid(Invalid::Name { .. })),
            "{error}"
        );
    }
    assert!(
        store.delete_shot(shot).await.is_err(),
        "only what is in the bin is deleted"
    );
    store.add_job(shot, JobKind::Track).await.unwrap();
    store.bin_shot(shot, Some(7)).await.unwrap();
    assert!(store.shots(false).await.unwrap().is_empty());
    assert!(
        store.take_job(Class::Long).await.unwrap().is_none(),
        "work waits in the bin"
    );
    store.bin_shot(shot, None).await.unwrap();
    assert_eq!(store.shots(false).await.unwrap().len(), 1);
    assert!(store.take_job(Class::Long).await.unwrap().is_some());
    store.bin_shot(shot, Some(7)).await.unwrap();
    store.delete_shot(shot).await.unwrap();
    assert!(matches!(
        store.shot(shot).await,
        Err(StoreError::Missing { .. })
    ));
    let left: i64 = sqlx::query_scalar("SELECT COUNT(*) FROM jobs")
        .fetch_one(&store.pool)
        .await
        .unwrap();
    assert_eq!(left, 0);
}

/// 723 of 6,000 numbers changed when they were kept, so that judging anew made a new result.
#[tokio::test]
async fn tracks_read_back_bit_by_bit() {
    let folder = tempfile::tempdir().unwrap();
    let (store, shot) = with_shot(folder.path()).await;
    let mut random = 88_172_645_463_325_252u64;
    let mut number = || {
        random ^= random << 13;
        random ^= random >> 7;
        random ^= random << 17;
        640.0 * (random >> 11) as f64 / (1u64 << 53) as f64
    };
    let samples = (1..=1200).map(|frame| Sample {
        frame: FrameNumber(frame),
        px: PlatePx::new(number(), number()),
        covariance: Covariance {
            xx: number() / 1e3,
            xy: number() / 1e5,
            yy: number() / 1e3,
        },
    });
    let tracks = [Track::new(TrackId(1), TrackKind::Auto, samples.collect())];
    let run = store
        .keep_tracks(shot, "inputs", &tracks, &[])
        .await
        .unwrap();
    assert!(store.track_run(run).await.unwrap().tracks == tracks);
}

/// A first delivery of what it is made from.
pub(crate) fn new_delivery(inputs: &str) -> NewDelivery<'_> {
    NewDelivery {
        recipe: 1,
        version: 1,
        name: "walk",
        inputs,
        receipt: "{}",
        package: b"package",
        camera: "{}",
        changed: "",
        folder: "",
        made: "",
        plate: "",
        plate_by: 0,
    }
}

/// Versions of a recipe go on over undo, and the state names the latest delivery by each.
#[tokio::test]
async fn versions_are_never_given_twice() {
    let folder = tempfile::tempdir().unwrap();
    let (store, shot) = with_shot(folder.path()).await;
    let keep = async |recipe: u32, version: i64| {
        let new = NewDelivery {
            recipe,
            version,
            ..new_delivery("")
        };
        store.keep_delivery(shot, &new).await.unwrap()
    };
    let (one, other) = (keep(1, 1).await, keep(2, 1).await);
    let second = keep(1, 2).await;
    let state = store.shot(shot).await.unwrap().state;
    assert_eq!(state.delivered, BTreeMap::from([(1, second), (2, other)]));
    let kept = store.delivered(shot, &state).await.unwrap();
    assert_eq!((kept[&1].version, kept[&2].version), (2, 1));
    store.undo(shot).await.unwrap();
    let state = store.shot(shot).await.unwrap().state;
    assert_eq!(state.delivered[&1], one);
    assert_eq!(store.last_version(shot, 1).await.unwrap(), 2);
    assert_eq!(store.last_version(shot, 7).await.unwrap(), 0);
}

/// Work about one recipe does not keep work about another from being queued.
#[tokio::test]
async fn deliveries_by_two_recipes_are_two_jobs() {
    let folder = tempfile::tempdir().unwrap();
    let (store, shot) = with_shot(folder.path()).await;
    let add = async |about| {
        store
            .add_job_about(shot, JobKind::Deliver, about)
            .await
            .unwrap()
    };
    assert!(add(1).await.is_some() && add(2).await.is_some());
    assert!(add(1).await.is_none(), "the same waits already");
    let jobs = store.jobs(shot).await.unwrap();
    assert_eq!(jobs.iter().map(|j| j.about).collect::<Vec<_>>(), [2, 1]);
}

/// A delivery waits for the undistorted plate that is made for its recipe, and for no other.
#[tokio::test]
async fn a_delivery_waits_for_its_plate() {
    let folder = tempfile::tempdir().unwrap();
    let (store, shot) = with_shot(folder.path()).await;
    let add = async |kind, about| {
        store
            .add_job_about(shot, kind, about)
            .await
            .unwrap()
            .unwrap()
    };
    let plate = add(JobKind::Undistort, 2).await;
    let waits = add(JobKind::Deliver, 2).await;
    let other = add(JobKind::Deliver, 3).await;
    let take = async |class| store.take_job(class).await.unwrap().map(|job| job.id);
    assert_eq!(take(Class::Short).await, Some(other));
    assert_eq!(take(Class::Short).await, None);
    assert_eq!(take(Class::Long).await, Some(plate));
    assert_eq!(take(Class::Short).await, None, "it is at work");
    store.end_job(plate, JobState::Done, "").await.unwrap();
    assert_eq!(take(Class::Short).await, Some(waits));
}
