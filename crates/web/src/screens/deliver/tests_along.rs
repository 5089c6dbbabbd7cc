//! What goes along with a camera: the set, and the undistorted plate, made first and handed on with its proof.

use crate::running::{ground_of, made, opened, small_plate, solved_from_truth, text_in};
use parallax_formats::delivery::package::names_zipped;
use serde_json::{Value, json};
use std::path::Path;

/// How many jobs of a kind there were.
fn jobs(view: &Value, kind: &str) -> usize {
    let all = view["jobs"].as_array().unwrap();
    all.iter().filter(|j| j["kind"] == kind).count()
}

/// Names of pictures in a list.
fn pictures(names: impl IntoIterator<Item = String>) -> Vec<String> {
    let mut all: Vec<String> = names.into_iter().filter(|n| n.ends_with(".png")).collect();
    all.sort();
    all
}

fn listed(folder: &Path) -> Vec<String> {
    let all = std::fs::read_dir(folder).unwrap().flatten();
    pictures(all.map(|e| e.file_name().to_string_lossy().into_owned()))
}

#[actix_web::test]
async fn the_set_and_the_undistorted_plate_go_along() {
    let (data, root) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
    small_plate(root.path(), 12);
    let (server, shot) = opened(data.path(), root.path()).await;
    let (points, view) = solved_from_truth(&server, shot, 12).await;
    assert!(view["state"]["attempt"].is_i64());
    let add = json!({ "add": [{
        "name": "all", "formats": ["usd", "obj"], "guests": true, "set": true, "bodies": true, "undistorted": true,
        "landmarks": "all", "folder": "out", "first_frame": 501,
    }] });
    assert_eq!(server.things(shot, "recipes", add).await.0, 200);

    // Without a lens that bends there is none, which is said; nothing is made for it.
    let view = server.deliver(shot, "all").await;
    assert_eq!(view["jobs"][0]["state"], "done", "{}", view["jobs"]);
    let left = made(&view)["receipt"]["left_out"].to_string();
    assert!(left.contains("the lens does not bend"), "{left}");
    assert_eq!(jobs(&view, "undistort"), 0);

    let terms = json!({ "convention": "undistorted_to_distorted", "terms": { "k1": -0.002 } });
    let lens = json!({ "lens": { "source": "values", "values": terms } });
    assert_eq!(server.edit(shot, lens).await.0, 200);
    let (_, tracks) = server.get(&format!("/api/shots/{shot}/tracks")).await;
    let mut low: Vec<_> = points.iter().filter(|p| p.at[1].abs() < 0.01).collect();
    low.truncate(12);
    let id_of = |name: &str| {
        let all = tracks["tracks"].as_array().unwrap();
        all.iter().find(|t| t["name"] == name)?["id"].as_u64()
    };
    let on: Vec<u64> = low.iter().filter_map(|p| id_of(&p.name)).collect();
    assert!(on.len() > 3, "points on the ground");
    assert_eq!(server.state(shot, &[ground_of(&on)]).await.0, 200);
    server.work(shot, "solve").await;
    let view = server.deliver(shot, "all").await;
    assert_eq!(view["jobs"][0]["state"], "done", "{}", view["jobs"]);
    assert_eq!(jobs(&view, "undistort"), 1, "{}", view["jobs"]);
    let receipt = &made(&view)["receipt"];
    assert_eq!(receipt["left_out"], json!([]));
    assert_eq!(receipt["undistorted"]["proven"], true, "{receipt}");
    assert_eq!(receipt["undistorted"]["frames"], 12);
    assert_eq!(receipt["files_agree"], true);

    // In the package and in the folder: the same twelve pictures, and the ground in the scene.
    let package = server.package(shot).await;
    let inside = pictures(names_zipped(&package).unwrap());
    assert_eq!(inside.len(), 12, "{inside:?}");
    // Numbered as the camera is.
    assert_eq!(receipt["range"], json!([501, 512]));
    let numbered = inside.iter().zip(501..);
    assert!(numbered.clone().count() == 12, "{inside:?}");
    for (name, number) in numbered {
        assert!(
            name.starts_with("undistorted/") && name.contains(&number.to_string()),
            "{name}"
        );
    }
    let scene = text_in(&package, "trial-6-scene-v002.usda");
    assert!(scene.contains("def Xform \"set\""), "{scene}");
    assert!(scene.contains("string label = \"floor\""), "{scene}");
    let words = text_in(&package, "trial-6-README-v002.txt");
    assert!(
        words.contains("The undistorted plate is in undistorted: 12 pictures"),
        "{words}"
    );
    let folder = Path::new(made(&view)["folder"].as_str().unwrap());
    let written = listed(&folder.join("undistorted"));
    assert_eq!(written.len(), 12);
    assert!(
        written
            .iter()
            .zip(&inside)
            .all(|(w, i)| i.ends_with(w.as_str()))
    );
    assert!(folder.join("undistorted/undistort.exr").is_file());

    // It is there: the next delivery does not make it again, one with another lens does.
    let view = server.deliver(shot, "all").await;
    assert_eq!(jobs(&view, "undistort"), 1, "{}", view["jobs"]);
    let keep = json!({ "lens": { "keep": "size" } });
    let (status, view) = server.edit(shot, keep).await;
    assert_eq!(status, 200, "{view}");
    assert_eq!(made(&view)["stale"], true);
    let view = server.deliver(shot, "all").await;
    assert_eq!(jobs(&view, "undistort"), 2, "{}", view["jobs"]);
    assert_eq!(
        made(&view)["receipt"]["undistorted"]["undistorted"],
        json!([320, 180])
    );

    // Cleared away by hand, the download says so and does not hand on half a delivery.
    std::fs::remove_dir_all(data.path().join("undistorted")).unwrap();
    let delivery = &made(&view)["delivery"];
    let path = format!("/api/shots/{shot}/deliveries/{delivery}");
    let (status, said) = server.get(&path).await;
    assert_eq!(status, 404, "{said}");
    assert!(
        said["error"].as_str().unwrap().contains("deliver again"),
        "{said}"
    );
    server.end().await;
}
