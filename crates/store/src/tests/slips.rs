//! Measured slip: the last word under each place of an attempt, and gone with it.

use super::with_shot;
use crate::slips::MeasuredSlip;
use crate::{Store, StoreError};

async fn attempt_of(store: &Store, shot: i64) -> i64 {
    let run =
        "INSERT INTO track_runs (shot_id, inputs, tracks, movers) VALUES (?, 'x', '[]', '[]')";
    let run = sqlx::query(run).bind(shot).execute(&store.pool).await;
    let attempt = "INSERT INTO attempts (shot_id, run_id, label, inputs, rms_px, result) VALUES (?, ?, 'a', 'x', 0.1, '{}')";
    let attempt = sqlx::query(attempt)
        .bind(shot)
        .bind(run.unwrap().last_insert_rowid())
        .execute(&store.pool)
        .await;
    attempt.unwrap().last_insert_rowid()
}

fn slip(track: Option<u32>, x: f64, worst: Option<(i32, i32, f64)>) -> MeasuredSlip {
    MeasuredSlip {
        track,
        place: [x, 0.1 + 0.2, -1e-300],
        crops: 40,
        rms_px: 0.1234567890123456,
        worst,
    }
}

#[tokio::test]
async fn the_last_word_under_each_place_is_kept() {
    let folder = tempfile::tempdir().unwrap();
    let (store, shot) = with_shot(folder.path()).await;
    let (first, second) = (
        attempt_of(&store, shot).await,
        attempt_of(&store, shot).await,
    );
    let worst = Some((1046, 1052, 0.4));
    store
        .keep_slip(first, &slip(Some(7), 1.0, None))
        .await
        .unwrap();
    store
        .keep_slip(first, &slip(None, 2.0, None))
        .await
        .unwrap();
    let last = slip(Some(7), 1.0, worst);
    store.keep_slip(first, &last).await.unwrap();
    store
        .keep_slip(second, &slip(Some(7), 1.0, None))
        .await
        .unwrap();

    let kept: Vec<_> = store.slips(first).await.unwrap();
    let plain: Vec<MeasuredSlip> = kept.iter().map(|(_, s)| s.clone()).collect();
    assert_eq!(
        plain,
        [last, slip(None, 2.0, None)],
        "bit by bit, the last first"
    );
    // Of another attempt nothing can be forgotten by its number.
    let (id, _) = kept[0];
    let missing = store.forget_slip(second, id).await.unwrap_err();
    assert!(matches!(missing, StoreError::Missing { .. }), "{missing}");
    store.forget_slip(first, id).await.unwrap();
    assert_eq!(store.slips(first).await.unwrap().len(), 1);
    assert_eq!(store.slips(second).await.unwrap().len(), 1);

    for k in 0..70 {
        store
            .keep_slip(second, &slip(None, f64::from(k), None))
            .await
            .unwrap();
    }
    let many = store.slips(second).await.unwrap();
    assert_eq!((many.len(), many[0].1.place[0]), (60, 69.0));
    sqlx::query("DELETE FROM attempts WHERE id = ?")
        .bind(second)
        .execute(&store.pool)
        .await
        .unwrap();
    assert_eq!(store.slips(second).await.unwrap(), []);
}
